"""Pages of test presses: log, mark, score."""

from datetime import timedelta
from typing import Any
from urllib.parse import urlencode

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.utils.text import capfirst
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.jobs.models import Job
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.forms.numbers import row_key, whole
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.records.correction_words import Correction, corrections
from tempermark.web.presses.models import Element
from tempermark.web.presses.queries import element_in_use
from tempermark.web.recipes.blanks.choice import suitable
from tempermark.web.recipes.blanks.sleeves import sleeve_sentence
from tempermark.web.recipes.models import Blank, PressedStep, RecipeVersion
from tempermark.web.run.lots import lots
from tempermark.web.run.models import Mark, PieceOutcome, TestPress
from tempermark.web.run.pieces import actions, placing, queries
from tempermark.web.run.pieces.charts import piece_chart
from tempermark.web.run.pieces.facts import stated
from tempermark.web.run.pieces.forms import ArtPlaceForm, TestPressForm, stack_faults
from tempermark.web.run.pieces.mark_forms import MarkForm, OutcomeForm
from tempermark.web.run.pieces.words import place_summary
from tempermark.web.run.scoring.swatches import scales

# Logged so long after it was pressed, both times are shown.
LOGGED_LATER = timedelta(minutes=15)
# What a mark hands on to the next one tapped.
SAME_AGAIN = ("symptom", "when", "severity", "shape")


@require_http_methods(["GET", "POST"])
def new_test_press(request: Request, slug: str) -> HttpResponse:
    """Log a test press on the press one stands at."""
    must_work(request.user)
    element = element_in_use(slug)
    units = form_units(request)
    again = queries.pressed_again(request.GET.get("again"))
    version = _version(request.POST.get("recipe") or request.GET.get("recipe"), again)
    if version is None and request.method == "GET":
        here = placing.recipes_here(element)
        return render(request, "run/pick.html", {"press": element.press, "here": here})
    step = _step(request, version, again)
    job = _job(request)
    advised = placing.advised_setting(element, step)
    form = TestPressForm(
        request.POST or None,
        initial=placing.initial(element, step, again, request) | _of_job(job, request),
        element=element,
        advised_c=advised.set_c if advised else None,
        units=units,
    )
    if request.method == "POST" and form.is_valid():
        key = form_key(request)
        piece = actions.log_test_press(request.user, element, form.cleaned_data | {"job": job}, key)
        return redirect(piece)
    context = {
        "press": element.press,
        "element": element,
        "form": form,
        "placing": placing.drawing(element),
        "chosen": step,
        "steps": version.heated_steps if version else [],
        "advised": advised,
        "sleeve": sleeve_sentence(element, form.initial["blank"], request.user.units)
        if isinstance(form.initial.get("blank"), Blank)
        else None,
        "ask_blank": version if version and not suitable(version) else None,
        "again": again,
        "job": job,
        "carried": f"&again={again.pk}" if again else "",
        "lots": lots.choices(),
        "stack_cautions": _stack_cautions(step, element, form),
    }
    return render(request, "run/new.html", context, status=422 if form.errors else 200)


def _job(request: Request) -> Job | None:
    """The job a piece is pressed for."""
    key = row_key(request.POST.get("job") or request.GET.get("job", ""))
    return Job.objects.filter(pk=key).select_related("blank").first()


def _of_job(job: Job | None, request: Request) -> dict[str, Any]:
    """What a job and its ticks say of the piece: blank, art, humidity, what was done."""
    if job is None:
        return {}
    given: dict[str, Any] = {
        "blank": job.blank,
        "art_width_mm": job.art_width_mm,
        "art_height_mm": job.art_height_mm,
    }
    if job.relative_humidity is not None:
        given["relative_humidity"] = 100 * job.relative_humidity
    return given | stated(request.GET.getlist("fact")[:20])


def _stack_cautions(step: PressedStep | None, element: Element, form: TestPressForm) -> list[str]:
    """What goes wrong with the recipe's own stack here: said before anything is pressed."""
    blank = form.initial.get("blank")
    if step is None or not isinstance(blank, Blank):
        return []
    found = stack_faults(step, step.stack, element, {"blank": blank})
    return [f"{capfirst(fault.because)}: {fault.right}." for fault in found]


