"""Reading surveys."""

from dataclasses import dataclass, replace

import numpy as np
from django.db.models import F
from django.utils import timezone

from tempermark.core.metrology.calibration import AnchoredLine
from tempermark.web.kit.moments import CLOCK_SKEW
from tempermark.web.measure.grids import SPOT
from tempermark.web.measure.history import (
    LevelShift,
    SurveyHistory,
    TrueAt,
    compute,  # noqa: F401  (pages ask this module)
)
from tempermark.web.measure.models import Reading, Survey
from tempermark.web.presses.history import map_since
from tempermark.web.presses.models import Element

# An offset is taken to hold this far from the dials it was surveyed at: a gain off by 5 %
# is then less than 1 K.
PROVEN_REACH_C = 15.0


def all_surveys():
    """Every survey, those under way first, then newest first."""
    return with_names(Survey.objects).order_by(F("finished_at").desc(nulls_first=True), "-taken_at")


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


def dated_ahead(element: Element):
    """Surveys of an element whose day has not come: kept by a clock that was wrong."""
    return element.surveys.filter(taken_at__gt=timezone.now() + CLOCK_SKEW)


def with_names(surveys):
    """Surveys with press, person and instrument in the same query."""
    return surveys.select_related("element__press", "taken_by", "instrument")


def holding(element: Element, when=None):
    """Finished surveys that describe the element at a moment (now), newest first.

    Those from before an exchange, a repair or a changed pad are history once that happened.
    """
    surveys = finished(element).exclude(grid=SPOT)
    surveys = surveys.filter(taken_at__lte=when or timezone.now() + CLOCK_SKEW)
    since = map_since(element, when)
    return surveys if since is None else surveys.filter(taken_at__gte=since)


def before(survey: Survey) -> Survey | None:
    """The survey of the element before one, with nothing done to the press between them."""
    earlier = holding(survey.element, survey.taken_at).exclude(pk=survey.pk)
    return earlier.exclude(mean_true_c=None).filter(taken_at__lt=survey.taken_at).first()


def calibration(element: Element, survey: Survey) -> AnchoredLine | None:
    """A finished survey carried to other settings by the gain of it and those before it."""
    return SurveyHistory(element).calibration(survey)


def of_line(element: Element, survey: Survey) -> list[Survey]:
    """Surveys that a calibration line rests on, the one it goes through last."""
    return SurveyHistory(element).of_line(survey)


def level_since(line: AnchoredLine | None, survey: Survey, when) -> LevelShift | None:
    """How the newest spot check since a survey moves its level; None without one."""
    return SurveyHistory(survey.element).level_since(line, survey, when)


def true_at(
    element: Element, place_mm: np.ndarray, set_c: float, when, with_spots: bool = True
) -> TrueAt | None:
    """True temperature at places (n, 2) on an element at a setting and a moment; None when there is
    no map. The one call that every other part uses, itself or by a history it keeps.
    """
    return SurveyHistory(element).true_at(place_mm, set_c, when, with_spots)


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


def correction(element: Element, when, history: SurveyHistory | None = None) -> Correction | None:
    """The correction that held at a moment; None before the first survey."""
    history = history or SurveyHistory(element)
    survey = next(iter(history.holding(when)), None)
    line = None if survey is None else history.calibration(survey)
    if survey is None or line is None:
        return None
    moved = history.level_since(line, survey, when)
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


def advice(
    element: Element, target_c: float, when, history: SurveyHistory | None = None
) -> Advice | None:
    """What to set on an element for a true temperature; None while it is not measured."""
    known = correction(element, when, history)
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
