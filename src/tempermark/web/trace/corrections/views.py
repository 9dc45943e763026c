"""Pages that correct or withdraw what was entered: pieces, marks, readings and checks; and score
again.
"""

from collections.abc import Callable
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods, require_POST

from tempermark.core.errors import InputError
from tempermark.web.accounts.permissions import must_be_author
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.forms.editing import for_change
from tempermark.web.kit.forms.fields import TemperatureField
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import error_text
from tempermark.web.measure.instruments.forms import CheckCorrectionForm
from tempermark.web.measure.instruments.instruments import CHECKED_WITH
from tempermark.web.measure.models import InstrumentCheck, Reading
from tempermark.web.run.models import Mark, PieceOutcome, TestPress
from tempermark.web.run.pieces import actions as runs
from tempermark.web.run.pieces.forms import PieceCorrectionForm, logged
from tempermark.web.run.pieces.mark_forms import MarkCorrectionForm, OutcomeForm, marked
from tempermark.web.run.pieces.queries import PAGE_ROWS
from tempermark.web.run.pieces.views import piece_context, scored
from tempermark.web.trace.corrections import consequences
from tempermark.web.trace.corrections import pieces as corrections
from tempermark.web.trace.corrections import surveys as survey_corrections

UNMOVED = "Proven settings, lessons and fault rates stay as they were."


@require_http_methods(["GET", "POST"])
def correct_piece(request: Request, pk: int) -> HttpResponse:
    """What was logged of a piece, to be corrected."""
    piece = for_change(request, TestPress.objects.select_related(*PAGE_ROWS), pk=pk)
    must_be_author(request.user, piece.pressed_by_id)
    units = form_units(request)
    form = PieceCorrectionForm(
        request.POST or None, initial=logged(piece), record=piece, units=units
    )
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        sentence = corrections.correct_piece(
            request.user, piece, data, data["why"], request.user.units
        )
        return _done(request, piece, "Corrected: the earlier value is kept below.", sentence)
    context = {"piece": piece, "press": piece.element.press, "form": form}
    status = 422 if form.errors else 200
    return render(request, "trace/correct_piece.html", context, status=status)


@require_POST
def withdraw_piece(request: Request, pk: int) -> HttpResponse:
    """A piece counts no more."""
    piece = for_change(request, TestPress.every.select_related(*PAGE_ROWS), pk=pk)
    return _withdrawn(request, piece, piece, corrections.withdraw_piece)


@require_http_methods(["GET", "POST"])
def correct_mark(request: Request, pk: int) -> HttpResponse:
    """A mark, to be corrected."""
    mark = for_change(request, Mark.objects.select_related("test_press__element__press"), pk=pk)
    piece = mark.test_press
    must_be_author(request.user, mark.marked_by_id or piece.pressed_by_id)
    form = MarkCorrectionForm(
        request.POST or None, initial=marked(mark), record=mark, units=form_units(request)
    )
    if request.method == "POST" and form.is_valid():
        data, units = form.cleaned_data, request.user.units
        try:
            sentence = corrections.correct_mark(request.user, mark, data, data["why"], units)
        except InputError as error:
            form.add_error(None, error_text(error, form_units(request)))
        else:
            return _done(request, piece, "The mark is corrected.", sentence)
    context = {"piece": piece, "press": piece.element.press, "mark": mark, "form": form}
    status = 422 if form.errors else 200
    return render(request, "trace/correct_mark.html", context, status=status)


@require_POST
def withdraw_mark(request: Request, pk: int) -> HttpResponse:
    """A mark counts no more."""
    marks = Mark.every.select_related("test_press__element__press")
    mark = for_change(request, marks, pk=pk)
    return _withdrawn(request, mark.test_press, mark, corrections.withdraw_mark)


def _withdrawn(
    request: Request, piece: TestPress, row: Mark | TestPress, act: Callable[..., Any]
) -> HttpResponse:
    with refusal_shown(request):
        answer = act(request.user, row, request.POST.get("why", ""), request.user.units)
        return _done(request, piece, "Withdrawn: it stays on record, but no longer counts.", answer)
    return redirect(piece)


def _done(request: Request, piece: TestPress, what: str, sentences: list[str]) -> HttpResponse:
    return _corrected(request, piece, what, sentences or [UNMOVED])


