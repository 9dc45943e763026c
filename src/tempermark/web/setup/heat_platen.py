"""The outcome of a recipe at every place of a platen: its own temperature, its own pressure."""

from dataclasses import dataclass, replace

import numpy as np
from contourpy import FillType, contour_generator

from tempermark.core.metrology.usable import Grid, Rectangle, largest_rectangle
from tempermark.core.thermal import dye, press
from tempermark.core.thermal.advise import Setting, best_setting
from tempermark.core.thermal.places import press_places
from tempermark.core.thermal.press import Closing
from tempermark.web.fit import mapping
from tempermark.web.fit import queries as pressures
from tempermark.web.floor.models import Element
from tempermark.web.kit.places import place_words
from tempermark.web.kit.templatetags.figures import NO_BREAK, temperature_text
from tempermark.web.measure import queries as surveys
from tempermark.web.measure.charts import (
    Line,
    PlatenChart,
    Text,
    bare_platen,
    corner_marks,
    filled_paths,
)
from tempermark.web.setup.heat import ACTIVE_BELOW_C, FULL_DENSITY, Pressed

CELLS = (32, 24)
# Below this share of what the blank can hold a place counts as pale; from this risk as overdone.
PALE_SHARE, OVERDONE_RISK = 0.8, 0.5
LEVELS = (0.5, 0.6, 0.7, 0.8, 0.85, 0.9, 0.95, 0.98)
FLOW_LEVELS_S = (0, 2, 5, 10, 15, 20, 30, 60)
# Shares of the platen that are nearly all and nearly none.
ALL_FROM, NONE_UP_TO = 0.995, 0.005


@dataclass(frozen=True)
class PlatenOutcome:
    """How a piece comes out at each cell (rows, columns): share of full density (or seconds of
    flowing adhesive), and the worst of its risks. `advice` is of the cells under the art.
    """

    grid: Grid
    filled: np.ndarray
    risk: np.ndarray
    is_dye: bool
    good: np.ndarray
    with_pressure: bool
    art: Rectangle
    advice: Setting
    gain: float

    @property
    def rectangle(self) -> Rectangle | None:
        """The largest rectangle that comes out well."""
        return largest_rectangle(self.good, self.grid)


def over_platen(
    element: Element, made: Pressed, set_c: float, when, needed_s: float, art: Rectangle
) -> PlatenOutcome | None:
    """The outcome over an element at a dial; None while it has no map.

    `needed_s` is how long a film's adhesive must flow. The stack is that of the closing `made`.
    """
    grid = Grid(element.width_mm, element.height_mm, *CELLS)
    known = surveys.true_at(element, grid.places_mm, set_c, when)
    if known is None:
        return None
    kpa, with_pressure = _contact(element, made, grid, when)
    closing = _of_places(made.closing, known.value_c, kpa)
    filled, risk = _results(made)
    platen = press_places(closing)
    enough = PALE_SHARE if made.is_dye else needed_s
    told, risks = platen.over(filled), platen.over(risk)
    under = _under(grid, art)
    advice = best_setting(
        _of_places(made.closing, known.value_c[under], kpa[under]),
        filled,
        risk,
        FULL_DENSITY if made.is_dye else 1.2 * needed_s,
        enough,
        OVERDONE_RISK,
    )
    return PlatenOutcome(
        grid,
        grid.shaped(told),
        grid.shaped(risks),
        made.is_dye,
        grid.shaped((told >= enough) & (risks < OVERDONE_RISK)),
        with_pressure,
        art,
        advice,
        known.gain,
    )


def _contact(element: Element, made: Pressed, grid: Grid, when) -> tuple[np.ndarray, bool]:
    """Contact (cells,) in kPa: the map's shape at the asked mean. How hard it is set is asked,
    how level it lies is measured.
    """
    asked = float(made.closing.pressure_kpa[0])
    pressed = pressures.latest(element, when)
    computed = mapping.compute(pressed) if pressed else None
    if computed is None or computed.map is None:
        return np.full(grid.rows * grid.columns, asked), False
    shape = np.maximum(computed.map.at(grid.places_mm), 1.0)
    return np.maximum(asked * shape / shape.mean(), 1.0), True


def _of_places(closing: Closing, upper_c: np.ndarray, kpa: np.ndarray) -> Closing:
    lower = closing.lower_c
    lower = None if lower is None else np.full(len(kpa), float(lower[0]))
    return replace(closing, upper_c=upper_c, pressure_kpa=kpa, lower_c=lower)


