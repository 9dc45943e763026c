"""How far presses move, by their surveys: pooled over presses of a kind, then each its own."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from tempermark.core.metrology.memory.looks import DAYS_PER_MONTH, Rates

# The defaults count as so many steps between surveys; those of the kind as so many of a press.
DEFAULT_STEPS, KIND_STEPS = 8.0, 8.0
DEFAULT_SURVEYS = 25.0
# Within these the rates stay, whatever few surveys say.
LEVEL_RANGE_C, NEW_RANGE = (0.2, 2.5), (0.03, 0.4)
# A step that is larger is no drift: something had happened.
LARGEST_STEP_C = 6.0
SHORTEST_DAYS = 0.5


@dataclass(frozen=True)
class SurveyStep:
    """From one survey of an element to the next: days, by how much its level moved (K), and the
    standard uncertainty of that (K), without what both share.
    """

    days: float
    moved_c: float
    uncertainty_c: float


def learned(
    own: Sequence[SurveyStep],
    of_kind: Sequence[SurveyStep],
    new: int,
    surveys: int,
    start: Rates | None = None,
) -> Rates:
    """The rates of an element by its own steps and those of its kind; `new` of the kind's `surveys`
    found that something had happened.
    """
    start = start or Rates()
    kind = _level_variance(of_kind, start.level_c**2, DEFAULT_STEPS)
    level = float(np.sqrt(_level_variance(own, kind, KIND_STEPS)))
    chance = (new + DEFAULT_SURVEYS * start.new_chance) / (surveys + DEFAULT_SURVEYS)
    return replace(
        start,
        level_c=float(np.clip(level, *LEVEL_RANGE_C)),
        new_chance=float(np.clip(chance, *NEW_RANGE)),
    )


def _level_variance(steps: Sequence[SurveyStep], start: float, weight: float) -> float:
    """Variance of a month's step in K²: what is left of each after its own uncertainty."""
    total, count = start * weight, weight
    for step in steps:
        if abs(step.moved_c) <= LARGEST_STEP_C and step.days >= SHORTEST_DAYS:
            months = step.days / DAYS_PER_MONTH
            total += max(step.moved_c**2 - step.uncertainty_c**2, 0.0) / months
            count += 1
    return total / count
