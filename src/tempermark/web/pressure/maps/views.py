"""Mapping pressure: strips station by station, scanned prints, and both maps on one platen."""

from io import BytesIO
from typing import Any

import numpy as np
from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET, require_http_methods, require_POST
from PIL import Image

from tempermark.core.errors import InputError
from tempermark.core.pressure.memory.steps import StandingStrips
from tempermark.stand_ins.carbon_print import PressedPad, scanned_print
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.downloads import attachment
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.forms.numbers import row_key, whole
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import error_text
from tempermark.web.measure.surveys.grids import KNOWN, grid_places
from tempermark.web.presses.models import Element, Press
from tempermark.web.presses.queries import element_in_use
from tempermark.web.pressure import mapping, queries
from tempermark.web.pressure.forms import PrintForm, PullFileForm, PullStartForm
from tempermark.web.pressure.maps import actions, charts, exchange, export, remembered, words
from tempermark.web.pressure.models import PressureSurvey, Pull, PullStation

# The made-up scan stays this small.
SAMPLE_PIXELS = 900


def _survey(pk: int) -> PressureSurvey:
    found = PressureSurvey.objects.select_related("element__press", "taken_by", "blank", "print")
    return get_object_or_404(found, pk=pk)


def _stack(press: Press) -> float:
    state = queries.state(press)
    return state.stack_mm if state else 0.0


@require_http_methods(["GET", "POST"])
def new_pulls(request: Request, slug: str) -> HttpResponse:
    """Start pulling strips."""
    must_work(request.user)
    element = element_in_use(slug, request.GET.get("element", ""))
    form = _pull_form(request, element, request.POST or None)
    if request.method == "POST" and form.is_valid():
        fields = dict(form.cleaned_data)
        grid = fields.pop("grid")
        state = queries.state(element.press)
        # A known press is asked about at the same stations, as many as are needed.
        lines = "3x3" if grid == KNOWN else grid
        places = grid_places(lines, element.width_mm, element.height_mm)
        fields["blank"] = state.blank if state else None
        survey = actions.start_pulls(request.user, element, grid, places, fields)
        return redirect(survey)
    context = _pulls_page(element, form, form_units(request))
    return render(request, "pressure/new_pulls.html", context, status=422 if form.errors else 200)


@require_POST
def import_pulls(request: Request, slug: str) -> HttpResponse:
    """Strips from a file: understood whole or refused with every reason."""
    must_work(request.user)
    element = element_in_use(slug, request.GET.get("element", ""))
    form = PullFileForm(request.POST, request.FILES, units=form_units(request))
    problems: list[Any] = []
    if form.is_valid():
        try:
            given = exchange.read_pulls(form.cleaned_data["file"].read(), element)
            key = form_key(request)
            record = exchange.import_pulls(request.user, element, given, key, _stack(element.press))
        except InputError as error:
            problems = error.problems
        else:
            messages.success(request, f"{len(given.pulls)} strips imported.")
            return redirect(record)
    context = _pulls_page(element, _pull_form(request, element), form_units(request))
    context |= {"file_form": form, "problems": problems}
    return render(request, "pressure/new_pulls.html", context, status=422)


def _pull_form(request: Request, element: Element, data: Any = None) -> PullStartForm:
    known = remembered.is_known(element)
    initial = {"grid": KNOWN if known else "3x3", "stack_mm": _stack(element.press)}
    return PullStartForm(data, initial=initial, units=form_units(request), is_known=known)


def _pulls_page(element: Element, form: PullStartForm, units: Units) -> dict[str, Any]:
    return {
        "press": element.press,
        "element": element,
        "form": form,
        "file_form": PullFileForm(units=units),
    }


@require_http_methods(["GET", "POST"])
def new_print(request: Request, slug: str) -> HttpResponse:
    """A scan in: read whole or refused with the reason."""
    must_work(request.user)
    element = element_in_use(slug, request.GET.get("element", ""))
    initial = {"bar_mm": 100.0, "stack_mm": _stack(element.press)}
    form = PrintForm(
        request.POST or None, request.FILES or None, initial=initial, units=form_units(request)
    )
    if request.method == "POST" and form.is_valid():
        fields = dict(form.cleaned_data)
        raw = fields.pop("file").read()
        try:
            survey = actions.keep_print(
                request.user,
                element,
                raw,
                fields.pop("bar_mm"),
                fields.pop("known_mean_kpa"),
                fields,
            )
        except InputError as error:
            form.add_error("file", error_text(error, form_units(request)))
        else:
            messages.success(request, "The print has been read and saved.")
            return redirect(survey)
    context = {"press": element.press, "element": element, "form": form}
    context["sample_bar_mm"] = _sample_bar_mm(element)
    return render(request, "pressure/new_print.html", context, status=422 if form.errors else 200)


@require_GET
def survey(request: Request, pk: int) -> HttpResponse:
    """A pressure map: strips under way, or what a finished one says."""
    return render(request, "pressure/survey.html", _bench(request, _survey(pk)))


