"""Pages of test presses: log, mark, score."""

from uuid import uuid4

from django.http import Http404
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.web.accounts.permissions import must_work
from tempermark.web.floor.models import Element
from tempermark.web.floor.queries import element_in_use
from tempermark.web.kit.drawing import Projection
from tempermark.web.kit.keys import form_key
from tempermark.web.measure import queries as surveys
from tempermark.web.measure.charts import corner_marks
from tempermark.web.measure.words import verdict
from tempermark.web.run import actions, queries
from tempermark.web.run.charts import piece_chart
from tempermark.web.run.forms import MarkForm, OutcomeForm, TestPressForm
from tempermark.web.run.models import Outcome, TestPress
from tempermark.web.setup.models import RecipeVersion
from tempermark.web.setup.queries import current_versions
from tempermark.web.trace import queries as cases

PLACING_BOX = (300, 340)
# Causes whose remedy is another place on the platen.
MOVES_THE_ART = ("cold_zone", "hot_zone")


@require_GET
def test_presses(request):
    """Every test press, newest first, with a search."""
    asked = request.GET.get("q", "").strip()[:80]
    found = TestPress.objects.select_related(
        "element__press", "recipe__recipe", "blank", "fault_case"
    )
    found = found.prefetch_related("marks")
    for word in asked.split():
        found = (
            found.filter(recipe__recipe__name__icontains=word)
            | found.filter(element__press__name__icontains=word)
            | found.filter(blank__name__icontains=word)
            | found.filter(outcome__icontains=word)
        )
    return render(request, "run/list.html", {"pieces": found[:200], "asked": asked})


@require_http_methods(["GET", "POST"])
def new_test_press(request, slug):
    """Log a test press on the press one stands at."""
    must_work(request.user)
    element = element_in_use(slug)
    unit = request.user.temperature_unit
    case = cases.by_pk(request.GET.get("case"))
    version = _version(request.GET.get("recipe"), case)
    form = TestPressForm(
        request.POST or None,
        initial=_initial(element, version, case, request),
        element=element,
        unit=unit,
    )
    if request.method == "POST" and form.is_valid():
        key = form_key(request.POST.get("form_key"))
        piece = actions.log_test_press(request.user, element, form.cleaned_data, key)
        return redirect(piece)
    context = {
        "press": element.press,
        "element": element,
        "form": form,
        "form_key": form_key(request.POST.get("form_key")),
        "placing": _placing(element, unit),
        "versions": current_versions(),
        "chosen": version,
        "advised": _advised(element, version),
        "case": case,
    }
    return render(request, "run/new.html", context, status=422 if form.errors else 200)


def _version(text: str | None, case) -> RecipeVersion | None:
    if text and text.isdecimal():
        return RecipeVersion.objects.filter(pk=text).select_related("recipe").first()
    return case.test_press.recipe if case else None


def _advised(element: Element, version: RecipeVersion | None) -> float | None:
    """The dial for the middle of the recipe's window on this element."""
    if version is None:
        return None
    return surveys.setting_for(element, (version.low_c + version.high_c) / 2, timezone.now())


def _initial(element: Element, version: RecipeVersion | None, case, request) -> dict:
    """Defaults: the recipe's middle, the advised dial, the art in the middle."""
    width, height = min(200.0, element.width_mm * 0.5), min(240.0, element.height_mm * 0.5)
    initial: dict = {"closures": 1, "pressure": "unknown"}
    if version is not None:
        initial |= {
            "recipe": version,
            "dwell_s": (version.low_s + version.high_s) / 2,
            "pressure": version.pressure,
            "peel": version.peel,
            "stack": "\n".join(version.stack),
            "set_c": _advised(element, version) or (version.low_c + version.high_c) / 2,
        }
    if case is not None:
        piece = case.test_press
        width, height = piece.art_width_mm, piece.art_height_mm
        initial |= {"blank": piece.blank, "stack": "\n".join(piece.stack)}
        initial |= cases.repeat_settings(case, request)
    initial |= {
        "art_width_mm": width,
        "art_height_mm": height,
        "art_x_mm": (element.width_mm - width) / 2,
        "art_y_mm": (element.height_mm - height) / 2,
    }
    if case is not None and request.GET.get("cause") not in MOVES_THE_ART:
        # One thing at a time: the art stays where it lay.
        initial |= {"art_x_mm": case.test_press.art_x_mm, "art_y_mm": case.test_press.art_y_mm}
    return initial


def _placing(element: Element, unit: str) -> dict:
    """The small platen on which the art is placed."""
    view = Projection.fitting(element.width_mm, element.height_mm, *PLACING_BOX, left=8, top=8)
    drawing = {
        "view": view,
        "width": view.width + 16,
        "height": view.height + 16,
        "frame": view.box(0, 0, element.width_mm, element.height_mm),
        "bottom": view.top + view.height,
        "corners": [],
    }
    latest = surveys.latest_survey(element)
    if latest is not None:
        told = verdict(surveys.compute(latest), 1.0, unit)
        if told.rectangle is not None:
            drawing["corners"] = corner_marks(told.rectangle, view)
    return drawing


@require_GET
def test_press(request, pk):
    """One piece: what was done, what is seen, how it scored."""
    return render(request, "run/test_press.html", _context(request, _piece(pk)))


def _piece(pk: int) -> TestPress:
    try:
        return queries.page(pk)
    except TestPress.DoesNotExist:
        raise Http404("There is no such test press.") from None


def _context(request, piece: TestPress, **more) -> dict:
    return {
        "piece": piece,
        "press": piece.element.press,
        "chart": piece_chart(piece),
        "under": queries.under_art(piece),
        "mark_form": MarkForm(),
        "outcome_form": OutcomeForm(initial=_scored(piece)),
        "form_key": uuid4(),
        "case": cases.of_piece(piece),
        **more,
    }


def _scored(piece: TestPress) -> dict:
    initial = {f"score_{code}": value for code, value in piece.scores.items()}
    if piece.outcome != Outcome.OPEN:
        initial["outcome"] = piece.outcome
    return initial


@require_POST
def add_mark(request, pk):
    """A mark tapped or chosen."""
    piece = _piece(pk)
    form = MarkForm(request.POST)
    key = form_key(request.POST.get("form_key"))
    if not form.is_valid():
        context = _context(request, piece, mark_form=form, form_key=key)
        return render(request, "run/test_press.html", context, status=422)
    actions.mark(request.user, piece, form.cleaned_data, key)
    return redirect(piece)


@require_POST
def remove_mark(request, pk):
    """Take a mark off."""
    piece = _piece(pk)
    text = request.POST.get("mark", "")
    actions.unmark(request.user, piece, int(text) if text.isdecimal() else 0)
    return redirect(piece)


@require_POST
def score(request, pk):
    """Outcome and scores."""
    piece = _piece(pk)
    form = OutcomeForm(request.POST)
    if not form.is_valid():
        context = _context(request, piece, outcome_form=form)
        return render(request, "run/test_press.html", context, status=422)
    actions.score(request.user, piece, form.cleaned_data["outcome"], form.scores())
    return redirect(piece)
