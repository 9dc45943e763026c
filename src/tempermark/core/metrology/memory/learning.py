"""How far presses move, by their surveys: pooled over presses of a kind, then each its own."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.stats import chi2

from tempermark.core.metrology.memory.looks import DAYS_PER_MONTH, Rates

# The defaults count as so many steps between surveys; those of the kind as so many of a press.
DEFAULT_STEPS, KIND_STEPS = 8.0, 8.0
DEFAULT_SURVEYS = 25.0
# Within these the rates stay, whatever few surveys say.
LEVEL_RANGE_C, NEW_RANGE = (0.2, 2.5), (0.03, 0.4)
# A step that is larger is no drift: something had happened.
LARGEST_STEP_C = 6.0
SHORTEST_DAYS = 0.5
# How far presses of a kind differ is taken as the upper limit that so many samples in a hundred
# keep: few presses say little of it. Below these it stays, however alike they are.
KIND_LIMIT = 0.95
LEAST_LEVEL_C, LEAST_FALL_C_PER_100MM = 1.0, 0.2


@dataclass(frozen=True)
class SurveyStep:
    """From one survey of an element to the next: days, by how much something moved (its level, K;
    its fall, mm), and the standard uncertainty of that in the same unit, without what both share.
    """

    days: float
    moved: float
    uncertainty: float


@dataclass(frozen=True)
class FoundShape:
    """What the newest whole map of an element found: how far its level lies from the dial, K; its
    fall to the right and to the back, K per 100 mm; the standard uncertainties of both.
    """

    level_c: float
    level_uncertainty_c: float
    fall_c_per_100mm: tuple[float, float]
    fall_uncertainty_c_per_100mm: float


def learned(
    own: Sequence[SurveyStep], of_kind: Sequence[SurveyStep], new: int, surveys: int
) -> Rates:
    """The rates of an element by the steps of its level in K and those of its kind; `new` of the
    kind's `surveys` found that something had happened.
    """
    start = Rates()
    level_c = month_step(own, of_kind, start.level_c, LARGEST_STEP_C)
    return replace(
        start,
        level_c=float(np.clip(level_c, *LEVEL_RANGE_C)),
        new_chance=chance_of_new(new, surveys, start.new_chance),
    )


def with_kind(rates: Rates, shapes: Sequence[FoundShape]) -> Rates:
    """The rates with how far presses of its kind differ, by what was found of each."""
    levels = [shape.level_c for shape in shapes]
    falls = [one for shape in shapes for one in shape.fall_c_per_100mm]
    level = kind_spread(levels, [shape.level_uncertainty_c for shape in shapes])
    fall = kind_spread(falls, [s.fall_uncertainty_c_per_100mm for s in shapes for _ in range(2)])
    return replace(
        rates,
        kind_level_c=float(np.clip(level, LEAST_LEVEL_C, rates.kind_level_c)),
        kind_fall_c_per_100mm=float(
            np.clip(fall, LEAST_FALL_C_PER_100MM, rates.kind_fall_c_per_100mm)
        ),
    )


def kind_spread(found: Sequence[float], uncertainty: Sequence[float]) -> float:
    """The upper limit of the standard deviation about none of values, in their unit (K, K per
    100 mm), found with standard uncertainties; infinite without any (chi-square limit of a
    variance).
    """
    if not found:
        return float("inf")
    limit = np.square(found).sum() / chi2.ppf(1 - KIND_LIMIT, len(found))
    return float(np.sqrt(max(limit - np.square(uncertainty).mean(), 0.0)))


def month_step(
    own: Sequence[SurveyStep], of_kind: Sequence[SurveyStep], start: float, largest: float
) -> float:
    """Standard deviation of a month's step, in the steps' unit (K, mm): pooled over those of the
    kind, which lean on `start`, then its own, which lean on the kind's. Larger ones than `largest`
    are left out.
    """
    kind = _variance(of_kind, start**2, DEFAULT_STEPS, largest)
    return float(np.sqrt(_variance(own, kind, KIND_STEPS, largest)))


def chance_of_new(new: int, surveys: int, start: float) -> float:
    """The chance (0–1) that something happens between two surveys, where `new` of so many found
    it; it leans on `start`.
    """
    found = (new + DEFAULT_SURVEYS * start) / (surveys + DEFAULT_SURVEYS)
    return float(np.clip(found, *NEW_RANGE))


def _variance(steps: Sequence[SurveyStep], start: float, weight: float, largest: float) -> float:
    """What is left of each step after its own uncertainty, for a month."""
    total, count = start * weight, weight
    for step in steps:
        if abs(step.moved) <= largest and step.days >= SHORTEST_DAYS:
            months = step.days / DAYS_PER_MONTH
            total += max(step.moved**2 - step.uncertainty**2, 0.0) / months
            count += 1
    return total / count
