"""The room's presses with their state, in a bounded number of queries."""

from collections import defaultdict
from dataclasses import dataclass, replace
from datetime import date, timedelta

import numpy as np
from django.apps import apps
from django.db.models import Case, Count, F, Q, When
from django.http import Http404
from django.shortcuts import get_object_or_404
from django.utils import timezone

from tempermark.core.constants import COVERAGE_FACTOR
from tempermark.core.metrology.calibration import LEAST_SETTING_SPAN_C, anchored_line
from tempermark.core.metrology.state import (
    ElementState,
    PastSurvey,
    element_state,
)
from tempermark.web.pressure.queries import newest_maps
from tempermark.web.floor.models import Element, ElementRole, Press
from tempermark.web.kit.asked import whole
from tempermark.web.measure.grids import SPOT

# Older surveys say nothing about a press as it is now.
STATE_LOOK_BACK_DAYS = 720


@dataclass(frozen=True)
class PressState:
    """A press, its element in use, the element's state and its open faults."""

    press: Press
    element: Element | None
    state: ElementState
    open_cases: int
    open_survey_pk: int | None
    offsets: tuple[tuple[date, float, bool], ...] = ()
    # What its newest pressure map found wrong, in words; empty when nothing or unknown.
    weak_words: str = ""

    @property
    def measured_before(self) -> bool:
        """Whether there was a map that became history."""
        return self.element is not None and self.element.map_since is not None


def floor(today: date | None = None, chosen: dict[int, Element] | None = None) -> list[PressState]:
    """Every press with its state: five queries, however many presses.

    The state is that of the element leading in a press, or of the one `chosen` for it (by the
    press's key).
    """
    today = today or timezone.localdate()
    presses = list(
        Press.objects.annotate(
            open_cases=Count(
                "elements__test_presses__fault_cases",
                filter=Q(
                    elements__test_presses__fault_cases__closed_at=None,
                    elements__test_presses__fault_cases__seems_normal=False,
                    elements__test_presses__withdrawn_at=None,
                ),
                distinct=True,
            )
        )
    )
    elements = {e.press_id: e for e in fitted_first().reverse()} | (chosen or {})
    surveys = _surveys(today)
    opened, pressed = _open_surveys(), newest_maps()
    states = (_state(p, elements.get(p.pk), surveys, opened, today) for p in presses)
    return [replace(s, weak_words=_weak_words(s.element, pressed)) for s in states]


def _weak_words(element: Element | None, pressed: dict) -> str:
    newest = pressed.get(element.pk) if element else None
    return newest.weak_words if newest else ""


def _survey_model():
    """`measure.Survey` points at this app's models, so it is looked up by name."""
    return apps.get_model("measure", "Survey")


def _surveys(today: date) -> dict[int, list]:
    since = today - timedelta(days=STATE_LOOK_BACK_DAYS)
    rows = (
        _survey_model()
        .objects.exclude(finished_at=None)
        .exclude(mean_true_c=None)
        .filter(taken_at__date__range=(since, today))
        .filter(Q(element__map_since=None) | Q(taken_at__gte=F("element__map_since")))
        .order_by("taken_at", "pk")
        .values(
            "pk",
            "element_id",
            "taken_at",
            "set_c",
            "mean_true_c",
            "mean_uncertainty_c",
            "common_uncertainty_c",
            "grid",
            "method",
            "instrument__name",
            "comparison_id",
        )
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
    stretch = _gain(rows) - 1
    past = [
        PastSurvey(
            timezone.localtime(r["taken_at"]).date(),
            r["mean_true_c"] - r["set_c"] - stretch * (r["set_c"] - rows[-1]["set_c"]),
            r["mean_uncertainty_c"] or 0.0,
            r["grid"] != SPOT,
            _read_with(r),
            r["common_uncertainty_c"] or 0.0,
        )
        for r in rows
    ]
    return PressState(
        press=press,
        element=element,
        state=element_state(past, press.survey_every_days, today, press.tolerance_c),
        open_cases=press.open_cases,
        open_survey_pk=opened.get(element.pk) if element else None,
        offsets=_as_charted(past),
    )


def _gain(rows: list[dict]) -> float:
    """True degrees for one on the dial: surveys at other settings are no drift."""
    settings = np.array([r["set_c"] for r in rows])
    if len(rows) < 2 or np.ptp(settings) < LEAST_SETTING_SPAN_C:
        return 1.0
    means = np.array([r["mean_true_c"] for r in rows])
    spread = np.array([(r["mean_uncertainty_c"] or 0.0) / COVERAGE_FACTOR for r in rows])
    common = np.array([r["common_uncertainty_c"] or 0.0 for r in rows])
    own = np.sqrt(np.maximum(spread**2 - common**2, 0.0))
    return anchored_line(settings, means, own, float(spread[-1])).gain


def _read_with(row: dict) -> str:
    """What shares one common error: instrument, way of reading, and comparison."""
    compared = f", compared {row['comparison_id']}" if row["comparison_id"] else ""
    return f"{row['instrument__name'] or row['method']}{compared}"


def _as_charted(past: list[PastSurvey]) -> tuple[tuple[date, float, bool], ...]:
    """Day, offset and fullness of each survey, oldest first."""
    return tuple((p.day, p.offset_c, p.full) for p in sorted(past, key=lambda p: p.day))


def fitted_first():
    """Elements that are in a press, the upper ones leading."""
    upper_first = Case(When(role=ElementRole.UPPER, then=0), default=1)
    return Element.objects.filter(taken_out_on=None).order_by(upper_first, "pk")


def element_in_use(slug: str, asked: str = "") -> Element:
    """The heated element in a press now, or the one asked for; Http404 when there is none."""
    press = get_object_or_404(Press, slug=slug)
    fitted = fitted_first().filter(press=press).select_related("press")
    if (number := whole(asked)) is not None:
        fitted = fitted.filter(pk=number)
    element = fitted.first()
    if element is None:
        raise Http404("This press has no heated element in it.")
    return element
