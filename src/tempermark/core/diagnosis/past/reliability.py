"""How well past probabilities held: reliability by bins, Brier score, and what is left to gain."""

from dataclasses import dataclass

import numpy as np
from scipy.stats import binomtest

BINS = 10
# Of the interval about each rate.
CONFIDENCE = 0.9


@dataclass(frozen=True)
class Bin:
    """Causes given a probability in a range: mean of it, how often it was so, its interval."""

    low: float
    high: float
    stated: float
    came_true: float
    interval: tuple[float, float]
    count: int


@dataclass(frozen=True)
class Reliability:
    """Bins that hold something; Brier score, that of always stating the mean rate, and pairs."""

    bins: list[Bin]
    brier: float
    brier_of_mean: float
    count: int


def reliability(stated: np.ndarray, came_true: np.ndarray) -> Reliability:
    """Of probabilities (n,) and whether each came true (n,). ValueError with nothing."""
    stated, came_true = np.asarray(stated, float), np.asarray(came_true, float)
    if not len(stated):
        raise ValueError("Nothing was stated yet.")
    place = np.clip((stated * BINS).astype(int), 0, BINS - 1)
    bins = []
    for n in range(BINS):
        inside = place == n
        count = int(inside.sum())
        if count:
            rate = float(came_true[inside].mean())
            bins.append(
                Bin(
                    n / BINS,
                    (n + 1) / BINS,
                    float(stated[inside].mean()),
                    rate,
                    _interval(int(came_true[inside].sum()), count),
                    count,
                )
            )
    brier = float(np.mean((stated - came_true) ** 2))
    mean = float(came_true.mean())
    return Reliability(bins, brier, float(np.mean((mean - came_true) ** 2)), len(stated))


def _interval(yes: int, count: int) -> tuple[float, float]:
    """Interval of a rate seen in `count` (Wilson score)."""
    found = binomtest(yes, count).proportion_ci(CONFIDENCE, method="wilson")
    return float(found.low), float(found.high)
