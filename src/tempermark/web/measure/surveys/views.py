"""Pages of a survey: start, import, read station by station, export."""

from typing import Any

from django import forms
from django.contrib import messages
from django.db.models import prefetch_related_objects
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST
from django_htmx.http import trigger_client_event

from tempermark.core.errors import InputError
from tempermark.core.metrology.map.verdict import classify
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.downloads import attachment
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.forms.numbers import row_key, whole
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.paging import page_of
from tempermark.web.kit.records.correction_words import corrections
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import error_text
from tempermark.web.measure.comparisons import comparisons
from tempermark.web.measure.exchange import export
from tempermark.web.measure.exchange import reading as exchange
from tempermark.web.measure.exchange.reading import ImportedSurvey
from tempermark.web.measure.instruments.first import take_on
from tempermark.web.measure.known.open_verdict import open_text
from tempermark.web.measure.known.remembered import before_survey
from tempermark.web.measure.known.words import as_before
from tempermark.web.measure.models import Reading, Station, Survey
from tempermark.web.measure.press.history import compute_survey
from tempermark.web.measure.surveys import actions, queries
from tempermark.web.measure.surveys.budget import bars
from tempermark.web.measure.surveys.cautions import cautions
from tempermark.web.measure.surveys.charts import platen_chart
from tempermark.web.measure.surveys.forms import ImportForm, SurveyForm, initial_header
from tempermark.web.measure.surveys.grids import KNOWN, SPOT, STEP_BY_STEP
from tempermark.web.measure.surveys.mapping import Measured, StationValue
from tempermark.web.measure.surveys.words import jump_text, progress, verdict
from tempermark.web.presses.queries import element_in_use, with_element

# Finished surveys of a page, and those under way above the first.
LISTED, MOST_UNDER_WAY = 50, 100


@require_GET
def surveys(request: Request) -> HttpResponse:
    """Every survey, newest first, open ones leading."""
    every = queries.all_surveys()
    page = page_of(every.exclude(finished_at=None), request.GET, "taken_at", LISTED)
    under_way = [] if page.newest else list(every.filter(finished_at=None)[:MOST_UNDER_WAY])
    context = {"surveys": [*under_way, *page.rows], "page": page, "presses": with_element()}
    return render(request, "measure/list.html", context)


def _survey(pk: int) -> Survey:
    return get_object_or_404(queries.with_names(Survey.objects), pk=pk)


@require_http_methods(["GET", "POST"])
def new_survey(request: Request, slug: str) -> HttpResponse:
    """Choose stations, method and settings, and start."""
    must_work(request.user)
    element = element_in_use(slug, request.GET.get("element", ""))
    units = form_units(request)
    initial = initial_header(element, queries.latest_survey(element))
    form = SurveyForm(request.POST or None, initial=initial, element=element, units=units)
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        if data.get("at_hand"):
            data["instrument"] = take_on(request.user, data["at_hand"])
        survey = actions.start_survey(request.user, element, form.header(), data["places"])
        return redirect(survey)
    gun = initial.get("instrument")
    context = {
        "press": element.press,
        "element": element,
        "form": form,
        "compared": gun and comparisons.holding(element.press, gun),
        "is_first": queries.latest_survey(element) is None,
    }
    status = 422 if form.errors else 200
    return render(request, "measure/new.html", context, status=status)


@require_http_methods(["GET", "POST"])
def import_survey(request: Request, slug: str) -> HttpResponse:
    """A file in: understood whole or refused with every reason."""
    must_work(request.user)
    element = element_in_use(slug, request.GET.get("element", ""))
    form = ImportForm(request.POST or None, request.FILES or None, units=form_units(request))
    problems: list[Any] = []
    if request.method == "POST" and form.is_valid():
        try:
            imported = exchange.read_file(form.cleaned_data["file"], element)
            _fill_from_form(imported, form)
            key = form_key(request)
            survey = exchange.import_survey(request.user, element, imported, key)
        except InputError as error:
            problems = error.problems
        else:
            messages.success(request, f"{len(imported.stations)} readings imported.")
            return redirect(survey)
    context = {
        "press": element.press,
        "element": element,
        "form": form,
        "problems": problems,
    }
    status = 422 if request.method == "POST" else 200
    return render(request, "measure/import.html", context, status=status)


