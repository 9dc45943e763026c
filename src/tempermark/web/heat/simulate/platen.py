"""The outcome of a recipe at every place of a platen: its own temperature, its own pressure."""

from dataclasses import dataclass, replace
from datetime import datetime

import numpy as np
from contourpy import FillType, contour_generator

from tempermark.core.metrology.map.usable import Grid, Rectangle, largest_rectangle
from tempermark.core.metrology.press.dial import KnownDial, dial_setting
from tempermark.core.pressing.closing import PressResult
from tempermark.core.pressing.verdict import GOOD_FROM, RISK_LIMIT, SLIGHTLY_FROM, is_good
from tempermark.core.thermal.result.advise import REACH_K, Setting, best_setting
from tempermark.core.thermal.result.outcome import PressOutcome, outcome
from tempermark.core.thermal.solver.places import Spread, spread_over
from tempermark.web.heat.simulate.on_press import PlatenTemperature
from tempermark.web.heat.simulate.words import RISK_NAMES
from tempermark.web.kit.drawing.places import place_words
from tempermark.web.kit.figures import NO_BREAK, share_text, temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.measure.surveys.charts import (
    Line,
    PlatenChart,
    Text,
    bare_platen,
    corner_marks,
    filled_paths,
)
from tempermark.web.presses.models import Element
from tempermark.web.pressure import mapping
from tempermark.web.pressure import queries as pressures

CELLS = (32, 24)
RISK_LEVELS = (0.01, 0.05, 0.1, 0.2, 0.3, 0.5, 0.7, 0.9)
WATER_LEVELS = (0.1, 0.5, 1, 2, 5, 10, 20, 50, 100)
LEVELS = (0.2, 0.4, 0.5, 0.6, 0.7, 0.8, 0.85, 0.9, 0.95, 0.98)
# Shares of the platen that are nearly all and nearly none.
ALL_FROM, NONE_UP_TO = 0.995, 0.005


@dataclass(frozen=True)
class Longer:
    """Another dwell of the recipe's window, s, and the dial's change with which it serves."""

    dwell_s: float
    setting: Setting


@dataclass(frozen=True)
class PlatenOutcome:
    """How a piece comes out at each cell (rows, columns): share of full density or bond, and the
    worst of its risks. `advice` is of the cells under the art, `worst_under` the outcome there.
    """

    grid: Grid
    filled: np.ndarray
    risk: np.ndarray
    risk_name: str
    is_dye: bool
    good: np.ndarray
    with_pressure: bool
    art: Rectangle
    advice: Setting
    longer: Longer | None
    gain: float
    under_art: dict[str, tuple[float, float]]
    layers: dict[str, np.ndarray]

    @property
    def rectangle(self) -> Rectangle | None:
        """The largest rectangle that comes out well."""
        return largest_rectangle(self.good, self.grid)


def grid_of(element: Element) -> Grid:
    """The cells at which an outcome is told."""
    return Grid(element.width_mm, element.height_mm, *CELLS)


def outcome_over(
    element: Element,
    pressed: PressResult,
    temperature: PlatenTemperature,
    when: datetime,
    art: Rectangle,
) -> PlatenOutcome | None:
    """The outcome at the cells of an element, where it stands; None while it has no map.

    The stack is that of the closing `pressed`.
    """
    if temperature.over_c is None:
        return None
    grid, warm = grid_of(element), temperature.over_c
    kpa, with_pressure = _contact(element, pressed, grid, when)
    under = _under(grid, art)
    spread = _spread(pressed, warm, kpa)
    reaches = spread.at(warm, kpa)
    result = outcome(reaches, pressed.piece, kpa)
    values, risks = _filled(pressed, result), result.worst_risk
    what = "density" if pressed.is_dye else "bond"
    spans = {what: (values[under].min(), values[under].max())}
    spans |= {RISK_NAMES[n]: (v[under].min(), v[under].max()) for n, v in result.risks.items()}
    advice = _advise(pressed, spread, warm[under], kpa[under])
    return PlatenOutcome(
        grid,
        grid.shaped(values),
        grid.shaped(risks),
        max(result.risks, key=lambda name: float(result.risks[name].max())),
        pressed.is_dye,
        grid.shaped(is_good(values, risks)),
        with_pressure,
        art,
        advice,
        _longer(pressed, warm, kpa, under) if advice.shift_c is None else None,
        temperature.gain,
        {name: (float(low), float(high)) for name, (low, high) in spans.items()},
        {name: grid.shaped(v) for name, v in result.risks.items()}
        | {"water": grid.shaped(reaches.water_kg_m2 * 1e3)},
    )


