"""Arms of a comparison: their mean scores, how they differ, and how sure that is.

Equation: score = arm + block + error; least squares over arms and blocks, intervals from Student's
t. The error is never taken smaller than a person's own (one score in five is off by a step).
Source: handbook 1 §7; randomised blocks as in any text on experiments.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.stats import t as student

# What a person's scoring alone scatters by, in steps (√0.2).
EYE_SD = 0.45
CONFIDENCE = 0.9


@dataclass(frozen=True)
class ScoredArm:
    """A score in steps from 1 to 5 of an arm in a block."""

    arm: str
    block: int
    score: float


@dataclass(frozen=True)
class ArmMean:
    """An arm's mean score in steps, its 90 % interval, and of how many presses, a number."""

    arm: str
    mean: float
    low: float
    high: float
    count: int


@dataclass(frozen=True)
class ArmDifference:
    """How much better the first arm is than the second, in steps, with its 90 % interval and the
    chance 0–1 that it is better at all.
    """

    better: str
    worse: str
    difference: float
    low: float
    high: float
    chance: float


@dataclass(frozen=True)
class ArmsResult:
    """Every arm, the best first, and how the best compares with each other one."""

    means: tuple[ArmMean, ...]
    differences: tuple[ArmDifference, ...]


def compare_arms(rows: Sequence[ScoredArm]) -> ArmsResult | None:
    """What scores (in steps) of arms in blocks say; None while fewer than two arms are scored."""
    arms = sorted({row.arm for row in rows})
    if len(arms) < 2:
        return None
    blocks = sorted({row.block for row in rows})
    design = np.array(
        [[row.arm == arm for arm in arms] + [row.block == b for b in blocks[1:]] for row in rows],
        float,
    )
    scores = np.array([row.score for row in rows], float)
    found, _, rank, _ = np.linalg.lstsq(design, scores, rcond=None)
    degrees_of_freedom = max(len(scores) - int(rank), 1)
    residual = scores - design @ found
    variance = max(float(residual @ residual) / degrees_of_freedom, EYE_SD**2)
    covariance = variance * np.linalg.pinv(design.T @ design)
    half = float(student.ppf((1 + CONFIDENCE) / 2, degrees_of_freedom))
    # Each arm at the mean of the blocks.
    shares = [np.mean([row.block == b for row in rows]) for b in blocks[1:]]
    means = []
    for n, arm in enumerate(arms):
        pick = np.array([float(k == n) for k in range(len(arms))] + shares)
        spread = half * float(pick @ covariance @ pick) ** 0.5
        mean = float(pick @ found)
        count = sum(row.arm == arm for row in rows)
        means.append(ArmMean(arm, mean, mean - spread, mean + spread, count))
    ordered = tuple(sorted(means, key=lambda one: (-one.mean, one.arm)))
    best = arms.index(ordered[0].arm)
    differences = tuple(
        _difference(arms, best, arms.index(other.arm), found, covariance, degrees_of_freedom, half)
        for other in ordered[1:]
    )
    return ArmsResult(ordered, differences)


def _difference(
    arms: list[str],
    best: int,
    other: int,
    found: np.ndarray,
    covariance: np.ndarray,
    degrees_of_freedom: int,
    half: float,
) -> ArmDifference:
    contrast = np.zeros(len(found))
    contrast[best], contrast[other] = 1.0, -1.0
    difference = float(contrast @ found)
    sd = float(contrast @ covariance @ contrast) ** 0.5
    chance = float(student.cdf(difference / sd, degrees_of_freedom)) if sd > 0 else 0.5
    low, high = difference - half * sd, difference + half * sd
    return ArmDifference(arms[best], arms[other], difference, low, high, chance)