def _fill_from_form(imported: ImportedSurvey, form: ImportForm) -> None:
    """What the person typed leads; the file fills the rest."""
    for name in ("set_c", "target_c", "tolerance_c"):
        if form.cleaned_data.get(name) is not None:
            imported.header[name] = form.cleaned_data[name]


@require_GET
def survey(request: Request, pk: int) -> HttpResponse:
    """A survey: its chart, its verdict, and the entry while it is open."""
    record = _survey(pk)
    return render(request, "measure/survey.html", bench_context(request, record))


@require_GET
def summary_fragment(request: Request, pk: int) -> HttpResponse:
    """Chart, verdict and figures again, after an entry."""
    context = bench_context(request, _survey(pk)) | {"oob": True}
    return render(request, "measure/_summary.html", context)


@require_GET
def chart_fragment(request: Request, pk: int) -> HttpResponse:
    """The chart and verdict again when somebody else has entered something."""
    record = _survey(pk)
    if str(queries.change_count(record)) == request.GET.get("seen"):
        return HttpResponse(status=204)
    return render(request, "measure/_map.html", bench_context(request, record))


@require_POST
def enter(request: Request, pk: int) -> HttpResponse:
    """One figure for one station."""
    station = get_object_or_404(Station, pk=row_key(request.POST.get("station")), survey_id=pk)
    typed = request.POST.get("typed", "")
    key = form_key(request)
    try:
        computed = actions.enter_reading(request.user, station, typed, key, form_units(request))
    except InputError as error:
        wrong: dict[str, Any] = {"error": error_text(error, form_units(request)), "typed": typed}
        return _entry(request, _survey(pk), station.pk, status=422, **wrong)
    return _entry(request, computed.survey, computed=computed)


@require_POST
def take_back(request: Request, pk: int) -> HttpResponse:
    """Take a reading back."""
    record = _survey(pk)
    try:
        reading = actions.take_back(request.user, record, row_key(request.POST.get("reading")))
    except (Reading.DoesNotExist, ValueError):
        raise Http404("There is no such reading.") from None
    return _entry(request, record, reading.station_id)


@require_POST
def finish(request: Request, pk: int) -> HttpResponse:
    """Close the survey for entry."""
    record = _survey(pk)
    with refusal_shown(request):
        actions.finish(request.user, record)
    return redirect(record)


@require_POST
def reopen(request: Request, pk: int) -> HttpResponse:
    """Open a finished survey again."""
    record = _survey(pk)
    actions.reopen(request.user, record)
    return redirect(record)


@require_GET
def export_json(request: Request, pk: int) -> HttpResponse:
    """The survey as JSON."""
    record = _survey(pk)
    return _download(export.to_json(compute_survey(record)), "application/json", record, "json")


@require_GET
def export_csv(request: Request, pk: int) -> HttpResponse:
    """The survey's true values as CSV."""
    record = _survey(pk)
    return _download(export.to_csv(compute_survey(record)), "text/csv", record, "csv")


def _download(text: str, kind: str, record: Survey, ending: str) -> HttpResponse:
    name = f"{record.element.press.slug}-{record.taken_at:%Y-%m-%d}-{record.pk}.{ending}"
    return attachment(text, kind, name)


def _entry(
    request: Request,
    record: Survey,
    station_pk: int | None = None,
    status: int = 200,
    computed: Measured | None = None,
    **more: Any,
) -> HttpResponse:
    """The entry alone, at once; the page asks for chart and verdict by itself.

    Without scripts the whole page.
    """
    if not request.htmx:
        if status == 200:
            return redirect(record)
        context = bench_context(request, record, station_pk, bool(more)) | more
        return render(request, "measure/survey.html", context, status=status)
    computed = computed or compute_survey(record)
    context = entry_context(request, record, computed, station_pk, bool(more)) | more
    response = render(request, "measure/_entry.html", context, status=status)
    return trigger_client_event(response, "entered") if status == 200 else response


