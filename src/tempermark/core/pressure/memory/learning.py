"""How far closed presses move, by their maps: pooled over presses of a kind, then each its own."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from tempermark.core.metrology.memory.looks import DAYS_PER_MONTH
from tempermark.core.pressure.memory.looks import PressureRates

# The defaults count as so many steps between maps; those of the kind as so many of a press.
DEFAULT_STEPS, KIND_STEPS = 8.0, 8.0
DEFAULT_MAPS = 25.0
# Within these the rates stay, whatever few maps say.
FALL_RANGE_MM, NEW_RANGE = (0.03, 0.4), (0.03, 0.4)
# A step that is larger is no drift: something had happened.
LARGEST_STEP_MM = 1.0
SHORTEST_DAYS = 0.5


@dataclass(frozen=True)
class FallStep:
    """From one map of a platen to the next: days, by how much its fall one way moved (mm over the
    platen), and the standard uncertainty of that, mm.
    """

    days: float
    moved_mm: float
    uncertainty_mm: float


def learned_pressure(
    own: Sequence[FallStep], of_kind: Sequence[FallStep], new: int, maps: int
) -> PressureRates:
    """The rates of a press by its own steps and those of its kind; `new` of the kind's `maps` found
    that something had happened.
    """
    start = PressureRates()
    kind = _variance(of_kind, start.fall_mm**2, DEFAULT_STEPS)
    fall_mm = float(np.sqrt(_variance(own, kind, KIND_STEPS)))
    chance = (new + DEFAULT_MAPS * start.new_chance) / (maps + DEFAULT_MAPS)
    return replace(
        start,
        fall_mm=round(float(np.clip(fall_mm, *FALL_RANGE_MM)), 3),
        new_chance=round(float(np.clip(chance, *NEW_RANGE)), 3),
    )


def _variance(steps: Sequence[FallStep], start: float, weight: float) -> float:
    """Variance of a month's step in mm²: what is left of each after its own uncertainty."""
    total, count = start * weight, weight
    for step in steps:
        if abs(step.moved_mm) <= LARGEST_STEP_MM and step.days >= SHORTEST_DAYS:
            months = step.days / DAYS_PER_MONTH
            total += max(step.moved_mm**2 - step.uncertainty_mm**2, 0.0) / months
            count += 1
    return total / count
