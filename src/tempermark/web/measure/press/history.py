"""An element's surveys read once: which held at a moment, and the truth it tells at any place."""

from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any

import numpy as np
from django.utils import timezone

from tempermark.core.constants import COVERAGE_FACTOR
from tempermark.core.metrology.press.calibration import (
    REPRODUCIBILITY_C,
    AnchoredLine,
    anchored_line,
    level_shift,
)
from tempermark.web.kit.forms.moments import CLOCK_SKEW
from tempermark.web.measure.known.remembered import as_read, remembered
from tempermark.web.measure.models import Survey
from tempermark.web.measure.surveys.grids import KNOWN, SPOT
from tempermark.web.measure.surveys.mapping import Measured
from tempermark.web.presses.history import map_since
from tempermark.web.presses.models import Element

# Surveys of the last months describe the press as it is now.
LINE_REACH = timedelta(days=120)


@dataclass(frozen=True)
class LevelShift:
    """What a spot check after a survey tells: the level moved by so many K, ± standard."""

    shift_c: float
    standard_uncertainty_c: float
    spot: Survey


def compute_survey(survey: Survey) -> Measured:
    """The survey computed from its live readings, and from what was before where it is a known
    element's.
    """
    computed = as_read(survey)
    if survey.grid != KNOWN:
        return computed
    return replace(computed, kept=remembered(computed))


def own_variance(survey: Survey) -> float:
    """Of a survey's mean, without what its readings share."""
    whole = (survey.mean_uncertainty_c or 0.0) / COVERAGE_FACTOR
    return max(0.0, whole**2 - (survey.common_uncertainty_c or 0.0) ** 2)


def read_with(survey: Survey) -> tuple[Any, str, Any]:
    """What a survey was read with: what its readings share goes with it."""
    return survey.instrument_id, survey.method, survey.comparison_id


class SurveyHistory:
    """Finished surveys and spot checks of one element, newest first: read as far back as somebody
    asks, each computed at most once; none later than `until`.
    """

    def __init__(self, element: Element, until: datetime | None = None) -> None:
        self.element = element
        # What a wrong clock dated ahead tells nothing before its day (as on the floor).
        latest = timezone.now() + CLOCK_SKEW
        latest = latest if until is None else min(latest, until)
        known = element.surveys.filter(taken_at__lte=latest)
        known = known.exclude(finished_at=None).order_by("-taken_at", "-pk")
        self._known = known.select_related("element__press", "taken_by", "instrument")
        self._rows: list[Survey] = []
        self._read_from: datetime | None = None
        # No map was taken up to here.
        self._none_until: datetime | None = None
        self._computed: dict[int, Measured] = {}
        self._map_since: dict[datetime | None, datetime | None] = {}

    def _read_back(self, when: datetime | None) -> None:
        """Read all from the newest map at a moment (now) on, and those its line rests on."""
        if self._newest_read(when) is not None or self._is_before_all(when):
            return
        maps = self._known.exclude(grid=SPOT)
        newest = (maps if when is None else maps.filter(taken_at__lte=when)).first()
        if newest is None:
            self._none_until = when or timezone.now()
            return
        since = newest.taken_at - LINE_REACH
        if self._read_from is None:
            self._rows = list(self._known.filter(taken_at__gte=since))
        else:
            # Ever further, so that few questions reach far back.
            since = min(since, self._read_from - (timezone.now() - self._read_from))
            older = self._known.filter(taken_at__gte=since, taken_at__lt=self._read_from)
            self._rows += older
        self._read_from = since

    def _is_before_all(self, when: datetime | None) -> bool:
        return self._none_until is not None and (when or timezone.now()) <= self._none_until

    def _newest_read(self, when: datetime | None) -> Survey | None:
        """The newest map at a moment, where all that its line rests on was read."""
        maps = (r for r in self._rows if r.grid != SPOT and (when is None or r.taken_at <= when))
        found = next(maps, None)
        if found is None or self._read_from is None:
            return None
        return found if found.taken_at - LINE_REACH >= self._read_from else None

    @property
    def _spots(self) -> list[Survey]:
        return [r for r in self._rows if r.grid == SPOT and r.mean_true_c is not None]

    def holding(self, when: datetime | None = None) -> list[Survey]:
        """The survey that describes the element at a moment (now) and those of the months before
        it, newest first.

        Those from before an exchange, a repair or a changed pad are history once that happened.
        """
        self._read_back(when)
        maps = [row for row in self._rows if row.grid != SPOT]
        found = [s for s in maps if when is None or s.taken_at <= when]
        since = self._since(when)
        return found if since is None else [s for s in found if s.taken_at >= since]

    def newest(self, when: datetime | None = None) -> Survey | None:
        """The survey that describes the element at a moment (now)."""
        return next(iter(self.holding(when)), None)

    def _since(self, when: datetime) -> datetime:
        """From when on maps counted at a moment."""
        if when not in self._map_since:
            self._map_since[when] = map_since(self.element, when)
        return self._map_since[when]

    def computed(self, survey: Survey) -> Measured:
        """A survey's stations and map."""
        if survey.pk not in self._computed:
            self._computed[survey.pk] = compute_survey(survey)
        return self._computed[survey.pk]

    def of_line(self, survey: Survey) -> list[Survey]:
        """Surveys that a calibration line rests on, the one it goes through last."""
        since = survey.taken_at - LINE_REACH
        before = [
            s
            for s in reversed(self.holding(survey.taken_at))
            if s.taken_at >= since and s.mean_true_c is not None and s.pk != survey.pk
        ]
        return [*before, survey]

    def calibration(self, survey: Survey) -> AnchoredLine | None:
        """A finished survey carried to other settings by the gain of it and those before it."""
        if survey.mean_true_c is None:
            return None
        rows = self.of_line(survey)
        common = np.array([r.common_uncertainty_c or 0.0 for r in rows])
        whole = np.array([(r.mean_uncertainty_c or 0.0) / COVERAGE_FACTOR for r in rows])
        own = np.sqrt(np.maximum(whole**2 - common**2, 0.0))
        if len({read_with(r) for r in rows}) > 1:
            # What an instrument's readings share cancels in a slope only while it is the same one.
            own = np.hypot(own, common)
        settings = np.array([r.set_c for r in rows])
        means = np.array([r.mean_true_c for r in rows])
        return anchored_line(settings, means, own, float(whole[-1]))

    def level_since(
        self, line: AnchoredLine | None, survey: Survey, when: datetime | None
    ) -> LevelShift | None:
        """How the newest spot check since a survey moves its level; None without one."""
        self._read_back(survey.taken_at)
        spots = [s for s in self._spots if s.taken_at > survey.taken_at]
        spot = next((s for s in spots if when is None or s.taken_at <= when), None)
        if spot is None or line is None or spot.mean_true_c is None:
            return None
        own = own_variance(spot) + own_variance(survey) + REPRODUCIBILITY_C**2
        if read_with(spot) != read_with(survey):
            own += sum((s.common_uncertainty_c or 0.0) ** 2 for s in (spot, survey))
        difference = spot.mean_true_c - float(line.true_c(spot.set_c))
        days = (spot.taken_at - survey.taken_at).total_seconds() / 86_400
        return LevelShift(*level_shift(difference, own**0.5, days), spot)
