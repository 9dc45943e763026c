"""How far closed presses move, by their maps; pooled as surveys are (metrology/memory)."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from tempermark.core.metrology.memory.learning import (
    SurveyStep,
    chance_of_new,
    kind_spread,
    month_step,
)
from tempermark.core.pressure.map.field import MEAN_MM
from tempermark.core.pressure.memory.looks import PressureRates

# Within these the fall's step of a month stays, whatever few maps say.
FALL_RANGE_MM = (0.03, 0.4)
# A step that is larger is no drift: something had happened.
LARGEST_STEP_MM = 1.0
# However alike the known presses of a kind are, the next may be set or stand otherwise by so much.
LEAST_KIND_MM = 0.4


@dataclass(frozen=True)
class FoundClosing:
    """What the newest whole map of a closed press found: the compression at its mean pressure, mm;
    its fall to the right and to the back, mm over the platen, and their standard uncertainties.
    """

    level_mm: float
    fall_mm: tuple[float, float]
    uncertainty_mm: tuple[float, float]


def learned_pressure(
    own: Sequence[SurveyStep], of_kind: Sequence[SurveyStep], new: int, maps: int
) -> PressureRates:
    """The rates of a press by the steps of its fall either way (mm over the platen) and those of
    its kind; `new` of the kind's `maps` found that something had happened.
    """
    start = PressureRates()
    fall_mm = month_step(own, of_kind, start.fall_mm, LARGEST_STEP_MM)
    return replace(
        start,
        fall_mm=round(float(np.clip(fall_mm, *FALL_RANGE_MM)), 3),
        new_chance=round(chance_of_new(new, maps, start.new_chance), 3),
    )


def with_kind(rates: PressureRates, found: Sequence[FoundClosing]) -> PressureRates:
    """The rates with how far the levels and falls (mm) of presses of its kind lie from what is
    expected, by what was found of each; no farther than a map takes them that knows no other press.
    """
    levels = [one.level_mm - MEAN_MM for one in found]
    falls = [fall for one in found for fall in one.fall_mm]
    # A level as it was found is as far off as the arm was, which makes it the wider.
    level = kind_spread(levels, [0.0] * len(levels))
    fall = kind_spread(falls, [sd for one in found for sd in one.uncertainty_mm])
    return replace(
        rates,
        kind_level_mm=round(float(np.clip(level, LEAST_KIND_MM, rates.kind_level_mm)), 3),
        kind_fall_mm=round(float(np.clip(fall, LEAST_KIND_MM, rates.kind_fall_mm)), 3),
    )