def _spread(pressed: PressResult, warm: np.ndarray, kpa: np.ndarray) -> Spread:
    return spread_over(
        pressed.closing,
        pressed.piece,
        (float(warm.min()) - REACH_K, float(warm.max()) + REACH_K),
        (float(kpa.min()), float(kpa.max())),
    )


def _filled(pressed: PressResult, result: PressOutcome) -> np.ndarray:
    """Share of the density this blank can take, or of a full bond."""
    return result.density / max(pressed.piece.share, 1e-9) if pressed.is_dye else result.bond


def _advise(pressed: PressResult, spread: Spread, warm: np.ndarray, kpa: np.ndarray) -> Setting:
    """The dial's change that serves the cells under the art, inside the recipe's window."""
    low, high = pressed.request.step.temperature_c or (-np.inf, np.inf)
    mean = float(warm.mean())
    return best_setting(
        spread,
        pressed.piece,
        warm,
        kpa,
        lambda result: _filled(pressed, result),
        GOOD_FROM,
        SLIGHTLY_FROM,
        RISK_LIMIT,
        (low - mean, high - mean),
    )


def _longer(
    pressed: PressResult, warm: np.ndarray, kpa: np.ndarray, under: np.ndarray
) -> Longer | None:
    """The end of the dwell's window at which all of the art does come out, and the dial's change
    for it; None where neither end helps.
    """
    for dwell_s in reversed(pressed.request.step.time_s or ()):
        if dwell_s == pressed.closing.time_s:
            continue
        other = replace(pressed, closing=replace(pressed.closing, time_s=float(dwell_s)))
        setting = _advise(other, _spread(other, warm, kpa), warm[under], kpa[under])
        if setting.shift_c is not None:
            return Longer(float(dwell_s), setting)
    return None


def _contact(
    element: Element, result: PressResult, grid: Grid, when: datetime
) -> tuple[np.ndarray, bool]:
    """Contact (cells,) in kPa: the map's shape at the asked mean. How hard it is set is asked,
    how level it lies is measured.
    """
    query = float(result.closing.pressure_kpa[0])
    pressed = pressures.latest(element, when)
    computed = mapping.compute(pressed) if pressed else None
    if computed is None or computed.map is None:
        return np.full(grid.rows * grid.columns, query), False
    shape = np.maximum(computed.map.at(grid.places_mm), 1.0)
    return np.maximum(query * shape / shape.mean(), 1.0), True


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


