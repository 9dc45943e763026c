"""The outcome of a recipe at every place of a platen: its own temperature, its own pressure."""

from dataclasses import dataclass, replace

import numpy as np
from contourpy import FillType, contour_generator

from tempermark.core.metrology.usable import Grid, Rectangle, largest_rectangle
from tempermark.core.thermal import dye, press
from tempermark.core.thermal.places import press_places
from tempermark.web.fit import mapping
from tempermark.web.fit import queries as pressures
from tempermark.web.floor.models import Element
from tempermark.web.kit.places import place_words
from tempermark.web.kit.templatetags.figures import NO_BREAK
from tempermark.web.measure import queries as surveys
from tempermark.web.measure.charts import (
    Line,
    PlatenChart,
    Text,
    bare_platen,
    corner_marks,
    filled_paths,
)
from tempermark.web.setup.heat import ACTIVE_BELOW_C, Pressed

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
    flowing adhesive), and the worst of its risks.
    """

    grid: Grid
    filled: np.ndarray
    risk: np.ndarray
    is_dye: bool
    good: np.ndarray
    with_pressure: bool

    @property
    def rectangle(self) -> Rectangle | None:
        """The largest rectangle that comes out well."""
        return largest_rectangle(self.good, self.grid)


def over_platen(
    element: Element, made: Pressed, set_c: float, when, needed_s: float
) -> PlatenOutcome | None:
    """The outcome over an element at a dial; None while it has no map.

    `needed_s` is how long a film's adhesive must flow. The stack is that of the closing `made`.
    """
    grid = Grid(element.width_mm, element.height_mm, *CELLS)
    known = surveys.true_at(element, grid.places_mm, set_c, when)
    if known is None:
        return None
    pressed = pressures.latest(element, when)
    computed = mapping.compute(pressed) if pressed else None
    kpa = np.full(len(known.value_c), float(made.closing.pressure_kpa[0]))
    if computed is not None and computed.map is not None:
        # The map's shape at the asked mean: how hard it is set is asked, how level is measured.
        shape = np.maximum(computed.map.at(grid.places_mm), 1.0)
        kpa = np.maximum(kpa * shape / shape.mean(), 1.0)
    lower = made.closing.lower_c
    closing = replace(
        made.closing,
        upper_c=known.value_c,
        pressure_kpa=kpa,
        lower_c=None if lower is None else np.full(len(kpa), float(lower[0])),
    )
    platen = press_places(closing)
    at = made.interface
    scorch = platen.over(lambda c: press.risk(press.over_time(c, press.scorch_rate, at)))
    if made.is_dye:
        doses = platen.over(lambda c: press.dose(c, at))
        filled = dye.density(doses)
        risk = np.maximum(scorch, press.risk(doses / dye.BLOWOUT_FROM))
        good = (filled >= PALE_SHARE) & (risk < OVERDONE_RISK)
    else:
        low = made.window_low_c - ACTIVE_BELOW_C
        filled = platen.over(lambda c: press.seconds_above(c, low, at))
        risk = scorch
        good = (filled >= needed_s) & (risk < OVERDONE_RISK)
    return PlatenOutcome(
        grid,
        grid.shaped(filled),
        grid.shaped(risk),
        made.is_dye,
        grid.shaped(good),
        computed is not None,
    )


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
