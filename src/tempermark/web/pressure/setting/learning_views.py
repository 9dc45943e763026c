"""Learning a press's pressure: shims at a knob, contact readings, a person's lean, wear."""

from typing import Any

from django.contrib import messages
from django.forms import formset_factory
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST

from tempermark.core.errors import InputError
from tempermark.core.pressure.press.contact import class_of
from tempermark.core.pressure.press.knob import Knob
from tempermark.web.accounts.permissions import must_be_author, must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.figures import length_text
from tempermark.web.kit.forms.numbers import row_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.records.correction_words import corrections
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import error_text
from tempermark.web.presses.models import Press
from tempermark.web.pressure import actions, mapping, queries
from tempermark.web.pressure.forms import (
    MOST_SHIMS,
    LeanForm,
    ReadingForm,
    SessionWords,
    ShimForm,
    WearForm,
)
from tempermark.web.pressure.models import (
    ContactReading,
    KnobLesson,
    LeanReading,
    WearingPart,
)
from tempermark.web.pressure.setting import words
from tempermark.web.pressure.setting.views import _element, _press

SHIM_ROWS = 4


SCALE_FIGURES = (1, 2, 3, 4, 5, 6, 7, 8, 9)


@require_http_methods(["GET", "POST"])
def learn(request: Request, slug: str) -> HttpResponse:
    """A guided session: shims for a knob, readings for a scale, cylinders, strips."""
    press = _press(slug)
    session = _to_correct(request, press)
    formset_of = formset_factory(ShimForm, extra=SHIM_ROWS, max_num=MOST_SHIMS)
    noted = session.shims if session else []
    formset = formset_of(
        request.POST or None,
        initial=[{"shim_mm": mm, "turns": turns} for mm, turns in noted],
        form_kwargs={"units": form_units(request)},
    )
    problems: list[Any] = []
    if request.method == "POST":
        must_work(request.user)
        if formset.is_valid():
            rows = [f.cleaned_data for f in formset if f.cleaned_data.get("shim_mm") is not None]
            try:
                sentence = _learn(
                    request, press, session, [(r["shim_mm"], r["turns"]) for r in rows]
                )
            except InputError as error:
                problems = error.problems
            else:
                messages.success(request, sentence)
                return redirect("pressure:learn", slug)
    wrong = bool(problems) or (request.method == "POST" and not formset.is_valid())
    context = _lesson_context(request, press) | {
        "formset": formset,
        "problems": problems,
        "session": session,
        "why": request.POST.get("why", ""),
    }
    return render(request, "pressure/learn.html", context, status=422 if wrong else 200)


def _to_correct(request: Request, press: Press) -> KnobLesson | None:
    """The session that is corrected, where one is."""
    query = request.POST if request.method == "POST" else request.GET
    session = press.knob_lessons.filter(pk=row_key(query.get("correct"))).first()
    if session is not None:
        must_be_author(request.user, session.by_id)
    return session


def _learn(
    request: Request, press: Press, session: KnobLesson | None, shims: list[tuple[float, float]]
) -> str:
    """A new session, or another outcome of one; what holds now, in words."""
    if session is None:
        actions.learn(request.user, press, shims)
        return f"{press.name}’s knob has been learned."
    if request.POST.get("drawn_lift") not in (None, f"{session.lift_mm_per_turn:.6g}"):
        raise InputError.single(
            None, "Somebody corrected this session after you opened it: open it again first."
        )
    before = mapping.knob_of(press)
    actions.correct_session(request.user, session, shims, request.POST.get("why", ""))
    return f"Corrected. {_knob_words(press, before, request.user.units)}"


def _knob_words(press: Press, before: Knob, units: Units) -> str:
    """What counts for a knob now, beside what counted."""
    now = mapping.knob_of(press)
    if now == before:
        return "Nothing changes for the knob."
    was = f", before {length_text(before.lift_mm_per_turn, units, 2)}" if before else ""
    lift = "how far a turn lifts is not known"
    if now:
        lift = f"a turn lifts {length_text(now.lift_mm_per_turn, units, 2)}{was}"
    return f"Computed again: {lift}. Record once more where {press.name}’s knob is set."


def _lesson_context(request: Request, press: Press) -> dict[str, Any]:
    user, units = request.user, form_units(request)
    readings = list(queries.contact_readings(press)[:30])
    lesson = queries.lesson(press)
    context: dict[str, Any] = {
        "press": press,
        "lesson": lesson,
        "corrections": corrections(lesson, SessionWords(units=units)) if lesson else [],
        "may_correct": lesson is not None and (user.may_lead or user.pk == lesson.by_id),
        "knob": mapping.knob_of(press) if press.mechanism == "knob" else None,
        "state": queries.state(press),
        "readings": readings,
        "reading_form": ReadingForm(mechanism=press.mechanism, units=units),
        "lean_form": LeanForm(units=units),
        "lean": queries.lean(press, user),
        "pad": mapping.pad_of(press),
        "reported_tightening": press.get_tightens_display() if press.tightens else "",
    }
    if press.mechanism == "scale":
        context["curve"] = _curve_rows(press, user.units)
    return context


