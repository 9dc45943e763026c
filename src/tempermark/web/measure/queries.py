"""Reading surveys."""

from dataclasses import dataclass, replace
from datetime import timedelta

import numpy as np
from django.db.models import F, Prefetch

from tempermark.core.constants import COVERAGE_FACTOR
from tempermark.core.metrology.calibration import (
    GAIN_BELIEVED,
    GAIN_SPREAD,
    REPRODUCIBILITY_C,
    AnchoredLine,
    anchored_line,
    level_shift,
)
from tempermark.web.floor.models import Element
from tempermark.web.measure.grids import SPOT
from tempermark.web.measure.mapping import Measured, measured
from tempermark.web.measure.models import Reading, Survey

# Surveys of the last months describe the press as it is now.
CALIBRATION_DAYS = 120
# An offset is taken to hold this far from the dials it was surveyed at: a gain off by 5 %
# is then less than 1 K.
PROVEN_REACH_C = 15.0


def all_surveys():
    """Every survey, those under way first, then newest first."""
    return with_names(Survey.objects).order_by(F("finished_at").desc(nulls_first=True), "-taken_at")


def compute(survey: Survey) -> Measured:
    """The survey computed from its live readings (two queries)."""
    live = Reading.objects.filter(taken_back_at=None).select_related("read_by")
    stations = survey.stations.prefetch_related(
        Prefetch("readings", queryset=live, to_attr="live_readings")
    )
    return measured(survey, list(stations))


def change_count(survey: Survey) -> int:
    """Grows with every reading entered or taken back; tells pages whether to redraw."""
    readings = Reading.objects.filter(station__survey=survey)
    return readings.count() + readings.exclude(taken_back_at=None).count()


def last_reading(survey: Survey, user) -> Reading | None:
    """The last live reading this person entered, for taking back."""
    return (
        Reading.objects.filter(station__survey=survey, taken_back_at=None, read_by=user)
        .select_related("station")
        .order_by("-pk")
        .first()
    )


def finished(element: Element):
    """Finished surveys of an element, newest first."""
    return element.surveys.exclude(finished_at=None).order_by("-taken_at", "-pk")


def latest_survey(element: Element, before=None) -> Survey | None:
    """The newest finished survey, or the newest at a moment."""
    return with_names(holding(element, before)).first()


def with_names(surveys):
    """Surveys with press, person and instrument in the same query."""
    return surveys.select_related("element__press", "taken_by", "instrument")


def holding(element: Element, when=None):
    """Finished surveys that describe the element at a moment (now), newest first.

    Those from before an exchange, a repair or a changed pad are history once that happened.
    """
    surveys = finished(element).exclude(grid=SPOT)
    if when is not None:
        surveys = surveys.filter(taken_at__lte=when)
    since = element.map_since
    if since is not None and (when is None or when >= since):
        surveys = surveys.filter(taken_at__gte=since)
    return surveys


def before(survey: Survey) -> Survey | None:
    """The survey of the element before one, with nothing done to the press between them."""
    earlier = holding(survey.element, survey.taken_at).exclude(pk=survey.pk)
    return earlier.exclude(mean_true_c=None).filter(taken_at__lt=survey.taken_at).first()


def calibration(element: Element, survey: Survey) -> AnchoredLine | None:
    """A finished survey carried to other settings by the gain of it and those before it."""
    if survey.mean_true_c is None:
        return None
    rows = of_line(element, survey)
    common = np.array([r.common_uncertainty_c or 0.0 for r in rows])
    whole = np.array([(r.mean_uncertainty_c or 0.0) / COVERAGE_FACTOR for r in rows])
    own = np.sqrt(np.maximum(whole**2 - common**2, 0.0))
    if len({_read_with(r) for r in rows}) > 1:
        # What an instrument's readings share cancels in a slope only while it is the same one.
        own = np.hypot(own, common)
    settings = np.array([r.set_c for r in rows])
    means = np.array([r.mean_true_c for r in rows])
    return anchored_line(settings, means, own, float(whole[-1]))


def of_line(element: Element, survey: Survey) -> list[Survey]:
    """Surveys that a calibration line rests on, the one it goes through last."""
    since = survey.taken_at - timedelta(days=CALIBRATION_DAYS)
    before = (
        holding(element, survey.taken_at)
        .filter(taken_at__gte=since)
        .exclude(mean_true_c=None)
        .exclude(pk=survey.pk)
        .order_by("taken_at", "pk")
    )
    return [*before, survey]


def _read_with(survey: Survey):
    return survey.instrument_id, survey.method, survey.comparison_id


@dataclass(frozen=True)
class TrueAt:
    """True temperatures (n,) in °C at places, their standard uncertainty, and the source."""

    value_c: np.ndarray
    standard_uncertainty_c: np.ndarray
    survey: Survey
    gain: float


@dataclass(frozen=True)
class LevelShift:
    """What a spot check after a survey tells: the level moved by so many K, ± standard."""

    shift_c: float
    standard_c: float
    spot: Survey


