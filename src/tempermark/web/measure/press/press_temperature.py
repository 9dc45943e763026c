"""The true temperature of a press at a dial, a place and a moment: the one call of every page."""

from dataclasses import dataclass
from datetime import datetime

import numpy as np

from tempermark.core.metrology.press.calibration import AnchoredLine
from tempermark.core.metrology.press.dial import DialSetting, KnownDial, dial_setting
from tempermark.core.metrology.press.press_temperature import (
    MappedElement,
    moved_line,
    true_temperature_at_dial,
)
from tempermark.web.measure.models import Survey
from tempermark.web.measure.press.history import LevelShift, SurveyHistory
from tempermark.web.presses.models import Element

# An offset is taken to hold this far from the dials it was surveyed at: a gain off by 5 %
# is then less than 1 K.
PROVEN_REACH_C = 15.0


@dataclass(frozen=True)
class TrueTemperature:
    """True temperatures (n,) in °C at places with the dial at `set_c`, their standard uncertainty,
    the survey they come from, and the press's gain.
    """

    value_c: np.ndarray
    standard_uncertainty_c: np.ndarray
    survey: Survey
    gain: float
    set_c: float

    def dial_for(self, target_c: float, at: int = 0) -> DialSetting:
        """The dial for a true temperature at one of the places."""
        known = KnownDial(
            self.set_c, float(self.value_c[at]), self.gain, float(self.standard_uncertainty_c[at])
        )
        return dial_setting(target_c, known, self.survey.element.press.resolution_c)


@dataclass(frozen=True)
class PressTemperature:
    """An element as its newest survey, the calibration line and a later spot check know it.

    `line` goes through what the spot check has shown (`moved`).
    """

    survey: Survey
    line: AnchoredLine
    moved: LevelShift | None
    history: SurveyHistory

    @property
    def gain(self) -> float:
        """True degrees for one on the dial."""
        return self.line.gain

    def dial_for(self, target_c: float) -> DialSetting:
        """The dial that brings the element's mean to a true temperature in °C."""
        return self.line.dial_for(target_c, self.survey.element.press.resolution_c)

    def is_far(self, set_c: float) -> bool:
        """Whether a dial lies so far from those surveyed that its offset is a guess."""
        low, high = self.line.set_range_c
        return not low - PROVEN_REACH_C <= set_c <= high + PROVEN_REACH_C

    def advice(self, target_c: float) -> "DialAdvice":
        """What to set for a true temperature, and whether that is only a guess."""
        set_c = self.dial_for(target_c).set_c
        return DialAdvice(set_c, self.is_far(set_c), self.survey.set_c)


@dataclass(frozen=True)
class DialAdvice:
    """The dial for a true temperature, and whether it is only a guess."""

    set_c: float
    far: bool
    surveyed_at_c: float


def press_temperature(
    element: Element, when: datetime | None = None, history: SurveyHistory | None = None
) -> PressTemperature | None:
    """What is known of an element at a moment (now); None before its first survey."""
    history = history or SurveyHistory(element)
    survey = history.newest(when)
    line = None if survey is None else history.calibration(survey)
    if survey is None or line is None:
        return None
    moved = history.level_since(line, survey, when)
    if moved is not None:
        line = moved_line(line, moved.shift_c, moved.standard_uncertainty_c)
    return PressTemperature(survey, line, moved, history)


def true_temperature(
    element: Element,
    place_mm: np.ndarray,
    set_c: float,
    when: datetime | None,
    history: SurveyHistory | None = None,
    with_spots: bool = True,
) -> TrueTemperature | None:
    """True temperature at places (n, 2) in mm on an element at a setting and a moment; None while
    there is no map.

    From the newest finished survey before then, moved by the calibration line's gain and by what a
    spot check since has shown.
    """
    history = history or SurveyHistory(element)
    survey = history.newest(when)
    computed = None if survey is None else history.computed(survey)
    if survey is None or computed is None or computed.result is None or computed.result.map is None:
        return None
    line = history.calibration(survey)
    moved = history.level_since(line, survey, when) if with_spots else None
    carried = {"gain": line.gain, "gain_standard_uncertainty": line.gain_sd} if line else {}
    if moved:
        carried |= {
            "shift_c": moved.shift_c,
            "shift_standard_uncertainty_c": moved.standard_uncertainty_c,
        }
    mapped = MappedElement(
        computed.result.map,
        survey.target_c,
        survey.set_c,
        computed.common_standard_uncertainty_c,
        **carried,
    )
    value, spread = true_temperature_at_dial(mapped, place_mm, set_c)
    return TrueTemperature(value, spread, survey, mapped.gain, set_c)


def advised_dial(
    element: Element,
    target_c: float,
    when: datetime | None = None,
    history: SurveyHistory | None = None,
) -> DialAdvice | None:
    """What to set on an element for a true temperature; None while it is not measured."""
    known = press_temperature(element, when, history)
    return None if known is None else known.advice(target_c)


def mean_by_spot(survey: Survey, place_mm: np.ndarray, true_c: float) -> float:
    """The element's mean by a spot check: its reading, less what the map says of the place against
    the mean. Without a map the reading itself.
    """
    expected = true_temperature(
        survey.element, place_mm, survey.set_c, survey.taken_at, with_spots=False
    )
    if expected is None or expected.survey.mean_true_c is None:
        return true_c
    held = expected.survey
    mean = held.mean_true_c + expected.gain * (survey.set_c - held.set_c)
    return true_c - (float(expected.value_c[0]) - mean)