def entry_context(
    request: Request,
    record: Survey,
    computed: Measured,
    station_pk: int | None = None,
    wrong: bool = False,
) -> dict[str, Any]:
    """What the entry shows: nothing that needs the map."""
    open_now = record.finished_at is None
    # What was refused stands in the units it was typed in; a new figure in the reader's own.
    drawn = form_units(request) if wrong else request.user.units
    return {
        "survey": record,
        "press": record.element.press,
        "computed": computed,
        "step_by_step": record.grid in STEP_BY_STEP,
        "current": _current(computed, station_pk or _requested_station(request)),
        "last": _last_reading(computed, request.user) if open_now else None,
        "may_enter": open_now and request.user.may_work,
        "form_unit": drawn,
        "degrees": drawn.symbol("temperature"),
    }


def bench_context(
    request: Request, record: Survey, station_pk: int | None = None, wrong: bool = False
) -> dict[str, Any]:
    """Everything the survey's page shows."""
    units = request.user.units
    computed = compute_survey(record)
    # Whose name stands beside each, in one query.
    prefetch_related_objects([r for s in computed.stations for r in s.readings], "read_by")
    context = entry_context(request, record, computed, station_pk, wrong)
    line = queries.calibration(record.element, record)
    if record.finished_at is None:
        computed.prepare_next()
    verdict_words = verdict(computed, line.gain if line else 1.0, units)
    current = context["current"]
    marked = current.station.pk if current and record.finished_at is None else None
    return context | {
        "verdict": verdict_words,
        "line": line,
        "chart": platen_chart(
            computed, verdict_words.rectangle, units, marked, verdict_words.shift_c
        ),
        "decides": _decides(computed),
        "progress": progress(computed, units),
        "memory": memory_text(computed, units),
        "open": open_text(computed, units) if _stays_open(record, computed) else "",
        "jump": jump_text(record, queries.before(record), units) if record.finished_at else "",
        "cautions": cautions(computed, units),
        "budgets": bars(computed),
        "seen": queries.change_count(record),
        "corrections": corrections(record, forms.Form()),
    }


def _stays_open(record: Survey, computed: Measured) -> bool:
    """Whether a finished survey has no verdict on the whole element."""
    mapped = computed.result.map if computed.result else None
    done = record.finished_at is not None and record.grid != SPOT
    return done and mapped is not None and classify(mapped.probability_within) == "undecided"


def memory_text(computed: Measured, units: Units) -> str:
    """Whether a known element is as before; that an earlier survey it rests on was changed."""
    if computed.survey.grid != KNOWN:
        return ""
    before = before_survey(computed.survey)[:1]
    since = timezone.localtime(before[0].taken_at).date() if before else None
    text = as_before(computed, since, units)
    changed = (computed.survey.memory or {}).get("changed_on")
    if not changed:
        return text
    again = f"A survey that this one rests on was changed on {changed}: it was computed again."
    return f"{text} {again}".strip()


def _last_reading(computed: Measured, user: User) -> Reading | None:
    """The last live reading this person entered, for taking back."""
    own = (r for s in computed.stations for r in s.readings if r.read_by_id == user.pk)
    return max(own, key=lambda reading: reading.pk, default=None)


def _requested_station(request: Request) -> int | None:
    text = request.GET.get("station", "")
    return whole(text)


def _current(computed: Measured, station_pk: int | None) -> StationValue | None:
    """The station asked for, else the first one still to be read."""
    chosen = [s for s in computed.stations if s.station.pk == station_pk]
    if chosen:
        return chosen[0]
    return computed.left[0] if computed.left else None


def _decides(computed: Measured) -> StationValue | None:
    """The unread station nearest to where one more reading decides most."""
    mapped = computed.result.map if computed.result else None
    if mapped is None or mapped.next_point is None or not computed.left:
        return None
    x, y = mapped.next_point
    return min(computed.left, key=lambda s: (s.station.x_mm - x) ** 2 + (s.station.y_mm - y) ** 2)
