"""What becomes of a verdict that stays open: the act that would decide it, or the tolerance that
the element does keep.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from tempermark.core.metrology.map import verdict as decide
from tempermark.core.metrology.map.verdict import Draws

KEPT_FROM = 0.95
# Where the extremes are known this well (5 to 95 %, without what readings share), the tolerance
# that is kept says more than an open verdict.
LIMIT_WIDTH_C = 5.0
# An act is named where it decides at least this often.
WORTH_FROM = 0.5
# The shared error is gone through at so many of its quantiles.
STEPS = 41


@dataclass(frozen=True)
class Act:
    """Something that can be done once, how long it takes, and which standard error in K all
    readings share afterwards.
    """

    code: str
    minutes: float
    leaves_c: float


@dataclass(frozen=True)
class Outlook:
    """The tolerance in K that is kept with 95 %; whether the edge lies at the tolerance; the act
    that would decide, and how often it does.
    """

    keeps_c: float
    is_limit: bool
    act: Act | None
    decides: float


@dataclass(frozen=True)
class Extremes:
    """What of joint draws (s, m) tells of a verdict: the highest, the lowest and the mean deviation
    of each (s,) in K.
    """

    high_c: np.ndarray
    low_c: np.ndarray
    level_c: np.ndarray


def extremes(draws: Draws) -> Extremes:
    """Those of draws in K."""
    return Extremes(draws.high_c, draws.low_c, draws.deviation_c.mean(axis=1))


def keeps(found: Extremes, sure: float = KEPT_FROM) -> float:
    """The tolerance in K that all of the element keeps, this sure."""
    return float(np.quantile(np.maximum(found.high_c, -found.low_c), sure))


def is_known_closely(found: Extremes) -> bool:
    """Whether the tolerance that is kept is known so closely that it can be said, with the error
    that readings share, which an outlook leaves out.
    """
    return keeps(found, 0.95) - keeps(found, 0.05) <= LIMIT_WIDTH_C


def outlook(found: Extremes, common_c: float, tolerance_c: float, acts: Sequence[Act]) -> Outlook:
    """What would decide. The draws hold the error that readings share (standard, K), which moves
    a draw as a whole: it is told from the rest by the draws' levels. The first of the acts, which
    stand by their cost, that decides often enough is named.
    """
    level = found.level_c
    variance = float(level.var())
    share = min(1.0, common_c**2 / variance) if variance > 0 else 0.0
    shift = share * (level - level.mean())
    high, low = found.high_c - shift, found.low_c - shift
    worst = np.maximum(high, -low)
    width = float(np.quantile(worst, 0.95) - np.quantile(worst, 0.05))
    chances = [(act, _decided(high, low, common_c, act.leaves_c, tolerance_c)) for act in acts]
    named = next(((a, c) for a, c in chances if c >= WORTH_FROM), (None, 0.0))
    return Outlook(keeps(found), width <= LIMIT_WIDTH_C, *named)


def _decided(
    high: np.ndarray, low: np.ndarray, common_c: float, leaves_c: float, tolerance_c: float
) -> float:
    """How often the verdict stands once the shared error is known but for what an act leaves."""
    found_c = float(np.sqrt(max(common_c**2 - leaves_c**2, 0.0)))
    if found_c == 0.0:
        return 0.0
    grid = np.linspace(-3, 3, STEPS)
    weight = np.exp(-0.5 * grid**2)
    weight /= weight.sum()
    # A draw is inside while it is moved by no less than this and no more than that; one that spans
    # more than the tolerance is never.
    least, most = -tolerance_c - low, tolerance_c - high
    fits = least <= most
    least, most = np.sort(least[fits]), np.sort(most[fits])
    moved = found_c * grid[:, None] + min(leaves_c, common_c) * grid
    either = np.searchsorted(least, moved, "right") - np.searchsorted(most, moved, "left")
    probability = either / len(high) @ weight
    is_decided = [decide.classify(float(chance)) != "undecided" for chance in probability]
    return float(weight @ is_decided)