def level_since(line: AnchoredLine | None, survey: Survey, when) -> LevelShift | None:
    """How the newest spot check since a survey moves its level; None without one."""
    spots = finished(survey.element).filter(grid=SPOT, taken_at__gt=survey.taken_at)
    if when is not None:
        spots = spots.filter(taken_at__lte=when)
    spot = spots.exclude(mean_true_c=None).first()
    if spot is None or line is None:
        return None
    own = _own_variance(spot) + _own_variance(survey) + REPRODUCIBILITY_C**2
    if _read_with(spot) != _read_with(survey):
        own += sum((s.common_uncertainty_c or 0.0) ** 2 for s in (spot, survey))
    difference = spot.mean_true_c - float(line.true_c(spot.set_c))
    days = (spot.taken_at - survey.taken_at).total_seconds() / 86_400
    return LevelShift(*level_shift(difference, own**0.5, days), spot)


def _own_variance(survey: Survey) -> float:
    """Of a survey's mean, without what its readings share."""
    whole = (survey.mean_uncertainty_c or 0.0) / COVERAGE_FACTOR
    return max(0.0, whole**2 - (survey.common_uncertainty_c or 0.0) ** 2)


def true_at(
    element: Element, place_mm: np.ndarray, set_c: float, when, with_spots: bool = True
) -> TrueAt | None:
    """True temperature at places (n, 2) on an element at a setting and a moment.

    From the newest finished survey before then, moved by the calibration line's gain and by
    what a spot check since has shown; None when there is no map. The one call that every other
    part uses.
    """
    survey = latest_survey(element, before=when)
    if survey is None:
        return None
    computed = compute(survey)
    if computed.result is None or computed.result.map is None:
        return None
    line = calibration(element, survey)
    moved = level_since(line, survey, when) if with_spots else None
    shift, shift_sd = (moved.shift_c, moved.standard_c) if moved else (0.0, 0.0)
    gain, gain_sd = (line.gain, line.gain_sd) if line else (GAIN_BELIEVED, GAIN_SPREAD)
    mean, spread = computed.result.map.true_c(place_mm, survey.target_c)
    common = np.hypot(computed.common_standard_uncertainty_c, gain_sd * (set_c - survey.set_c))
    return TrueAt(
        value_c=mean + gain * (set_c - survey.set_c) + shift,
        standard_uncertainty_c=np.hypot(spread, np.hypot(common, shift_sd)),
        survey=survey,
        gain=gain,
    )


@dataclass(frozen=True)
class Correction:
    """An element's newest survey and its line: which dial brings which true mean.

    `moved`: what a spot check since has shown; the line goes through it.
    """

    survey: Survey
    line: AnchoredLine
    resolution_c: float
    moved: LevelShift | None = None

    @property
    def gain(self) -> float:
        """True degrees for one on the dial."""
        return self.line.gain

    def setting_for(self, target_c: float) -> float:
        """The dial, in the controller's steps, that brings the mean to a true temperature."""
        return round(self.line.setting_for(target_c) / self.resolution_c) * self.resolution_c

    def is_far(self, set_c: float) -> bool:
        """Whether a dial lies so far from those surveyed that its offset is a guess."""
        low, high = self.line.set_range_c
        return not low - PROVEN_REACH_C <= set_c <= high + PROVEN_REACH_C


def correction(element: Element, when) -> Correction | None:
    """The correction that held at a moment; None before the first survey."""
    survey = latest_survey(element, before=when)
    if survey is None or survey.mean_true_c is None:
        return None
    line = calibration(element, survey)
    moved = level_since(line, survey, when)
    if moved is not None:
        line = replace(
            line,
            anchor_true_c=line.anchor_true_c + moved.shift_c,
            anchor_sd_c=float(np.hypot(line.anchor_sd_c, moved.standard_c)),
        )
    return Correction(survey, line, element.press.resolution_c, moved)


@dataclass(frozen=True)
class Advice:
    """The dial for a true temperature, and whether it is only a guess."""

    set_c: float
    far: bool
    surveyed_at_c: float


def advice(element: Element, target_c: float, when) -> Advice | None:
    """What to set on an element for a true temperature; None while it is not measured."""
    known = correction(element, when)
    if known is None:
        return None
    set_c = known.setting_for(target_c)
    return Advice(set_c, known.is_far(set_c), known.survey.set_c)


def mean_of_spot(survey: Survey, place_mm: np.ndarray, true_c: float) -> float:
    """The element's mean that a spot check tells: its reading, less what the map says of the
    place against the mean. Without a map the reading itself.
    """
    expected = true_at(survey.element, place_mm, survey.set_c, survey.taken_at, with_spots=False)
    if expected is None or expected.survey.mean_true_c is None:
        return true_c
    held = expected.survey
    mean = held.mean_true_c + expected.gain * (survey.set_c - held.set_c)
    return true_c - (float(expected.value_c[0]) - mean)
