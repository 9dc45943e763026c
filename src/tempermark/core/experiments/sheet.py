"""What the scored presses of a ladder sheet say: the curve along the ladder with its band, the
settings that are sure, and what more presses would bring.

Method: the imagined shops of search.py, weighted by the scores; a curve's band holds 90 % of them.
"""

from dataclasses import dataclass
from functools import lru_cache
from math import ceil, log

import numpy as np

from tempermark.core.experiments.search import (
    ScoredPress,
    SearchResult,
    is_good,
    likely_shops,
    search,
)
from tempermark.core.experiments.surface import PressTables

LEVELS = (0.05, 0.5, 0.95)
CURVE_POINTS = 41
# The span named is where each setting is nearly as sure as the best.
NEARLY = 0.05
MOST_MORE = 6


@dataclass(frozen=True)
class FittedCurve:
    """Along a ladder: the factor's values (°C or s), the share 0–1 that is filled and the greatest
    risk 0–1, each as (low, middle, high) of the shops, and the chance 0–1 to come out good.
    """

    values: np.ndarray
    filled: np.ndarray
    risk: np.ndarray
    chance: np.ndarray


@dataclass(frozen=True)
class LadderAnswer:
    """The best setting (dial °C, dwell s, chance 0–1), the span of dials that is as sure at that
    dwell, the span of dwells at that dial, and how many more presses would halve what is not sure;
    None where more would not.
    """

    result: SearchResult
    dials_c: tuple[float, float]
    dwells_s: tuple[float, float]
    more_to_halve: int | None


@lru_cache(maxsize=64)
def fitted_curve(
    surface: PressTables,
    window: tuple[tuple[float, float], tuple[float, float]],
    tested: tuple[ScoredPress, ...],
    display_sd_k: float,
    factor: str,
    fixed: float,
) -> FittedCurve:
    """The curve over a window of (dials in °C, dwells in s) along `set_c` or `time_s`, the other
    one held at `fixed`; the display's error is known to a standard in K.
    """
    shops = likely_shops(surface, window, tested, display_sd_k)
    span = window[0] if factor == "set_c" else window[1]
    values = np.linspace(*span, CURVE_POINTS)
    other = np.full(CURVE_POINTS, fixed)
    dials, dwells = (values, other) if factor == "set_c" else (other, values)
    expected = surface.expected(shops, dials, dwells)
    return FittedCurve(
        values,
        np.quantile(expected.filled, LEVELS, axis=1).T,
        np.quantile(expected.risk, LEVELS, axis=1).T,
        is_good(expected).mean(axis=1),
    )


@lru_cache(maxsize=64)
def answer(
    surface: PressTables,
    window: tuple[tuple[float, float], tuple[float, float]],
    tested: tuple[ScoredPress, ...],
    display_sd_k: float,
) -> LadderAnswer:
    """What is known of a window of (dials in °C, dwells in s) by its scored presses."""
    found = search(surface, *window, tested, display_sd_k)
    cells = np.array([(one.set_c, one.time_s, one.chance) for one in found.region])
    dials = _span(cells, found.best.time_s, found.best.set_c, held=1, free=0)
    dwells = _span(cells, found.best.set_c, found.best.time_s, held=0, free=1)
    return LadderAnswer(found, dials, dwells, _more(found))


def _span(
    cells: np.ndarray, held_at: float, best: float, held: int, free: int
) -> tuple[float, float]:
    """The unbroken span about the best in which each setting is nearly as sure."""
    levels = np.unique(cells[:, held])
    nearest = levels[np.argmin(np.abs(levels - held_at))]
    row = cells[cells[:, held] == nearest]
    row = row[np.argsort(row[:, free])]
    at = int(np.argmin(np.abs(row[:, free] - best)))
    least = row[at, 2] - NEARLY
    low = high = at
    while low > 0 and row[low - 1, 2] >= least:
        low -= 1
    while high < len(row) - 1 and row[high + 1, 2] >= least:
        high += 1
    return min(float(row[low, free]), best), max(float(row[high, free]), best)


def _more(found: SearchResult) -> int | None:
    """Presses that halve the doubt about the best setting, each taken to bring what the next one
    does; None where that is more than a few.
    """
    doubt = 1 - found.best.chance
    if doubt <= 0 or found.gain <= 0:
        return None
    left = max((doubt - found.gain) / doubt, 1e-6)
    count = ceil(log(0.5) / log(left)) if left < 1 else MOST_MORE + 1
    return max(count, 1) if count <= MOST_MORE else None
