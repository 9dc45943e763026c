"""The floor and a press's page."""

from typing import Any

import numpy as np
from django.conf import settings
from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpResponse, HttpResponseBadRequest
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.html import escape
from django.views.decorators.http import require_GET, require_POST

from tempermark.core.errors import InputError
from tempermark.core.pressure.map.level import LEVEL_ENOUGH_MM
from tempermark.web.accounts.requests import Request
from tempermark.web.bench.queries import bench_states
from tempermark.web.experiments.washing.queries import due
from tempermark.web.heat.recipe.presses import open_requests
from tempermark.web.kit.downloads import named
from tempermark.web.kit.figures import temperature_text
from tempermark.web.kit.forms.numbers import number
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import error_text
from tempermark.web.live.page.queries import DEFAULT_WINDOW_MIN, key_on
from tempermark.web.live.page.views import panel
from tempermark.web.measure.models import Instrument, Survey
from tempermark.web.measure.press import state_words
from tempermark.web.measure.press.history import SurveyHistory, compute_survey
from tempermark.web.measure.surveys import queries as surveys
from tempermark.web.measure.surveys.budget import bars
from tempermark.web.measure.surveys.cautions import cautions
from tempermark.web.measure.surveys.charts import platen_chart
from tempermark.web.measure.surveys.words import jump_text, verdict
from tempermark.web.overview import queries, words
from tempermark.web.overview.backup_views import backup_state
from tempermark.web.overview.calendar import feed, new_feed, person_of
from tempermark.web.overview.charts import drift_chart
from tempermark.web.presses import actions
from tempermark.web.presses.forms import PlatenPlaceForm
from tempermark.web.presses.models import Element, Press
from tempermark.web.presses.photos import shown
from tempermark.web.presses.queries import element_in_use, fitted_first
from tempermark.web.presses.register_words import register_rows
from tempermark.web.pressure import queries as pressures
from tempermark.web.pressure.maps.charts import tilt_history
from tempermark.web.pressure.setting.words import state_text
from tempermark.web.run.pieces import queries as runs
from tempermark.web.trace.board import queries as cases

# Runs under way that the floor names; the rest is on the page of benches.
MOST_RUNNING = 8


@require_GET
def floor(request: Request) -> HttpResponse:
    """Every press with its state in words."""
    units = request.user.units
    today = timezone.localdate()
    entries = queries.floor(today)
    rows = [
        {
            "entry": entry,
            "display": state_words.display_words(entry.state, units),
            "due": state_words.due_words(entry.state, today),
            "drift": state_words.leaving_words(entry.state, entry.press.tolerance_c, units)
            or state_words.unusual_words(entry.state),
            "sign": words.sign_of(entry),
            "soon": words.drifts_out_soon(entry),
        }
        for entry in entries
    ]
    context: dict[str, Any] = {"rows": rows, "sentence": words.floor_sentence(entries)}
    context["notes"] = words.floor_notes(entries)
    context["washes"] = [row for row in due() if row.is_ready]
    context["running"] = bench_states()[:MOST_RUNNING]
    context["may_practise"] = bool(settings.LAUNCHER) and not settings.DEMO
    context["backups"] = backup_state()
    if request.user.may_lead:
        context["requests"] = open_requests()
    return render(request, "overview/floor.html", context)


@require_GET
def press(request: Request, slug: str) -> HttpResponse:
    """One press: its verdict, its map, and what was done on it."""
    record = get_object_or_404(Press, slug=slug)
    units = request.user.units
    today = timezone.localdate()
    fitted = list(fitted_first().filter(press=record))
    query = next((e for e in fitted if str(e.pk) == request.GET.get("element")), None)
    states = queries.floor(today, {record.pk: query} if query else None)
    entry = next(e for e in states if e.press.pk == record.pk)
    context: dict[str, Any] = {
        "press": record,
        "entry": entry,
        "display": state_words.display_words(entry.state, units),
        "due": state_words.due_words(entry.state, today),
        "drift": state_words.drift_words(entry.state, units),
        "leaving": state_words.leaving_words(entry.state, record.tolerance_c, units),
        "soon": words.drifts_out_soon(entry),
        "chart_words": state_words.chart_words(entry.state),
        "drift_chart": drift_chart(entry, units),
        "surveys": surveys.finished(entry.element)[:12] if entry.element else [],
        "test_presses": runs.of_press(record)[:8],
        "ahead": surveys.dated_ahead(entry.element) if entry.element else [],
        "photos": shown(record)[:4],
        "register": register_rows(record, fitted, units, today),
        "fitted": fitted,
        **_pressure(record, entry.element, units),
        "leading": query is None or query == fitted[0],
        "cases": cases.of_press(record)[:6],
    }
    latest = surveys.latest_survey(entry.element) if entry.element else None
    if latest is not None:
        context |= _map(latest, units)
    if entry.element is not None and key_on(entry.element) is not None:
        context["live"] = panel(entry.element, units, DEFAULT_WINDOW_MIN)
        context["has_logger"] = True
    return render(request, "overview/press.html", context)


