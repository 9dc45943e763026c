"""How far closed presses move, by their maps; pooled as surveys are (metrology/memory)."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from tempermark.core.metrology.memory.learning import SurveyStep, chance_of_new, month_step
from tempermark.core.pressure.memory.looks import PressureRates

# Within these the fall's step of a month stays, whatever few maps say.
FALL_RANGE_MM = (0.03, 0.4)
# A step that is larger is no drift: something had happened.
LARGEST_STEP_MM = 1.0


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
