"""An element's calibration line as numbers for its SVG and its words."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import partial
from typing import Any

import numpy as np

from tempermark.core.constants import COVERAGE_FACTOR
from tempermark.core.metrology.press.calibration import LEAST_SETTING_SPAN_C, AnchoredLine
from tempermark.core.metrology.press.dial import DialSetting
from tempermark.core.units import from_si, to_si
from tempermark.web.kit.drawing.places import place_words
from tempermark.web.kit.figures import (
    difference_text,
    temperature_text,
)
from tempermark.web.kit.units import Units
from tempermark.web.measure.models import Survey
from tempermark.web.measure.press.press_temperature import PROVEN_REACH_C, TrueTemperature
from tempermark.web.presses.models import Element

WIDTH, HEIGHT = 620.0, 430.0
LEFT, RIGHT, TOP, BOTTOM = 60.0, 14.0, 14.0, 46.0
MARGIN_C = 20.0
BAND_POINTS = 41
THIRDS = (1 / 6, 1 / 2, 5 / 6)


@dataclass
class LineChart:
    """The line with its band, surveys and the target, in SVG units."""

    width: float = WIDTH
    height: float = HEIGHT
    left: float = LEFT
    bottom: float = HEIGHT - BOTTOM
    right: float = WIDTH - RIGHT
    band: str = ""
    line: str = ""
    identity: str = ""
    points: list[dict[str, Any]] = field(default_factory=list)
    x_ticks: list[dict[str, Any]] = field(default_factory=list)
    y_ticks: list[dict[str, Any]] = field(default_factory=list)
    target: dict[str, Any] = field(default_factory=dict[str, Any])


def line_chart(
    line: AnchoredLine, surveys: list[Survey], target_c: float, units: Units
) -> LineChart:
    """True mean over dial, its band (k = 2), the surveys, and how a target finds its dial."""
    setting = line.dial_for(target_c).exact_c
    dials = [*line.set_range_c, setting, *(s.set_c for s in surveys)]
    low, high = min(dials) - MARGIN_C, max(dials) + MARGIN_C
    at = np.linspace(low, high, BAND_POINTS)
    true, reach = line.true_c(at), COVERAGE_FACTOR * line.standard_uncertainty_c(at)
    bottom, top = float((true - reach).min()), float((true + reach).max())

    def x(value: float) -> float:
        return round(LEFT + (value - low) / (high - low) * (WIDTH - LEFT - RIGHT), 1)

    def y(value: float) -> float:
        inside = (value - bottom) / (top - bottom)
        return round(HEIGHT - BOTTOM - inside * (HEIGHT - TOP - BOTTOM), 1)

    def path(points: Iterator[Any] | list[tuple[float, float]]) -> str:
        return "M" + " L".join(f"{x(a)} {y(b)}" for a, b in points)

    over = list(zip(at, true + reach, strict=True))
    under = list(zip(at, true - reach, strict=True))
    start, end = max(low, bottom), min(high, top)
    return LineChart(
        band=path([*over, *under[::-1]]) + " Z",
        line=path(zip(at, true, strict=True)),
        identity=path([(start, start), (end, end)]) if start < end else "",
        points=[_point(s, x, y) for s in surveys],
        x_ticks=_ticks(low, high, x, units),
        y_ticks=_ticks(bottom, top, y, units),
        target={"x": x(setting), "y": y(target_c)},
    )


def _point(survey: Survey, x: Callable[..., Any], y: Callable[..., Any]) -> dict[str, Any]:
    reach = survey.mean_uncertainty_c or 0.0
    return {
        "x": x(survey.set_c),
        "y": y(survey.mean_true_c),
        "top": y(survey.mean_true_c + reach),
        "bottom": y(survey.mean_true_c - reach),
        "title": f"{survey.taken_at:%Y-%m-%d}",
    }


def _ticks(
    low: float, high: float, place: Callable[..., Any], units: Units
) -> list[dict[str, Any]]:
    to = partial(from_si, quantity="temperature", unit=units.temperature)
    first, last = to(low), to(high)
    step = next((s for s in (5, 10, 20, 50, 100) if (last - first) / s <= 8), 200)
    marks = np.arange(np.ceil(first / step) * step, last, step)
    return [
        {"at": place(to_si(m, "temperature", units.temperature)), "text": f"{m:.0f}"} for m in marks
    ]


@dataclass(frozen=True)
class LineSummary:
    """What the line says for one target."""

    headline: str
    how_sure: str
    basis: str


def summary(
    line: AnchoredLine, name: str, target_c: float, dial: DialSetting, far: bool, units: Units
) -> LineSummary:
    """The setting for a target with its uncertainty, and what that rests on."""
    target, shown = temperature_text(target_c, units), temperature_text(dial.set_c, units)
    reach = difference_text(dial.expanded_uncertainty_c, units, 1, sign=False)
    low, high = line.set_range_c
    apart = f"{difference_text(20, units, sign=False)} to {difference_text(40, units, sign=False)}"
    if high - low < LEAST_SETTING_SPAN_C:
        basis = (
            f"Surveyed only at {temperature_text(line.anchor_set_c, units)}: the gain is "
            f"assumed to be {line.gain:.2f} ± {COVERAGE_FACTOR * line.gain_sd:.2f}. A second "
            f"survey {apart} away would narrow the band."
        )
    else:
        basis = (
            f"{line.count} surveys from {temperature_text(low, units)} to "
            f"{temperature_text(high, units)} on the dial give a gain of {line.gain:.3f} ± "
            f"{COVERAGE_FACTOR * line.gain_sd:.3f}."
        )
    sure = f"The mean is then known to within ± {reach} (k = 2)."
    if far:
        near = difference_text(PROVEN_REACH_C, units, sign=False)
        sure = f"A guess: no survey was within {near} of that setting. {sure}"
    return LineSummary(f"For {target} true, set {name} to {shown}.", sure, basis)


def place_settings(
    at: TrueTemperature, target_c: float, dial_c: float, units: Units
) -> list[dict[str, Any]]:
    """The setting for a print at each ninth of the platen, and whether it is another than
    `dial_c`; `at` is of the nine.
    """
    rows, usual = [], temperature_text(dial_c, units)
    for n, ((x, y), value) in enumerate(zip(NINTHS, at.value_c, strict=True)):
        spread = at.standard_uncertainty_c[n]
        setting = temperature_text(at.dial_for(target_c, n).set_c, units)
        rows.append(
            {
                "place": place_words(x, y),
                "true": temperature_text(float(value), units, 1),
                "reach": difference_text(2 * float(spread), units, 1, sign=False),
                "setting": setting,
                "is_other": setting != usual,
            }
        )
    return rows


# Middles of the platen's ninths, as shares from the front left, back row first.
NINTHS = [(x, y) for y in reversed(THIRDS) for x in THIRDS]


def ninths_mm(element: Element) -> np.ndarray:
    """The nine places (9, 2) in mm."""
    return np.array(NINTHS) * [element.width_mm, element.height_mm]
