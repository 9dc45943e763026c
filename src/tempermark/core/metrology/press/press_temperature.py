"""True temperature at places of an element, at a dial: its map, its gain, what moved since."""

from dataclasses import dataclass

import numpy as np

from tempermark.core.metrology.press.calibration import GAIN_BELIEVED, GAIN_SPREAD, AnchoredLine
from tempermark.core.metrology.survey import SurveyMap


@dataclass(frozen=True)
class MappedElement:
    """A survey's map of an element, with what carries it to other dials and days.

    `surveyed_set_c` the dial it was read at and `target_c` what it aimed at, °C;
    `common_standard_uncertainty_c` what its readings share, K; `shift_c` ± its standard uncertainty
    how far the level has moved since, K.
    """

    survey_map: SurveyMap
    target_c: float
    surveyed_set_c: float
    common_standard_uncertainty_c: float
    gain: float = GAIN_BELIEVED
    gain_standard_uncertainty: float = GAIN_SPREAD
    shift_c: float = 0.0
    shift_standard_uncertainty_c: float = 0.0


def true_temperature_at_dial(
    mapped: MappedElement, place_mm: np.ndarray, set_c: float
) -> tuple[np.ndarray, np.ndarray]:
    """True °C (n,) at places (n, 2) in mm with the dial at `set_c` °C, and standard uncertainties.

    T(x) = map(x) + gain · (set − surveyed set) + shift; independent uncertainties add as squares
    (Source: JCGM 100, 5.1.2). Range: dials within some 60 K of the survey's, where a controller is
    linear to the gain's own spread.
    """
    mean, spread = mapped.survey_map.true_c(place_mm, mapped.target_c)
    away = set_c - mapped.surveyed_set_c
    shared = np.hypot(mapped.common_standard_uncertainty_c, mapped.gain_standard_uncertainty * away)
    value = mean + mapped.gain * away + mapped.shift_c
    return value, np.hypot(spread, np.hypot(shared, mapped.shift_standard_uncertainty_c))


def moved_line(line: AnchoredLine, shift_c: float, standard_uncertainty_c: float) -> AnchoredLine:
    """A calibration line whose level has moved by `shift_c` ± its standard uncertainty, in K."""
    return AnchoredLine(
        **vars(line)
        | {
            "anchor_true_c": line.anchor_true_c + shift_c,
            "anchor_sd_c": float(np.hypot(line.anchor_sd_c, standard_uncertainty_c)),
        }
    )