@require_http_methods(["GET", "POST"])
def correct_reading(request: Request, pk: int) -> HttpResponse:
    """A reading of a survey, to be corrected."""
    reading = _reading(request, pk)
    must_be_author(request.user, reading.read_by_id)
    typed, why, error = _as_typed(reading, form_units(request)), "", ""
    if request.method == "POST":
        typed, why = request.POST.get("typed", "")[:40], request.POST.get("why", "")
        shown_in, units = request.user.units, form_units(request)
        try:
            sentence = survey_corrections.correct_reading(
                request.user, reading, typed, why, units, shown_in
            )
        except InputError as refused:
            error = error_text(refused, form_units(request))
        else:
            return _corrected(
                request, reading.station.survey, "The reading is corrected.", sentence
            )
    context = {
        "reading": reading,
        "survey": reading.station.survey,
        "press": reading.station.survey.element.press,
        "was": _as_typed(reading, form_units(request)),
        "typed": typed,
        "why": why,
        "error": error,
        "degrees": form_units(request).symbol("temperature"),
    }
    return render(request, "trace/correct_reading.html", context, status=422 if error else 200)


def _as_typed(reading: Reading, units: Units) -> str:
    """A reading as it would be typed in a unit, whatever it was typed in."""
    low, high = (_figure(c, units) for c in (reading.at_least_c, reading.below_c))
    if low and high:
        return f"{low}-{high}"
    if low or high:
        return f"at least {low}" if low else f"below {high}"
    delay_s = reading.seconds_after_opening
    after = "" if delay_s == reading.station.survey.delay_s else f" @{delay_s:g}"
    return f"{_figure(reading.shown_c, units)}{after}"


def _figure(value_c: float | None, units: Units) -> str:
    field = TemperatureField()
    field.use_units(units)
    return field.prepare_value(value_c) or ""


def _reading(request: Request, pk: int) -> Reading:
    rows = Reading.objects.select_related("station__survey__element__press")
    return for_change(request, rows, pk=pk)


@require_POST
def withdraw_reading(request: Request, pk: int) -> HttpResponse:
    """A reading that counts no more."""
    reading = _reading(request, pk)
    survey, units = reading.station.survey, request.user.units
    with refusal_shown(request):
        answer = survey_corrections.withdraw_reading(
            request.user, reading, request.POST.get("why", ""), units
        )
        return _corrected(request, survey, "Withdrawn: the reading stays on record.", answer)
    return redirect(survey)


@require_http_methods(["GET", "POST"])
def correct_check(request: Request, pk: int) -> HttpResponse:
    """A check of an instrument, to be corrected."""
    rows = InstrumentCheck.objects.select_related("instrument")
    check = for_change(request, rows, pk=pk)
    must_be_author(request.user, check.by_id or 0)
    initial = {name: getattr(check, name) for name in ("on", *CHECKED_WITH)}
    form = CheckCorrectionForm(
        request.POST or None, initial=initial, units=form_units(request), record=check
    )
    if request.method == "POST" and form.is_valid():
        units = request.user.units
        sentence = survey_corrections.correct_check(request.user, check, form.cleaned_data, units)
        return _corrected(request, check.instrument, "The check is corrected.", sentence)
    context = {"check": check, "instrument": check.instrument, "form": form}
    status = 422 if form.errors else 200
    return render(request, "trace/correct_check.html", context, status=status)


@require_POST
def withdraw_check(request: Request, pk: int) -> HttpResponse:
    """A check that counts no more."""
    check = for_change(request, InstrumentCheck.every.select_related("instrument"), pk=pk)
    why, units = request.POST.get("why", ""), request.user.units
    with refusal_shown(request):
        sentence = survey_corrections.withdraw_check(request.user, check, why, units)
        what = "Withdrawn: the check stays on record."
        return _corrected(request, check.instrument, what, sentence)
    return redirect(check.instrument)


def _corrected(request: Request, where: Any, what: str, sentences: list[str]) -> HttpResponse:
    messages.success(request, what)
    for text in sentences or ["Nothing else changed by it."]:
        messages.info(request, text)
    return redirect(where)


@require_POST
def score(request: Request, pk: int) -> HttpResponse:
    """Outcome and scores."""
    piece = for_change(request, TestPress.objects.select_related(*PAGE_ROWS), pk=pk)
    form = OutcomeForm(request.POST, initial=scored(piece), record=piece)
    if not form.is_valid():
        context = piece_context(request, piece, outcome_form=form)
        return render(request, "run/test_press.html", context, status=422)
    before = None
    if piece.outcome != PieceOutcome.OPEN:
        before = consequences.resting_on(piece)
    runs.score(request.user, piece, form.scored())
    if before is not None:
        why, units = f"piece {piece.pk} was scored again", request.user.units
        for text in consequences.after_piece(request.user, piece, before, why, units):
            messages.info(request, text)
    return redirect(piece)
