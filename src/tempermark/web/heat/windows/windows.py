"""A recipe's window on a press: the area that works, the press's own uncertainty in it, dwells for
other conditions.
"""

from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

import numpy as np

from tempermark.core.pressing.closing import PressResult
from tempermark.core.pressing.request import PressRequest
from tempermark.core.pressing.verdict import is_good
from tempermark.core.recipes.layers import code_of
from tempermark.core.recipes.steps import Sheet
from tempermark.core.recipes.windows import SettingWindow, Shared, chance_inside, shared
from tempermark.core.thermal.result import dye
from tempermark.core.thermal.result.dwell import TIMER_SD_S, Area
from tempermark.core.thermal.result.outcome import PressOutcome
from tempermark.core.thermal.result.sampled import FLOW_SHARE
from tempermark.web.heat.simulate import on_press, pressing
from tempermark.web.presses.models import Element
from tempermark.web.recipes.materials.library import ShopLibrary
from tempermark.web.recipes.models import RecipeVersion

# How far beyond the windows the area is looked at, in K and as a share of the longest dwell.
AROUND_K, AROUND_SHARE, SHORTEST_S = 16.0, 0.7, 0.5
# What a display that was never checked is known to, standard, K (presses run hot or cold by 15).
NEVER_SD_C = 6.0
# Nodes over how fast dye or adhesive is.
RATE_NODES = 7


@dataclass(frozen=True)
class PressEllipse:
    """A press's true temperature: °C under the middle and its standard uncertainty."""

    true_c: float
    sd_c: float
    measured: bool


@dataclass(frozen=True)
class WindowAnswer:
    """What is told of recipes at a setting.

    `good` (w, t) over the area; chances that this press lands in what works, and in the first
    recipe's own rectangle.
    """

    windows: list[SettingWindow]
    shared: Shared
    area: Area
    filled: np.ndarray
    good: np.ndarray
    press: PressEllipse
    dwell_s: float
    chance_works: float
    chance_window: float


def window_of(version: RecipeVersion) -> SettingWindow:
    """The window of a recipe's main press."""
    return SettingWindow(
        (version.low_c, version.high_c), (version.low_s, version.high_s), version.recipe.name
    )


def press_ellipse(element: Element, set_c: float, when: datetime) -> PressEllipse:
    """Where an element really is at a dial."""
    true_c, sd = on_press.true_under(element, set_c, when)
    return PressEllipse(true_c, NEVER_SD_C if sd is None else sd, sd is not None)


def answer(pressed: PressResult, windows: list[SettingWindow], press: PressEllipse) -> WindowAnswer:
    """The area around some windows for the stack of a closing, and where a press stands in it."""
    warm, times = _span(windows, press.true_c, pressed.request.dwell_s)
    found = pressing.area_of(pressed, warm, times)
    filled = _filled(found.outcome, pressed)
    good = _good(found.outcome, pressed)
    at = (press.true_c, press.sd_c, pressed.request.dwell_s, TIMER_SD_S)
    return WindowAnswer(
        windows,
        shared(windows),
        found,
        filled,
        good,
        press,
        pressed.request.dwell_s,
        _chance_works(found, pressed, at),
        chance_inside(windows[0], *at),
    )


def _filled(result: PressOutcome, pressed: PressResult) -> np.ndarray:
    return result.density / max(pressed.piece.share, 1e-9) if pressed.is_dye else result.bond


def _good(result: PressOutcome, pressed: PressResult) -> np.ndarray:
    return is_good(_filled(result, pressed), result.worst_risk)


def _chance_works(found: Area, pressed: PressResult, at: tuple[float, ...]) -> float:
    """Chance that it comes out well, over where the press is and how fast dye or adhesive is."""
    share = FLOW_SHARE
    if pressed.is_dye and pressed.receiver is not None:
        share = (pressed.request.law_known or pressed.receiver.known).rate_share
    nodes, weights = np.polynomial.hermite_e.hermegauss(RATE_NODES)
    chances = [
        found.chance(
            _good(found.with_rate(factor, pressed.piece, pressed.request.kpa), pressed), *at
        )
        for factor in np.exp(share * nodes)
    ]
    return float(np.dot(weights / weights.sum(), chances))


def _span(
    windows: list[SettingWindow], true_c: float, dwell_s: float
) -> tuple[tuple[float, float], tuple[float, float]]:
    lows = [w.temperature_c[0] for w in windows] + [true_c]
    highs = [w.temperature_c[1] for w in windows] + [true_c]
    shortest = min([w.time_s[0] for w in windows] + [dwell_s])
    longest = max([w.time_s[1] for w in windows] + [dwell_s])
    times = (max(SHORTEST_S, shortest * (1 - AROUND_SHARE)), longest * (1 + AROUND_SHARE))
    return (min(lows) - AROUND_K, max(highs) + AROUND_K), times


def equal_dose_s(pressed: PressResult, to_c: float) -> float:
    """Dwell at another platen temperature for the same dose, by the dye's law alone."""
    return dye.equal_dose_time_s(
        pressed.request.true_c, pressed.request.dwell_s, to_c, pressed.piece.law
    )


def dwell_at(
    pressed: PressResult, library: ShopLibrary, sheet: Sheet, **changes: Any
) -> float | None:
    """Dwell that gives a changed closing what this one gives; None where it never does.

    `changes` are of the request: another `true_c`, `stack`, `kpa` or `pad_c`.
    """
    return pressing.dwell_like(pressed, sheet, replace(pressed.request, **changes), library)


def with_sheets(request: PressRequest, material: str, sheets: int) -> tuple[str, ...]:
    """The stack with sheets more (or fewer, from the uppermost of that material) above all."""
    if sheets >= 0:
        return (material,) * sheets + request.stack
    left, out = -sheets, []
    for entry in request.stack:
        if left and code_of(entry) == material:
            left -= 1
        else:
            out.append(entry)
    return tuple(out)
