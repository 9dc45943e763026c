"""Reading test presses, with what is known about the heat under their art."""

from dataclasses import dataclass

import numpy as np

from tempermark.web.floor.models import Press
from tempermark.web.measure import queries as surveys
from tempermark.web.measure.models import Survey
from tempermark.web.run.models import Outcome, TestPress

ART_LINES = 9


@dataclass(frozen=True)
class UnderArt:
    """True °C under the art by the survey that held then, and at each mark by its pk."""

    mean_c: float
    coolest_c: float
    hottest_c: float
    standard_uncertainty_c: float
    at_mark: dict[int, tuple[float, float]]
    survey: Survey
    gain: float
    past_plate: bool


def of_press(press: Press):
    """Test presses on any element of a press, newest first."""
    return (
        TestPress.objects.filter(element__press=press)
        .select_related("recipe__recipe", "blank", "fault_case")
        .prefetch_related("marks")
    )


def page(pk: int) -> TestPress:
    """A test press with what its page shows; raises TestPress.DoesNotExist."""
    return TestPress.objects.select_related(
        "element__press", "recipe__recipe", "blank", "pressed_by"
    ).get(pk=pk)


def under_art(piece: TestPress) -> UnderArt | None:
    """The heat under a piece's art as the survey of that day tells it."""
    element = piece.element
    x = np.linspace(piece.art_x_mm, piece.art_x_mm + piece.art_width_mm, ART_LINES)
    y = np.linspace(piece.art_y_mm, piece.art_y_mm + piece.art_height_mm, ART_LINES)
    art = np.column_stack([a.ravel() for a in np.meshgrid(x, y)])
    inside = ((art >= 0) & (art <= [element.width_mm, element.height_mm])).all(axis=1)
    marks = [m for m in piece.marks.all() if m.x_mm is not None]
    places = np.vstack([art[inside], *([[m.x_mm, m.y_mm]] for m in marks)])
    if not inside.any():
        return None
    known = surveys.true_at(element, places, piece.set_c, piece.pressed_at)
    if known is None:
        return None
    count = int(inside.sum())
    return UnderArt(
        mean_c=float(known.value_c[:count].mean()),
        coolest_c=float(known.value_c[:count].min()),
        hottest_c=float(known.value_c[:count].max()),
        standard_uncertainty_c=float(known.standard_uncertainty_c[:count].mean()),
        at_mark={
            m.pk: (float(known.value_c[count + i]), float(known.standard_uncertainty_c[count + i]))
            for i, m in enumerate(marks)
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
            outcome=Outcome.GOOD,
            pressed_at__lt=piece.pressed_at,
        )
        .order_by("-pressed_at")
        .first()
    )