def _curve_rows(press: Press, units: Units) -> list[dict[str, Any]]:
    curve = mapping.scale_of(press)
    return [
        {
            "figure": figure,
            "kpa": words.contact_text(curve.contact_kpa(figure), units),
            "name": class_of(curve.contact_kpa(figure).value),
            "learned": curve.is_learned_at(figure),
        }
        for figure in SCALE_FIGURES
    ]


@require_POST
def lean(request: Request, slug: str) -> HttpResponse:
    """What a scale under a hand plate shows as this person leans."""
    press = _press(slug)
    must_work(request.user)
    form = LeanForm(request.POST, units=form_units(request))
    if form.is_valid():
        actions.note_lean(request.user, press, form.cleaned_data["kg"])
        messages.success(request, f"Recorded: you lean on {press.name} as the scale showed.")
        return redirect("pressure:learn", slug)
    formset = formset_factory(ShimForm, extra=SHIM_ROWS, max_num=MOST_SHIMS)(
        form_kwargs={"units": form_units(request)}
    )
    context = _lesson_context(request, press) | {"formset": formset, "lean_form": form}
    return render(request, "pressure/learn.html", context, status=422)


@require_POST
def withdraw_lean(request: Request, pk: int) -> HttpResponse:
    """A reading of the scale that was wrong."""
    reading = get_object_or_404(LeanReading.objects.select_related("press"), pk=pk)
    actions.withdraw_lean(request.user, reading)
    messages.success(request, "Withdrawn.")
    return redirect("pressure:learn", reading.press.slug)


@require_POST
def withdraw_lesson(request: Request, pk: int) -> HttpResponse:
    """A session that was wrong."""
    lesson = get_object_or_404(KnobLesson.every.select_related("press"), pk=pk)
    before = mapping.knob_of(lesson.press)
    with refusal_shown(request):
        actions.withdraw_lesson(request.user, lesson, request.POST.get("why", ""))
        messages.success(
            request, f"Withdrawn. {_knob_words(lesson.press, before, request.user.units)}"
        )
    return redirect("pressure:learn", lesson.press.slug)


@require_POST
def add_reading(request: Request, slug: str) -> HttpResponse:
    """A contact pressure by load cell or film."""
    press = _press(slug)
    must_work(request.user)
    form = ReadingForm(request.POST, mechanism=press.mechanism, units=form_units(request))
    if form.is_valid():
        state = queries.state(press)
        fields = dict(form.cleaned_data)
        if press.mechanism == "knob" and state is not None:
            fields["position_turns"] = state.position_turns
        try:
            actions.add_reading(request.user, press, fields)
        except InputError as error:
            form.add_error(None, error_text(error, form_units(request)))
        else:
            messages.success(request, "The reading counts from now on.")
            return redirect("pressure:learn", slug)
    formset = formset_factory(ShimForm, extra=SHIM_ROWS, max_num=MOST_SHIMS)(
        form_kwargs={"units": form_units(request)}
    )
    context = _lesson_context(request, press) | {"formset": formset, "reading_form": form}
    return render(request, "pressure/learn.html", context, status=422)


@require_POST
def withdraw_reading(request: Request, pk: int) -> HttpResponse:
    """A reading that was wrong."""
    reading = get_object_or_404(ContactReading.objects.select_related("press"), pk=pk)
    actions.withdraw_reading(request.user, reading)
    messages.success(request, "Withdrawn.")
    return redirect("pressure:learn", reading.press.slug)


@require_http_methods(["GET", "POST"])
def wear(request: Request, slug: str) -> HttpResponse:
    """Pad and cover: closings, hardness, when to change them."""
    press = _press(slug)
    form = WearForm(request.POST or None, units=form_units(request))
    if request.method == "POST":
        must_work(request.user)
        if form.is_valid():
            actions.note_wear(request.user, press, form.cleaned_data)
            messages.success(request, "Noted.")
            return redirect("pressure:wear", slug)
    today = timezone.localdate()
    rows = [
        {
            "part": part.value,
            "life": life,
            "words": words.life_text(life, part.value, today),
            "share": min(life.used, 1.0) * 100 if life else None,
            "due": bool(life and life.is_due(today)),
        }
        for part in WearingPart
        for life in [queries.wear(press, part, today)]
    ]
    context = {"press": press, "rows": rows, "form": form, "notes": queries.wear_notes(press)[:30]}
    element = _element(press)
    latest = queries.latest(element) if element else None
    if latest is not None:
        context["worn_map"] = latest if (latest.hollow_mm or 0) > 0 else None
    return render(request, "pressure/wear.html", context, status=422 if form.errors else 200)