def _results(made: Pressed):
    """What comes out and the worst of its risks, as functions of a course."""
    at = made.interface

    def scorch(course):
        return press.risk(press.over_time(course, press.scorch_rate, at))

    if not made.is_dye:
        low = made.window_low_c - ACTIVE_BELOW_C
        return lambda c: press.seconds_above(c, low, at), scorch

    def worst(course):
        return np.maximum(scorch(course), press.risk(press.dose(course, at) / dye.BLOWOUT_FROM))

    return lambda c: dye.density(press.dose(c, at)), worst


def _under(grid: Grid, art: Rectangle) -> np.ndarray:
    """Cells under the art (all of them where it lies beside the platen)."""
    x, y = grid.places_mm.T
    inside = (
        (x >= art.x_mm)
        & (x <= art.x_mm + art.width_mm)
        & (y >= art.y_mm)
        & (y <= art.y_mm + art.height_mm)
    )
    return inside if inside.any() else np.ones(len(x), bool)


def outcome_chart(element: Element, outcome: PlatenOutcome) -> PlatenChart:
    """Lines of density or flowing seconds; hatched where pale or overdone."""
    chart = bare_platen(element)
    view = chart.projection
    x, y, values = outcome.grid.to_the_rims(outcome.filled)
    generator = contour_generator(x, y, values, fill_type=FillType.OuterOffset)
    for level in LEVELS if outcome.is_dye else FLOW_LEVELS_S:
        for points in generator.lines(level):
            chart.lines.append(Line(view.path(points), "target" if level == 0.9 else "even"))
            if len(points) > 8:
                px, py = points[len(points) // 2]
                shown = f"{level:.2f}" if outcome.is_dye else f"{level} s"
                chart.labels.append(Text(view.x(px), view.y(py) + 4, shown, "target"))
    if outcome.is_dye:
        chart.hatched += [
            Line(p, "below") for p in filled_paths(generator, -np.inf, PALE_SHARE, view)
        ]
    _, _, risks = outcome.grid.to_the_rims(outcome.risk)
    hot = contour_generator(x, y, risks, fill_type=FillType.OuterOffset)
    chart.hatched += [Line(p, "above") for p in filled_paths(hot, OVERDONE_RISK, np.inf, view)]
    if outcome.rectangle is not None:
        chart.corners = corner_marks(outcome.rectangle, view)
    chart.art = view.box(
        outcome.art.x_mm, outcome.art.y_mm, outcome.art.width_mm, outcome.art.height_mm
    )
    chart.summary = sentence(outcome)
    return chart


def sentence(outcome: PlatenOutcome) -> str:
    """Where on the platen the piece comes out well, and what the worst place gets."""
    share = float(outcome.good.mean())
    worst = np.unravel_index(int(outcome.filled.argmin()), outcome.filled.shape)
    place = place_words(
        (worst[1] + 0.5) / outcome.grid.columns, (worst[0] + 0.5) / outcome.grid.rows
    )
    least = float(outcome.filled.min())
    told = f"density {least:.2f} of full" if outcome.is_dye else f"{least:.0f}{NO_BREAK}s of flow"
    if share >= ALL_FROM:
        return f"It comes out well all over the platen; least at the {place}: {told}."
    if share <= NONE_UP_TO:
        over = (outcome.risk >= OVERDONE_RISK).mean() > 0.5
        why = "all of it is overdone" if over else f"nowhere enough; most at least {told}"
        return f"Nowhere on this platen does it come out well: {why}."
    return (
        f"It comes out well on {share * 100:.0f}{NO_BREAK}% of the platen; the {place} gets least: "
        f"{told}."
    )


def advice_text(outcome: PlatenOutcome, set_c: float, step_c: float, unit: str) -> str:
    """What to set so that all of the art comes out well, or why nothing does."""
    advice = outcome.advice
    least = (
        f"density {advice.least:.2f} of full"
        if outcome.is_dye
        else f"{advice.least:.0f}{NO_BREAK}s of flow"
    )
    dial = round((set_c + advice.nearest_c / outcome.gain) / step_c) * step_c
    shown = temperature_text(dial, unit)
    if advice.shift_c is None:
        return (
            f"No dial does for all of this art: at {shown} its worst place gets {least} and its "
            f"hottest a risk of {advice.risk:.2f}. Take smaller art, another place or press, or go "
            "longer and lower."
        )
    if abs(advice.shift_c) < step_c / 2:
        return f"The dial is right for this art: its worst place gets {least}, nothing is overdone."
    return f"Set {shown} for this art: then its worst place gets {least}, nothing is overdone."
