"""Which pieces were pressed while a press was off, and which rest on a survey or an instrument."""

from typing import Any

from django.db.models import Q, QuerySet
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.utils import timezone
from django.views.decorators.http import require_GET

from tempermark.web.accounts.requests import Request
from tempermark.web.kit.downloads import attachment
from tempermark.web.kit.figures import difference_text
from tempermark.web.kit.forms import tables
from tempermark.web.kit.forms.fields import as_typed
from tempermark.web.kit.forms.units import form_units
from tempermark.web.logbook.filters import page_of, survey_window
from tempermark.web.logbook.forms import WhileOffForm
from tempermark.web.logbook.off import FOUND, LOW, PressWhileOff, pressed_while_off
from tempermark.web.measure.models import Instrument, Survey
from tempermark.web.run.models import TestPress

USUAL = {"by_k": 5.0, "side": LOW}
# Further than this nobody counts.
MOST_COUNTED = 500
PAGE = 40
COLUMNS = (
    "piece",
    "pressed_at",
    "press",
    "recipe",
    "blank",
    "dial_c",
    "true_c",
    "off_k",
    "outside_window_k",
    "known",
    "survey",
    "outcome",
)


@require_GET
def while_off(request: Request) -> HttpResponse:
    """The question, and its answer."""
    form = _form(request)
    context: dict[str, Any] = {"form": form}
    if "press" in request.GET and form.is_valid():
        found = _found(form)
        press, side = form.cleaned_data["press"], form.cleaned_data["side"]
        by = difference_text(form.cleaned_data["by_k"], request.user.units, 0, sign=False)
        outside = [row for row in found if row.outside_k]
        context |= {
            "rows": found[:PAGE],
            "count": len(found),
            "outside": len(outside),
            "sure": sum(row.how == FOUND for row in found),
            "asked": f"{press.name} was at least {by} {'off' if side == 'either' else side}",
            "press": press,
            "query": request.GET.urlencode(),
        }
    return render(request, "logbook/while_off.html", context, status=_status(form))


def _form(request: Request) -> WhileOffForm:
    units = form_units(request)
    given: Any = request.GET if "press" in request.GET else as_typed(WhileOffForm, USUAL, units)
    form = WhileOffForm(given, units=units)
    if "press" not in request.GET:
        form.errors.clear()
    return form


def _status(form: WhileOffForm) -> int:
    return 422 if form.errors else 200


def _found(form: WhileOffForm) -> list[PressWhileOff]:
    data = form.cleaned_data
    presses = TestPress.objects.filter(step_number=None).filter(_between(data))
    found: list[PressWhileOff] = []
    for element in data["press"].elements.all():
        found += pressed_while_off(element, presses, data["by_k"], data["side"])
    if data["outside"]:
        found = [row for row in found if row.outside_k]
    return sorted(found, key=lambda row: row.press.pressed_at, reverse=True)


def _between(data: dict[str, Any]) -> Q:
    found = Q()
    if data.get("since"):
        found &= Q(pressed_at__date__gte=data["since"])
    if data.get("until"):
        found &= Q(pressed_at__date__lte=data["until"])
    return found


@require_GET
def export(request: Request, kind: str) -> HttpResponse:
    """The answer as a file."""
    form = _form(request)
    if kind not in ("csv", "json") or not form.is_valid():
        raise Http404("There is no such file.")
    rows = [_cells(row) for row in _found(form)]
    name = f"while-off.{kind}"
    if kind == "csv":
        return attachment(tables.to_csv(COLUMNS, rows), "text/csv", name)
    text = tables.to_json("tempermark.while-off/1", "pieces", rows)
    return attachment(text, "application/json", name)


def _cells(row: PressWhileOff) -> dict[str, Any]:
    press = row.press
    return {
        "piece": press.piece.code,
        "pressed_at": timezone.localtime(press.pressed_at).isoformat(timespec="seconds"),
        "press": press.element.press.name,
        "recipe": press.recipe.recipe.name,
        "blank": press.blank.name,
        "dial_c": round(press.set_c, 1),
        "true_c": round(row.true_c, 1),
        "off_k": round(row.offset_k, 1),
        "outside_window_k": round(row.outside_k, 1),
        "known": row.how,
        "survey": row.survey.pk,
        "outcome": press.outcome,
    }


@require_GET
def of_survey(request: Request, pk: int) -> HttpResponse:
    """The pieces that rest on a survey."""
    survey = get_object_or_404(Survey.objects.select_related("element__press"), pk=pk)
    rows = TestPress.objects.filter(survey_window(survey))
    title = f"the survey of {survey.element.press.name}, {survey.taken_at:%Y-%m-%d}"
    return _resting(request, rows, title, survey.get_absolute_url())


@require_GET
def of_instrument(request: Request, pk: int) -> HttpResponse:
    """The pieces whose surveys were read with an instrument."""
    instrument = get_object_or_404(Instrument, pk=pk)
    windows = Q(pk__in=[])
    for survey in instrument.surveys.exclude(finished_at=None).select_related("element"):
        windows |= survey_window(survey)
    rows = TestPress.objects.filter(windows)
    return _resting(request, rows, instrument.name, instrument.get_absolute_url())


def _resting(request: Request, rows: QuerySet[TestPress], title: str, address: str) -> HttpResponse:
    ordered = rows.order_by("-pressed_at", "-pk")
    page = page_of(ordered, request.GET.get("after", ""), PAGE)
    context = {
        "rows": page.rows,
        "count": rows.order_by()[: MOST_COUNTED + 1].count(),
        "most": MOST_COUNTED,
        "title": title,
        "address": address,
        "next": f"?after={page.after}" if page.after else "",
    }
    return render(request, "logbook/resting.html", context)
