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
from tempermark.core.pressure.map.field import MEAN_MM, SPREAD_MM
from tempermark.core.pressure.memory.looks import PressureRates

# Within these the fall's step of a month stays, whatever few maps say.
FALL_RANGE_MM = (0.03, 0.4)
# A step that is larger is no drift: something had happened.
LARGEST_STEP_MM = 1.0
# However alike the known presses of a kind are, the next may be set or stand otherwise by so much.
LEAST_KIND_MM, LEAST_HOLLOW_MM = 0.4, 0.2
# No map is surer of a hollow; one where less than such a share of what is known of it afterwards
# comes from its strips has nothing to teach.
LEAST_SD_MM, LEAST_SHARE_OF_STRIPS = 0.01, 0.1


@dataclass(frozen=True)
class FoundClosing:
    """What the newest whole map of a closed press found: the compression at its mean pressure, mm;
    its fall to the right and to the back, mm over the platen, and how deep its hollow is, mm (less
    than nothing: the middle is higher), each with its standard uncertainty. No hollow where the map
    did not tell one, as a print.
    """

    level_mm: float
    fall_mm: tuple[float, float]
    uncertainty_mm: tuple[float, float]
    hollow_mm: float | None = None
    hollow_uncertainty_mm: float = 0.0


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
    """The rates with how far the levels, falls and hollows (mm) of presses of its kind lie from
    what is expected, by what was found of each; no farther than a map takes them that knows no
    other press.
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
        kind_hollow_mm=_kind_hollow_mm(rates.kind_hollow_mm, found),
    )


def _kind_hollow_mm(most_mm: float, found: Sequence[FoundClosing]) -> float:
    """How far hollows lie from none. A few strips tell little of one, and a map that finds it leans
    on what it expected (`SPREAD_MM`): that is taken out of each first.
    """
    depths, uncertainty = [], []
    for one in found:
        of_map = 1 / max(one.hollow_uncertainty_mm, LEAST_SD_MM) ** 2
        of_strips = of_map - 1 / SPREAD_MM[3] ** 2
        if one.hollow_mm is not None and of_strips > LEAST_SHARE_OF_STRIPS * of_map:
            depths.append(one.hollow_mm * of_map / of_strips)
            uncertainty.append(of_strips**-0.5)
    spread = kind_spread(depths, uncertainty)
    return round(float(np.clip(spread, LEAST_HOLLOW_MM, most_mm)), 3)
