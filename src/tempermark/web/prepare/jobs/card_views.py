"""A card for one recipe on one press, to print and keep beside it: today's figures, and until
when they are to be believed.
"""

from dataclasses import replace
from datetime import timedelta
from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET

from tempermark.core.recipes.windows import closings
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.drawing.codes import code_response
from tempermark.web.kit.figures import temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.measure.press.press_temperature import advised_dial
from tempermark.web.measure.surveys.queries import latest_survey
from tempermark.web.prepare.jobs.pressing import pressure_advice
from tempermark.web.prepare.jobs.stack_drawing import stack_drawing
from tempermark.web.presses.models import Element
from tempermark.web.presses.queries import element_in_use
from tempermark.web.pressure.setting import words as pressure_words
from tempermark.web.recipes.blanks.choice import suitable
from tempermark.web.recipes.cards.queries import current_versions
from tempermark.web.recipes.materials.library import shop_materials
from tempermark.web.recipes.models import RecipeVersion


@require_GET
def card(request: Request, slug: str, recipe: str) -> HttpResponse:
    """The card of a recipe on a press."""
    element, version = element_in_use(slug), _version(recipe)
    units = request.user.units
    library = shop_materials()
    advice = advised_dial(element, version.middle_c, timezone.now())
    survey = latest_survey(element)
    dwell_s = round((version.low_s + version.high_s) / 2)
    context: dict[str, Any] = {
        "press": element.press,
        "version": version,
        "dwell_s": dwell_s,
        "closings": closings(dwell_s, element.press.timer_max_s),
        "dial": advice and _both(advice.set_c, units),
        "true": _both(version.middle_c, units),
        "far": advice and advice.far,
        "pressure": _pressure(element, version, units),
        "drawing": stack_drawing(version.stack, library, units),
        "stale_on": survey
        and timezone.localdate(survey.taken_at) + timedelta(days=element.press.survey_every_days),
        "today": timezone.localdate(),
    }
    return render(request, "prepare/card.html", context)


@require_GET
def code(request: Request, slug: str, recipe: str) -> HttpResponse:
    """The card's QR code: it opens the recipe as it is on that day."""
    element_in_use(slug)
    version = _version(recipe)
    path = reverse("heat:recipe", args=[version.recipe.slug])
    return code_response(request.build_absolute_uri(path))


def _version(recipe: str) -> RecipeVersion:
    version = current_versions().filter(recipe__slug=recipe).first()
    if version is None:
        raise Http404("There is no such recipe.")
    return version


def _both(value_c: float, units: Units) -> dict[str, str]:
    """A temperature as the person reads it, and in the other unit, as the display may have it."""
    other = replace(units, temperature="c" if units.temperature == "f" else "f")
    return {"own": temperature_text(value_c, units), "other": temperature_text(value_c, other)}


def _pressure(element: Element, version: RecipeVersion, units: Units) -> str:
    """What to turn or set for the shop's own blank of the recipe; its class where there is none."""
    own = suitable(version)
    if not own:
        return version.pressure
    advice = pressure_advice(element, own[0], version)
    if advice is None:
        return version.pressure
    if advice.position_turns is not None:
        # A card outlives today's knob: it says where the knob belongs, not how far to turn it now.
        where = pressure_words.position_text(advice.position_turns, advice.by_feel)
        return f"{version.pressure}: for {own[0].name} the knob is {where}"
    return f"{version.pressure}, {own[0].name}: {pressure_words.headline(advice, units)}"