def _bench(
    request: Request, record: PressureSurvey, station_pk: int | None = None
) -> dict[str, Any]:
    computed = mapping.compute(record)
    open_now = record.finished_at is None
    context: dict[str, Any] = {
        "survey": record,
        "press": record.element.press,
        "computed": computed,
        "may_enter": open_now and request.user.may_work and record.kind == "strips",
    }
    if computed is not None:
        name = record.element.called
        context |= {
            "headline": words.mapped_headline(computed, name),
            "lead": words.mapped_lead(computed, request.user.units),
            "steps": words.what_to_do(computed, record.element.press.kind, request.user.units),
        }
    if record.kind == "print":
        return context | {
            "chart": charts.print_chart(computed, request.user.units),
            "print": record.print,
        }
    stations = queries.stations(record)
    standing = computed.standing if computed else remembered.standing(record, stations)
    before = remembered.earlier(record.element, record.taken_at) if standing else []
    chosen = station_pk or _requested(request)
    current = _current(stations, chosen, standing) if open_now else None
    return context | {
        "memory": words.memory_text(record, standing, before, request.user.units),
        "rests_on": words.rests_on_text(before),
        "is_enough": standing is not None and standing.is_enough,
        "stations": stations,
        "current": current,
        "pulled": sum(1 for s in stations if s.held),
        "last": queries.last_pull(record, request.user) if open_now else None,
        "chart": charts.strip_chart(
            record, stations, computed, request.user.units, current.pk if current else None
        ),
    }


def _requested(request: Request) -> int | None:
    text = request.GET.get("station", "")
    return whole(text)


def _current(
    stations: list[PullStation], station_pk: int | None, standing: StandingStrips | None
) -> PullStation | None:
    """The station that was chosen, else the one that tells most of a known press, else the first
    without a strip.
    """
    chosen = next((s for s in stations if s.pk == station_pk), None)
    if chosen is not None:
        return chosen
    if standing is None:
        return next((s for s in stations if s.held is None), None)
    return None if standing.next_station is None else stations[standing.next_station]


def _after(
    request: Request,
    record: PressureSurvey,
    station_pk: int | None = None,
    status: int = 200,
    **more: Any,
) -> HttpResponse:
    """The bench again; the whole page without scripts."""
    if not request.htmx and status == 200:
        return redirect(record)
    context = _bench(request, record, station_pk) | more
    template = "pressure/_bench.html" if request.htmx else "pressure/survey.html"
    return render(request, template, context, status=status)


@require_POST
def enter(request: Request, pk: int) -> HttpResponse:
    """How one strip behaved."""
    record = _survey(pk)
    station = get_object_or_404(PullStation, pk=row_key(request.POST.get("station")), survey=record)
    typed = request.POST.get("pull") or request.POST.get("typed", "")
    key = form_key(request)
    try:
        actions.enter_pull(request.user, station, typed, key)
    except InputError as error:
        wrong = {"error": error_text(error, form_units(request)), "typed": typed}
        return _after(request, record, station.pk, status=422, **wrong)
    return _after(request, record)


@require_POST
def take_back(request: Request, pk: int) -> HttpResponse:
    """Take a strip back."""
    record = _survey(pk)
    try:
        pull = actions.take_back_pull(request.user, record, row_key(request.POST.get("taken")))
    except (Pull.DoesNotExist, ValueError):
        raise Http404("There is no such strip.") from None
    return _after(request, record, pull.station_id)


@require_POST
def finish(request: Request, pk: int) -> HttpResponse:
    """Close for entry."""
    record = _survey(pk)
    with refusal_shown(request):
        actions.finish(request.user, record)
    return redirect(record)


@require_POST
def reopen(request: Request, pk: int) -> HttpResponse:
    """Open strips again."""
    record = _survey(pk)
    if record.kind != "strips":
        raise Http404("A print is scanned again, not reopened.")
    actions.reopen(request.user, record)
    return redirect(record)


def _sample_bar_mm(element: Element) -> float:
    return min(100.0, round(0.5 * element.width_mm))


@require_GET
def sample_print(request: Request, slug: str) -> HttpResponse:
    """A made-up scan of this platen, to try the reading with."""
    element = element_in_use(slug)
    size = (element.width_mm, element.height_mm)
    hollow = (0.45 * size[0], 0.55 * size[1], 0.5, 0.16 * size[0], 0.14 * size[1])
    pressed = PressedPad(1.5, 0.6, 0.0, (hollow,))
    per_mm = min(1.5, SAMPLE_PIXELS / max(size))
    rng = np.random.default_rng(1)
    scan = scanned_print(pressed, size, rng, per_mm, turned_deg=0.8, bar_mm=_sample_bar_mm(element))
    picture = BytesIO()
    Image.fromarray(scan).save(picture, "PNG")
    return attachment(picture.getvalue(), "image/png", f"{slug}-made-up-print.png")


@require_GET
@cache_control(private=True, max_age=86400)
def picture(request: Request, pk: int) -> HttpResponse:
    """The scan as kept."""
    record = get_object_or_404(PressureSurvey, pk=pk, kind="print")
    return HttpResponse(bytes(record.print.image), content_type="image/jpeg")


@require_GET
def export_json(request: Request, pk: int) -> HttpResponse:
    """A survey by strips as a valid input of the `survey` command; a print as its cells."""
    record = _survey(pk)
    return _download(export.to_json(record), "application/json", record, "json")


@require_GET
def export_csv(request: Request, pk: int) -> HttpResponse:
    """Stations or cells as CSV."""
    record = _survey(pk)
    return _download(export.to_csv(record), "text/csv", record, "csv")


def _download(text: str, kind: str, record: PressureSurvey, ending: str) -> HttpResponse:
    name = f"{record.element.press.slug}-pressure-{record.taken_at:%Y-%m-%d}-{record.pk}.{ending}"
    return attachment(text, kind, name)
