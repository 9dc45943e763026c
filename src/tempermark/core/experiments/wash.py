"""Wash trials: how many pieces are still sound after so many washes, and how fast a print fades.

Equation: density after w washes = first · exp(−rate · √w); a print loses most in its first washes.
Survival by the product limit with a log-log interval. Range: up to 200 washes. Source: handbook 1
§7; the product limit as in any text on survival.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.stats import norm

USUAL_ROUNDS = (1, 2, 5, 10)
REST_H = 24.0
CONFIDENCE = 0.9
# A density measured, or read from a five-step scale, scatters by so much (share of full).
DENSITY_SD = 0.06
# Rates that are looked at, per √wash, and starting densities, as shares of the proof's.
RATES = np.linspace(0.0, 1.0, 401)
FIRSTS = np.linspace(0.2, 1.1, 91)
# The share that stands for each step of the density scale: the middle of its range.
DENSITY_OF_SCORE = {1: 0.15, 2: 0.42, 3: 0.65, 4: 0.82, 5: 0.95}


@dataclass(frozen=True)
class WashedPiece:
    """A piece's rounds: after how many washes it was looked at last, and after how many it was
    first found failed; None while it has not, both numbers of washes.
    """

    last_washes: int
    failed_washes: int | None = None


@dataclass(frozen=True)
class SurvivalStep:
    """From so many washes on, the share 0–1 of pieces still sound with its 90 % interval."""

    washes: int
    share: float
    low: float
    high: float
    at_risk: int


@dataclass(frozen=True)
class FadeCurve:
    """Density left over washes: shares 0–1 as (low, middle, high), at `washes` (n,), and the rate
    per √wash as (low, middle, high).
    """

    washes: np.ndarray
    density: np.ndarray
    rate: tuple[float, float, float]


@dataclass(frozen=True)
class FadeDifference:
    """How much less the better arm has lost after so many washes, a share 0–1 of full density, with
    its 90 % interval and the chance 0–1 that it fades less at all.
    """

    better: str
    worse: str
    washes: int
    difference: float
    low: float
    high: float
    chance: float


def survival(pieces: Sequence[WashedPiece]) -> list[SurvivalStep]:
    """The share of sound pieces over numbers of washes; pieces that were not washed on count until
    they were last looked at.
    """
    events = sorted({p.failed_washes for p in pieces if p.failed_washes is not None})
    steps = [SurvivalStep(0, 1.0, 1.0, 1.0, len(pieces))] if pieces else []
    share, greenwood = 1.0, 0.0
    for washes in events:
        at_risk = sum(p.last_washes >= washes for p in pieces)
        failed = sum(p.failed_washes == washes for p in pieces)
        share *= 1 - failed / at_risk
        if at_risk > failed:
            greenwood += failed / (at_risk * (at_risk - failed))
        steps.append(SurvivalStep(washes, share, *_interval(share, greenwood, at_risk), at_risk))
    return steps


def _interval(share: float, greenwood: float, at_risk: int) -> tuple[float, float]:
    z = float(norm.ppf((1 + CONFIDENCE) / 2))
    if not 0 < share < 1:
        # All failed: by the rule for no success among so many.
        return 0.0, 1 - (1 - CONFIDENCE) ** (1 / max(at_risk, 1))
    spread = z * greenwood**0.5 / abs(np.log(share))
    return float(share ** np.exp(spread)), float(share ** np.exp(-spread))


def fade_curve(
    washes: Sequence[float], density: Sequence[float], until: int, points: int = 31
) -> FadeCurve | None:
    """The curve through densities (shares 0–1) after numbers of washes; None for fewer than two
    rounds.
    """
    chances = _posterior(washes, density)
    if chances is None:
        return None
    at = np.linspace(0, until, points)
    firsts, rates = np.meshgrid(FIRSTS, RATES, indexing="ij")
    course = firsts.ravel()[:, None] * np.exp(-rates.ravel()[:, None] * np.sqrt(at)[None, :])
    weights = chances.ravel()
    drawn = np.array([_weighted_quantiles(course[:, n], weights) for n in range(points)])
    rate = _weighted_quantiles(rates.ravel(), weights)
    return FadeCurve(at, drawn, (rate[0], rate[1], rate[2]))


def _posterior(washes: Sequence[float], density: Sequence[float]) -> np.ndarray | None:
    """Chances of (first density, rate) on their grid."""
    w, d = np.asarray(washes, float), np.asarray(density, float)
    if len(set(w.tolist())) < 2:
        return None
    roots = np.sqrt(w)
    expected = FIRSTS[:, None, None] * np.exp(-RATES[None, :, None] * roots[None, None, :])
    logs = -0.5 * (((d - expected) / DENSITY_SD) ** 2).sum(axis=-1)
    raw = np.exp(logs - logs.max())
    return np.asarray(raw / raw.sum())


def _weighted_quantiles(values: np.ndarray, weights: np.ndarray) -> list[float]:
    order = np.argsort(values)
    sums = np.cumsum(weights[order])
    levels = ((1 - CONFIDENCE) / 2, 0.5, (1 + CONFIDENCE) / 2)
    last = len(values) - 1
    return [float(values[order][min(int(np.searchsorted(sums, q)), last)]) for q in levels]


def compare_fading(
    arms: dict[str, tuple[Sequence[float], Sequence[float]]], washes: int
) -> list[FadeDifference]:
    """Arms, each (numbers of washes, densities as shares 0–1), by what is left after so many
    washes: the best against every other; empty for fewer than two that can be fitted.
    """
    left = {
        name: found
        for name, rows in arms.items()
        if (found := _left_after(*rows, washes)) is not None
    }
    if len(left) < 2:
        return []
    means = {name: float((values * weights).sum()) for name, (values, weights) in left.items()}
    best = max(means, key=lambda name: means[name])
    return [_fade_difference(best, name, left, washes) for name in means if name != best]


def _left_after(
    washes: Sequence[float], density: Sequence[float], after: int
) -> tuple[np.ndarray, np.ndarray] | None:
    """Share of the first density that is left, for each rate, and its chance."""
    chances = _posterior(washes, density)
    if chances is None:
        return None
    return np.exp(-RATES * after**0.5), chances.sum(axis=0)


def _fade_difference(
    best: str, other: str, left: dict[str, tuple[np.ndarray, np.ndarray]], washes: int
) -> FadeDifference:
    (a, wa), (b, wb) = left[best], left[other]
    gaps = (a[:, None] - b[None, :]).ravel()
    weights = (wa[:, None] * wb[None, :]).ravel()
    low, middle, high = _weighted_quantiles(gaps, weights)
    same = weights[gaps == 0].sum() / 2
    chance = float(weights[gaps > 0].sum() + same)
    return FadeDifference(best, other, washes, middle, low, high, chance)