def _pressure(record: Press, element: Element | None, units: Units) -> dict[str, Any]:
    """How the press stands, its newest pressure map, and how level it lay over time."""
    by_feel = pressures.lesson(record) is None
    maps = list(pressures.surveys(element)[:24]) if element else []
    return {
        "pressure_words": state_text(pressures.state(record), record.name, units, by_feel),
        "pressed": pressures.latest(element) if element else None,
        "tilt": tilt_history(maps, LEVEL_ENOUGH_MM, units),
    }


def _map(survey: Survey, units: Units) -> dict[str, Any]:
    computed = compute_survey(survey)
    line = surveys.calibration(survey.element, survey)
    moved = SurveyHistory(survey.element).level_since(line, survey, None)
    shift = moved.shift_c if moved else 0.0
    verdict_words = verdict(computed, line.gain if line else 1.0, units, shift)
    return {
        "moved": words.moved_words(moved, units),
        "jump": jump_text(survey, surveys.before(survey), units),
        "survey": survey,
        "computed": computed,
        "verdict": verdict_words,
        "line": line,
        "cautions": cautions(computed, units),
        "budgets": bars(computed),
        "chart": platen_chart(
            computed, verdict_words.rectangle, units, shift_c=verdict_words.shift_c
        ),
    }


@require_GET
def place_sentence(request: Request, slug: str) -> HttpResponse:
    """What to set for a print at one place of the platen."""
    element = element_in_use(slug, request.GET.get("element", ""))
    form = PlatenPlaceForm(request.GET, units=form_units(request))
    if not form.is_valid():
        return HttpResponse(
            escape(" ".join(str(e) for found in form.errors.values() for e in found))
        )
    place = np.array([[form.cleaned_data["x_mm"], form.cleaned_data["y_mm"]]])
    summary = words.place_words_for(element, place, timezone.now(), request.user.units)
    return HttpResponse(escape(summary))


@require_GET
def due_calendar(request: Request) -> HttpResponse:
    """Due surveys and checks as a calendar file."""
    return named(_calendar(), "tempermark-due.ics")


@login_not_required
@require_GET
def feed_of(request: Request, token: str) -> HttpResponse:
    """The same for a calendar that subscribed: the token is the way in."""
    if person_of(token) is None:
        raise Http404("This address is not valid, or no longer.")
    response = _calendar()
    response["Cache-Control"] = "private, no-store"
    return response


@require_POST
def make_new_feed(request: Request) -> HttpResponse:
    """Another address for this person's calendar."""
    new_feed(request.user)
    messages.success(request, "The old calendar address no longer works: subscribe to the new one.")
    return redirect("overview:files")


def _calendar() -> HttpResponse:
    instruments = Instrument.objects.filter(retired=False)
    text = feed(queries.floor(), instruments, pressures.worn(), timezone.now())
    return HttpResponse(text, content_type="text/calendar; charset=utf-8")


@require_POST
def use_setting(request: Request, slug: str) -> HttpResponse:
    """Note what the dial was set to."""
    record = get_object_or_404(Press, slug=slug)
    set_c = number(request.POST.get("set_c"))
    if set_c is None:
        return HttpResponseBadRequest("The setting is not a number.")
    try:
        actions.use_setting(request.user, record, set_c)
    except InputError as error:
        return HttpResponseBadRequest(error_text(error, form_units(request)))
    shown = temperature_text(set_c, request.user.units)
    messages.success(request, f"{record.name}’s dial is recorded at {shown}.")
    return redirect(record)
