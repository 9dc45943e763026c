"""The room's presses with their state, in a bounded number of queries."""

from collections import defaultdict
from dataclasses import dataclass
from datetime import date, timedelta

from django.apps import apps
from django.db.models import Count, Q
from django.http import Http404
from django.shortcuts import get_object_or_404
from django.utils import timezone

from tempermark.core.metrology.state import (
    DRIFT_LOOK_BACK_DAYS,
    ElementState,
    PastSurvey,
    element_state,
)
from tempermark.web.floor.models import Element, Press


@dataclass(frozen=True)
class PressState:
    """A press, its element in use, the element's state and its open faults."""

    press: Press
    element: Element | None
    state: ElementState
    open_cases: int
    last_survey_pk: int | None
    open_survey_pk: int | None


def floor(today: date | None = None) -> list[PressState]:
    """Every press with its state: four queries, however many presses."""
    today = today or timezone.localdate()
    presses = list(
        Press.objects.annotate(
            open_cases=Count(
                "elements__test_presses__fault_case",
                filter=Q(elements__test_presses__fault_case__closed_at=None),
                distinct=True,
            )
        )
    )
    elements = {e.press_id: e for e in Element.objects.filter(taken_out_on=None).order_by("-pk")}
    surveys = _surveys(today)
    opened = _open_surveys()
    return [_state(p, elements.get(p.pk), surveys, opened, today) for p in presses]


def _survey_model():
    """`measure.Survey` points at this app's models, so it is looked up by name."""
    return apps.get_model("measure", "Survey")


def _surveys(today: date) -> dict[int, list]:
    since = today - timedelta(days=DRIFT_LOOK_BACK_DAYS * 4)
    rows = (
        _survey_model()
        .objects.exclude(finished_at=None)
        .exclude(mean_true_c=None)
        .filter(taken_at__date__gte=since)
        .order_by("taken_at", "pk")
        .values("pk", "element_id", "taken_at", "set_c", "mean_true_c", "mean_uncertainty_c")
    )
    found = defaultdict(list)
    for row in rows:
        found[row["element_id"]].append(row)
    return found


def _open_surveys() -> dict[int, int]:
    rows = _survey_model().objects.filter(finished_at=None).order_by("taken_at")
    return dict(rows.values_list("element_id", "pk"))


def _state(press: Press, element: Element | None, surveys, opened, today: date) -> PressState:
    rows = surveys[element.pk] if element else []
    past = [
        PastSurvey(
            timezone.localtime(r["taken_at"]).date(),
            r["mean_true_c"] - r["set_c"],
            r["mean_uncertainty_c"] or 0.0,
        )
        for r in rows
    ]
    return PressState(
        press=press,
        element=element,
        state=element_state(past, press.survey_every_days, today),
        open_cases=press.open_cases,
        last_survey_pk=rows[-1]["pk"] if rows else None,
        open_survey_pk=opened.get(element.pk) if element else None,
    )


def element_in_use(slug: str) -> Element:
    """The heated element in a press now; Http404 when there is none."""
    press = get_object_or_404(Press, slug=slug)
    element = press.elements.filter(taken_out_on=None).select_related("press").first()
    if element is None:
        raise Http404("This press has no heated element in it.")
    return element
