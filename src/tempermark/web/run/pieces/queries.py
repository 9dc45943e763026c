"""Reading test presses, with what is known about the heat under their art."""

from dataclasses import dataclass
from datetime import datetime

import numpy as np
from django.db.models import QuerySet

from tempermark.web.kit.drawing.places import PLACE_SHARES
from tempermark.web.kit.forms.numbers import row_key
from tempermark.web.measure.models import Survey
from tempermark.web.measure.press.history import SurveyHistory
from tempermark.web.measure.press.press_temperature import true_temperature
from tempermark.web.presses.models import Element, Press
from tempermark.web.recipes.models import RecipeVersion
from tempermark.web.run.counts.counting import CLOSINGS
from tempermark.web.run.counts.reading import Counts
from tempermark.web.run.models import Mark, PieceOutcome, TestPress

ART_LINES = 9
PAGE_ROWS = ("element__press", "recipe__recipe", "blank", "pressed_by")


@dataclass(frozen=True)
class UnderArt:
    """True °C under the art by the survey that held then, and at each mark by its pk."""

    mean_c: float
    coolest_c: float
    hottest_c: float
    coolest_mm: tuple[float, float]
    hottest_mm: tuple[float, float]
    standard_uncertainty_c: float
    at_mark: dict[int, tuple[float, float]]
    survey: Survey
    gain: float
    past_plate: bool


def of_press(press: Press) -> QuerySet[TestPress]:
    """Test presses on any element of a press, newest first."""
    return (
        TestPress.objects.filter(element__press=press)
        .select_related("recipe__recipe", "blank")
        .prefetch_related("marks", "fault_cases")
    )


def page(pk: int) -> TestPress:
    """A test press with what its page shows; raises TestPress.DoesNotExist."""
    return TestPress.every.select_related(*PAGE_ROWS).get(pk=pk)


def pressed_again(text: str | None) -> TestPress | None:
    """The piece that a link names to be pressed once more; None where it names none."""
    return TestPress.objects.select_related(*PAGE_ROWS).filter(pk=row_key(text)).first()


@dataclass(frozen=True)
class ArtPlace:
    """The art on an element: front left corner and size in mm, the dial, and when."""

    element: Element
    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float
    set_c: float
    when: datetime


def under_art(piece: TestPress, history: SurveyHistory | None = None) -> UnderArt | None:
    """The heat under a piece's art as the survey of that day tells it; `history` is the element's
    where it is read for many pieces.
    """
    art = ArtPlace(
        piece.element,
        piece.art_x_mm,
        piece.art_y_mm,
        piece.art_width_mm,
        piece.art_height_mm,
        piece.set_c,
        piece.pressed_at,
    )
    placed = {m.pk: _place_of(m, art) for m in piece.marks.all()}
    marks = {pk: place for pk, place in placed.items() if place is not None}
    return heat_at(art, marks, history)


def _place_of(mark: Mark, art: ArtPlace) -> tuple[float, float] | None:
    """Where a mark lies on the platen: as tapped, else by the words for its part of the art."""
    if mark.x_mm is not None and mark.y_mm is not None:
        return mark.x_mm, mark.y_mm
    shares = PLACE_SHARES.get(mark.where)
    if shares is None:
        return None
    return art.x_mm + shares[0] * art.width_mm, art.y_mm + shares[1] * art.height_mm


def heat_at(
    art: ArtPlace,
    marks: dict[int, tuple[float, float]] | None = None,
    history: SurveyHistory | None = None,
) -> UnderArt | None:
    """The heat under art at a place by the survey that held then; None without a map."""
    marks = marks or {}
    x = np.linspace(art.x_mm, art.x_mm + art.width_mm, ART_LINES)
    y = np.linspace(art.y_mm, art.y_mm + art.height_mm, ART_LINES)
    grid = np.column_stack([a.ravel() for a in np.meshgrid(x, y)])
    size = [art.element.width_mm, art.element.height_mm]
    inside = ((grid >= 0) & (grid <= size)).all(axis=1)
    if not inside.any():
        return None
    places = np.vstack([grid[inside], *([place] for place in marks.values())])
    known = true_temperature(art.element, places, art.set_c, art.when, history)
    if known is None:
        return None
    count = int(inside.sum())
    under, at_marks = known.value_c[:count], known.value_c[count:]
    spread = known.standard_uncertainty_c
    return UnderArt(
        mean_c=float(under.mean()),
        coolest_c=float(under.min()),
        hottest_c=float(under.max()),
        coolest_mm=tuple(grid[inside][under.argmin()]),
        hottest_mm=tuple(grid[inside][under.argmax()]),
        standard_uncertainty_c=float(spread[:count].mean()),
        at_mark={
            pk: (float(value), float(sd))
            for pk, value, sd in zip(marks, at_marks, spread[count:], strict=True)
        },
        survey=known.survey,
        gain=known.gain,
        past_plate=not inside.all(),
    )


def worked_before(piece: TestPress) -> TestPress | None:
    """The last good piece of this recipe and blank on this element before this one."""
    return (
        TestPress.objects.filter(
            element=piece.element,
            recipe__recipe=piece.recipe.recipe,
            blank=piece.blank,
            step_number=piece.step_number,
            outcome=PieceOutcome.GOOD,
            pressed_at__lt=piece.pressed_at,
        )
        .order_by("-pressed_at")
        .first()
    )


def last_of_recipe(element: Element, version: RecipeVersion) -> TestPress | None:
    """The newest test press of a recipe on an element, of whichever step: it knows blank and size
    of the art.
    """
    result = TestPress.objects.filter(element=element, recipe__recipe=version.recipe)
    return result.select_related("blank").order_by("-pressed_at", "-pk").first()


def recipes_last_pressed(element: Element) -> dict[int, datetime]:
    """Recipe → when it was last pressed on an element."""
    pressed = Counts().sums(CLOSINGS, ("recipe",), {"element": {element.pk}})
    recipes = dict(RecipeVersion.objects.values_list("pk", "recipe_id"))
    found: dict[int, datetime] = {}
    for (version,), row in pressed.items():
        recipe = recipes[version]
        found[recipe] = max(found.get(recipe, row["last"]), row["last"])
    return found
