"""Where art goes on a platen: defaults for a new test press, and the small drawing."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from django.utils import timezone

from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.metrology.map.usable import Rectangle
from tempermark.core.recipes.layers import entry_text
from tempermark.core.recipes.windows import closings
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.drawing.projection import Projection
from tempermark.web.kit.forms.numbers import number
from tempermark.web.measure.press.history import SurveyHistory, compute_survey
from tempermark.web.measure.press.press_temperature import (
    DialAdvice,
    advised_dial,
    press_temperature,
)
from tempermark.web.measure.surveys import queries as surveys
from tempermark.web.measure.surveys.charts import corner_marks
from tempermark.web.measure.surveys.results import printable_part
from tempermark.web.presses.models import Element
from tempermark.web.recipes.blanks.art_size import art_size_mm
from tempermark.web.recipes.blanks.choice import suitable
from tempermark.web.recipes.blanks.takes import takes
from tempermark.web.recipes.cards.queries import current_versions
from tempermark.web.recipes.materials.library import shop_materials
from tempermark.web.recipes.models import PressedStep, RecipeVersion
from tempermark.web.run.models import TestPress
from tempermark.web.run.pieces import queries
from tempermark.web.run.pieces.forms import logged

PLACING_BOX = (300, 340)
# What of a piece that is pressed once more belongs to that one alone.
NOT_AGAIN = ("recipe", "pressed_at", "note", "confirmed", "room_c", "relative_humidity")


def advised_setting(element: Element, step: PressedStep | None) -> DialAdvice | None:
    """What to set for a step of a recipe on this element; None while it is not measured."""
    return advised_dial(element, step.middle_c, timezone.now()) if step else None


@dataclass(frozen=True)
class RecipesHere:
    """Recipes for one element, each with its `advised_c` there: pressed on it before, the latest
    first; others whose blanks it takes; and those it cannot press, by name.
    """

    pressed: list[RecipeVersion]
    fitting: list[RecipeVersion]
    others: list[RecipeVersion]


def recipes_here(element: Element) -> RecipesHere:
    """Every recipe that is offered, in the order somebody at this press looks for it."""
    last = queries.recipes_last_pressed(element)
    versions = sorted(current_versions(), key=lambda version: version.recipe.name)
    known = press_temperature(element, timezone.now())
    for version in versions:
        version.advised_c = known.dial_for(version.middle_c).set_c if known else None
        version.guessed = known is not None and known.is_far(version.advised_c)
    pressed = [version for version in versions if version.recipe_id in last]
    rest = [version for version in versions if version.recipe_id not in last]
    fits = {version.pk for version in rest if takes(element, version.recipe.blank_kind)}
    return RecipesHere(
        sorted(pressed, key=lambda version: last[version.recipe_id], reverse=True),
        [version for version in rest if version.pk in fits],
        [version for version in rest if version.pk not in fits],
    )


def usable_rectangle(element: Element, history: SurveyHistory | None = None) -> Rectangle | None:
    """The part of the element that is surely in tolerance once corrected, or None."""
    latest = surveys.latest_survey(element) if history is None else history.newest()
    if latest is None:
        return None
    return printable_part(compute_survey(latest) if history is None else history.computed(latest))


def initial(
    element: Element, step: PressedStep | None, again: TestPress | None, request: Request
) -> dict[str, Any]:
    """Defaults: the step's middle, the advised dial, blank and art as last time."""
    version = step.version if step else None
    values: dict[str, Any] = {"closures": 1, "pressure": "unknown"}
    width, height = min(200.0, element.width_mm * 0.5), min(240.0, element.height_mm * 0.5)
    if version is not None:
        values |= _of_step(element, step)
        last = queries.last_of_recipe(element, version)
        own = suitable(version)
        if own:
            values["blank"] = own[0]
            width, height = art_size_mm(own[0], element) or (width, height)
        if last is not None:
            values["blank"] = last.blank
            width, height = last.art_width_mm, last.art_height_mm
    if again is not None:
        width, height = again.art_width_mm, again.art_height_mm
        values |= {name: v for name, v in logged(again).items() if name not in NOT_AGAIN}
        values |= {"blank": again.blank, "stack": _in_words(again.stack)}
        values |= repeat_settings(again, request)
    values |= {"art_width_mm": width, "art_height_mm": height}
    cause = shipped().causes.get(request.GET.get("cause", ""))
    if again is not None and not (cause and cause.moves_art):
        # One thing at a time: the art stays where it lay.
        return values | {"art_x_mm": again.art_x_mm, "art_y_mm": again.art_y_mm}
    x, y = _middle(element, width, height)
    return values | {"art_x_mm": x, "art_y_mm": y}


def _of_step(element: Element, step: PressedStep) -> dict[str, Any]:
    advice = advised_setting(element, step)
    dwell_s = float(round((step.low_s + step.high_s) / 2))
    return {
        "recipe": step.version,
        "step_number": "" if step.number is None else step.number,
        "dwell_s": dwell_s,
        "closures": len(closings(dwell_s, element.press.timer_max_s)),
        "pressure": step.pressure or "unknown",
        "peel": step.peel,
        "stack": _in_words(step.stack),
        "set_c": advice.set_c if advice else step.middle_c,
    }


def _in_words(stack: Iterable[str]) -> str:
    """Layers as people read them, one a line."""
    library = shop_materials()
    return "\n".join(entry_text(entry, library) for entry in stack)


def _middle(element: Element, width_mm: float, height_mm: float) -> tuple[float, float]:
    """Front left corner that centres the art on the usable part, where it fits there."""
    part = usable_rectangle(element)
    if part is not None and width_mm <= part.width_mm and height_mm <= part.height_mm:
        return (
            round(part.x_mm + (part.width_mm - width_mm) / 2),
            round(part.y_mm + (part.height_mm - height_mm) / 2),
        )
    return round((element.width_mm - width_mm) / 2), round((element.height_mm - height_mm) / 2)


def drawing(element: Element) -> dict[str, Any]:
    """The small platen on which the art is placed."""
    view = Projection.fitting(element.width_mm, element.height_mm, *PLACING_BOX, left=8, top=8)
    part = usable_rectangle(element)
    return {
        "view": view,
        "width": view.width + 16,
        "height": view.height + 16,
        "frame": view.box(0, 0, element.width_mm, element.height_mm),
        "bottom": view.top + view.height,
        "corners": corner_marks(part, view) if part is not None else [],
    }


def repeat_settings(piece: TestPress, request: Request) -> dict[str, Any]:
    """Initial values of a test press that tries a remedy: the link's, else as before."""
    initial = {
        "set_c": piece.set_c,
        "dwell_s": piece.dwell_s,
        "pressure": piece.pressure,
        "peel": piece.peel,
        "closures": piece.closures,
    }
    for name in ("set_c", "dwell_s"):
        value = number(request.GET.get(name))
        if value is not None:
            initial[name] = value
    if request.GET.get("pressure") in ("light", "medium", "firm"):
        initial["pressure"] = request.GET["pressure"]
    return initial