def _step(
    request: Request, version: RecipeVersion | None, again: TestPress | None
) -> PressedStep | None:
    """The step of a recipe that is logged: the one asked for, else that of the piece pressed
    once more, else the main press.
    """
    if version is None:
        return None
    query = request.POST if request.method == "POST" else request.GET
    if "step_number" not in query and again is not None:
        return version.pressed(again.step_number)
    return version.pressed(whole(query.get("step_number")))


def _version(text: str | None, again: TestPress | None) -> RecipeVersion | None:
    if (number := whole(text)) is not None:
        return RecipeVersion.objects.filter(pk=number).select_related("recipe").first()
    return again.recipe if again else None


@require_GET
def art_sentence(request: Request, slug: str) -> HttpResponse:
    """What the art's place will do at this dial, while it is being placed."""
    element = element_in_use(slug)
    units = request.user.units
    form = ArtPlaceForm(request.GET, units=form_units(request))
    if not form.is_valid():
        return HttpResponse(status=204)
    under = queries.heat_at(form.place(element, timezone.now()))
    version = _version(request.GET.get("recipe"), None)
    step = _step(request, version, None)
    data = form.cleaned_data
    summary = place_summary(under, step, element, units, data["dwell_s"], data["pressure"])
    return render(request, "run/_art.html", {"summary": summary})


@require_GET
def test_press(request: Request, pk: int) -> HttpResponse:
    """One piece: what was done, what is seen, how it scored."""
    return render(request, "run/test_press.html", piece_context(request, _piece(pk)))


def _piece(pk: int) -> TestPress:
    try:
        return queries.page(pk)
    except TestPress.DoesNotExist:
        raise Http404("There is no such test press.") from None


def piece_context(request: Request, piece: TestPress, **more: Any) -> dict[str, Any]:
    return {
        "piece": piece,
        "press": piece.element.press,
        "chart": piece_chart(piece),
        "under": queries.under_art(piece),
        "lots": lots.named(piece),
        "mark_form": MarkForm(initial=_again(request), units=form_units(request)),
        "outcome_form": OutcomeForm(initial=scored(piece), record=piece),
        "case": piece.fault_case,
        "before": queries.worked_before(piece),
        "scales": scales(),
        "none_given": {},
        "done_otherwise": bool(piece.stack) and piece.pressed_stack != tuple(piece.stack),
        "logged_later": piece.logged_at - piece.pressed_at > LOGGED_LATER,
        "may_mark": request.user.may_work and piece.withdrawn_at is None,
        "may_correct": request.user.may_lead or request.user.pk == piece.pressed_by_id,
        "corrections": _corrections(request, piece),
        **more,
    }


def _corrections(request: Request, piece: TestPress) -> list[Correction]:
    """What was corrected of a piece and of its marks, newest first."""
    units = request.user.units
    form = TestPressForm(element=piece.element, units=units)
    found = corrections(piece, form)
    for mark in Mark.every.filter(test_press=piece):
        found += corrections(mark, MarkForm(units=units))
    return sorted(found, key=lambda row: row.at, reverse=True)


def _again(request: Request) -> dict[str, Any]:
    """What the mark before was, for the next."""
    return {name: request.GET[name] for name in SAME_AGAIN if request.GET.get(name)}


def scored(piece: TestPress) -> dict[str, Any]:
    initial = {f"score_{code}": value for code, value in piece.scores.items()}
    initial |= {"density": piece.density, "grade": piece.grade}
    if piece.outcome != PieceOutcome.OPEN:
        initial["outcome"] = piece.outcome
    return initial


@require_POST
def add_mark(request: Request, pk: int) -> HttpResponse:
    """A mark tapped or chosen."""
    piece = _piece(pk)
    form = MarkForm(request.POST, units=form_units(request))
    key = form_key(request)
    if not form.is_valid():
        context = piece_context(request, piece, mark_form=form)
        return render(request, "run/test_press.html", context, status=422)
    actions.mark(request.user, piece, form.cleaned_data, key)
    if form.cleaned_data["x_mm"] is None:
        return redirect(piece)
    # Several marks of one fault: each more is a tap and the button.
    again = urlencode({name: request.POST.get(name, "") for name in SAME_AGAIN})
    return redirect(f"{piece.get_absolute_url()}?{again}")