def outcome_chart(
    element: Element, outcome: PlatenOutcome, units: Units, shown: str = ""
) -> PlatenChart:
    """Lines of density or bond, or of a risk or water; hatched where too little or overdone."""
    chart = bare_platen(element, units)
    view = chart.projection
    x, y, values = outcome.grid.to_the_rims(outcome.filled)
    generator = contour_generator(x, y, values, fill_type=FillType.OuterOffset)
    drawn = generator
    levels: tuple[float, ...] = LEVELS
    if shown in outcome.layers:
        drawn = contour_generator(*outcome.grid.to_the_rims(outcome.layers[shown]))
        levels = WATER_LEVELS if shown == "water" else RISK_LEVELS
    for level in levels:
        for points in drawn.lines(level):
            chart.lines.append(Line(view.path(points), "target" if level == 0.9 else "even"))
            if len(points) > 8:
                px, py = points[len(points) // 2]
                chart.labels.append(Text(view.x(px), view.y(py) + 4, f"{level:g}", "target"))
    chart.hatched += [
        Line(p, "below") for p in filled_paths(generator, -np.inf, SLIGHTLY_FROM, view)
    ]
    _, _, risks = outcome.grid.to_the_rims(outcome.risk)
    hot = contour_generator(x, y, risks, fill_type=FillType.OuterOffset)
    chart.hatched += [Line(p, "above") for p in filled_paths(hot, RISK_LIMIT, np.inf, view)]
    if outcome.rectangle is not None:
        chart.corners = corner_marks(outcome.rectangle, view)
    chart.art = view.box(
        outcome.art.x_mm, outcome.art.y_mm, outcome.art.width_mm, outcome.art.height_mm
    )
    chart.art["right"] = round(chart.art["x"] + chart.art["width"], 2)
    chart.summary = sentence(outcome)
    return chart


def _share(outcome: PlatenOutcome, value: float) -> str:
    return f"{share_text(value)} of {'full density' if outcome.is_dye else 'a full bond'}"


def sentence(outcome: PlatenOutcome) -> str:
    """Where on the platen the piece comes out well, and what the worst place gets."""
    share = float(outcome.good.mean())
    worst = np.unravel_index(int(outcome.filled.argmin()), outcome.filled.shape)
    place = place_words(
        (worst[1] + 0.5) / outcome.grid.columns, (worst[0] + 0.5) / outcome.grid.rows
    )
    least = _share(outcome, float(outcome.filled.min()))
    if share >= ALL_FROM:
        return f"Good all over the platen; the {place} gets least, {least}."
    if share <= NONE_UP_TO:
        over = (outcome.risk > RISK_LIMIT).mean() > 0.5
        most = _share(outcome, float(outcome.filled.max()))
        risk = RISK_NAMES[outcome.risk_name]
        why = f"all of it is overdone, {risk} first" if over else f"the best place reaches {most}"
        return f"No place on this platen is good: {why}."
    return f"Good on {share_text(share)} of the platen; the {place} gets least, {least}."


def dial_for_art(outcome: PlatenOutcome, set_c: float, step_c: float) -> float:
    """The dial at which the art comes out well, or the one that comes nearest, in its steps."""
    known = KnownDial(set_c, 0.0, outcome.gain)
    return dial_setting(outcome.advice.nearest_c, known, step_c).set_c


def advice_text(
    outcome: PlatenOutcome, set_c: float, step_c: float, pressed: PressResult, units: Units
) -> str:
    """What to set so that all of the art comes out well, or why nothing inside the recipe's window
    does and what else to change.
    """
    advice = outcome.advice
    least = _share(outcome, advice.least)
    shown = temperature_text(dial_for_art(outcome, set_c, step_c), units)
    if advice.shift_c is not None:
        if abs(advice.shift_c) < step_c / 2:
            return f"The dial is right for this art: its worst place reaches {least}."
        return f"Set {shown} for this art: its worst place then reaches {least}."
    window = pressed.request.step.temperature_c
    inside = (
        f" between {temperature_text(window[0], units)}"
        f" and {temperature_text(window[1], units)} true"
        if window
        else ""
    )
    why = f"at {shown} its worst place reaches {least}"
    if advice.risk > RISK_LIMIT:
        why += f", and {RISK_NAMES[advice.risk_name]} is {share_text(advice.risk)} likely"
    return f"No setting{inside} suits the whole print: {why}. {_instead(outcome, advice)}"


def _instead(outcome: PlatenOutcome, advice: Setting) -> str:
    if outcome.longer is not None:
        return f"A dwell of {outcome.longer.dwell_s:g}{NO_BREAK}s suits it."
    if advice.least < SLIGHTLY_FROM and advice.risk <= RISK_LIMIT:
        return (
            "Press smaller art on the warm part of the platen, take fewer sheets above it, or use "
            "another press."
        )
    return "Press smaller art, move it, or use another press."
