"""A press's state in words, from the surveys of its element."""

from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

# Within this a display counts as true; a shop's leaflet windows are 10 K wide.
TRUE_WITHIN_C = 2.0
# A steady change faster than this is drift (handbook 1 §2: "Watch drift").
DRIFT_C_PER_30_DAYS = 0.8
FEWEST_FOR_DRIFT = 3
DRIFT_LOOK_BACK_DAYS = 180


@dataclass(frozen=True)
class PastSurvey:
    """One survey: its day, and true mean minus setting in K with its k = 2 uncertainty."""

    day: date
    offset_c: float
    expanded_uncertainty_c: float


@dataclass(frozen=True)
class ElementState:
    """The state; `reads_high_c` is display minus true, None when never surveyed."""

    reads_high_c: float | None
    expanded_uncertainty_c: float | None
    surveyed_on: date | None
    due_on: date | None
    overdue_days: int
    drift_c_per_30_days: float | None

    @property
    def drifting(self) -> bool:
        """Whether the offset has been moving steadily."""
        return abs(self.drift_c_per_30_days or 0.0) >= DRIFT_C_PER_30_DAYS

    @property
    def is_true(self) -> bool:
        """Whether the display can be taken at its word."""
        return self.reads_high_c is not None and abs(self.reads_high_c) < TRUE_WITHIN_C


def element_state(surveys: list[PastSurvey], every_days: int, today: date) -> ElementState:
    """State of an element on a day; `surveys` in any order."""
    if not surveys:
        return ElementState(None, None, None, None, 0, None)
    ordered = sorted(surveys, key=lambda s: s.day)
    last = ordered[-1]
    due = last.day + timedelta(days=every_days)
    return ElementState(
        reads_high_c=-last.offset_c,
        expanded_uncertainty_c=last.expanded_uncertainty_c,
        surveyed_on=last.day,
        due_on=due,
        overdue_days=max(0, (today - due).days),
        drift_c_per_30_days=_drift(ordered),
    )


def _drift(ordered: list[PastSurvey]) -> float | None:
    """Least-squares slope of the offsets of the last half year, K per 30 days."""
    since = ordered[-1].day - timedelta(days=DRIFT_LOOK_BACK_DAYS)
    recent = [s for s in ordered if s.day >= since]
    days = np.array([(s.day - since).days for s in recent], float)
    if len(recent) < FEWEST_FOR_DRIFT or np.ptp(days) == 0:
        return None
    centred = days - days.mean()
    offsets = np.array([s.offset_c for s in recent])
    return float(30 * (centred @ offsets) / (centred @ centred))
