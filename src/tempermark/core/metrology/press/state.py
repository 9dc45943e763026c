"""A press's state in words, from the surveys and spot checks of its element."""

from dataclasses import dataclass
from datetime import date

import numpy as np

from tempermark.core.days import later
from tempermark.core.metrology.press.drift import (
    ControlChart,
    Instruments,
    Trend,
    control_chart,
    trend,
    without_instruments,
)

# Within this a display counts as true; a shop's leaflet windows are 10 K wide.
TRUE_WITHIN_C = 2.0
# A steady change faster than this is drift (handbook 1 §2: "Watch drift").
DRIFT_C_PER_30_DAYS = 0.5
DAYS_PER_MONTH = 30.0


@dataclass(frozen=True)
class PastSurvey:
    """One survey: its day, and true mean minus setting in K with its k = 2 uncertainty.

    A spot check is not `full`: it tells of drift and asks for no later survey. Surveys read by
    the same `instrument` share one error of `common_standard_uncertainty_c`.
    """

    day: date
    offset_c: float
    expanded_uncertainty_c: float
    full: bool = True
    instrument: str = ""
    common_standard_uncertainty_c: float = 0.0


@dataclass(frozen=True)
class ElementState:
    """The state; `reads_high_c` is display minus true, None when never surveyed.

    `leaves_in_days` is (likely, earliest, latest or None) until a steady change has used
    up the tolerance, None without such a change. `charted_c`: offsets as the chart takes them,
    oldest first, steps that a change of instrument explains taken out.
    """

    reads_high_c: float | None
    expanded_uncertainty_c: float | None
    surveyed_on: date | None
    due_on: date | None
    due_by_trend: bool
    overdue_days: int
    trend: Trend | None
    leaves_in_days: tuple[float, float, float | None] | None
    chart: ControlChart | None
    charted_c: tuple[float, ...] = ()
    instruments: tuple[str, ...] = ()

    @property
    def drift_c_per_30_days(self) -> float | None:
        """How the offset moves in a month, K."""
        return self.trend.slope_c_per_day * DAYS_PER_MONTH if self.trend else None

    @property
    def drifting(self) -> bool:
        """Whether the offset has been moving steadily, and by more than chance."""
        moved = abs(self.drift_c_per_30_days or 0.0) >= DRIFT_C_PER_30_DAYS
        return self.trend is not None and self.trend.is_one and moved

    @property
    def is_true(self) -> bool:
        """Whether the display can be taken at its word."""
        return self.reads_high_c is not None and abs(self.reads_high_c) < TRUE_WITHIN_C


UNKNOWN = ElementState(None, None, None, None, False, 0, None, None, None)


def element_state(
    surveys: list[PastSurvey], every_days: int, today: date, tolerance_c: float
) -> ElementState:
    """State of an element on a day; `surveys` in any order.

    The next full survey is due `every_days` after the last, or when a steady change may
    first have used up the tolerance, whichever comes sooner.
    """
    if not any(s.full for s in surveys):
        return UNKNOWN
    ordered = sorted(surveys, key=lambda s: s.day)
    last, full = ordered[-1], [s for s in ordered if s.full][-1]
    offset = np.array([s.offset_c for s in ordered])
    day = np.array([s.day.toordinal() for s in ordered], float)
    names = sorted({s.instrument for s in ordered})
    read_with = Instruments(
        np.array([names.index(s.instrument) for s in ordered]),
        np.array([s.common_standard_uncertainty_c for s in ordered]),
    )
    found = trend(day, offset, read_with)
    charted = without_instruments(day, offset, read_with)
    leaves = found.days_until(tolerance_c) if found is not None and found.is_one else None
    by_rule = later(full.day, every_days)
    by_trend = later(full.day, int(min(leaves[1], 3650))) if leaves else by_rule
    due = min(by_rule, by_trend)
    return ElementState(
        reads_high_c=-last.offset_c,
        expanded_uncertainty_c=last.expanded_uncertainty_c,
        surveyed_on=full.day,
        due_on=due,
        due_by_trend=by_trend < by_rule,
        overdue_days=max(0, (today - due).days),
        trend=found,
        leaves_in_days=leaves,
        chart=control_chart(charted),
        charted_c=tuple(float(v) for v in charted),
        instruments=tuple(names),
    )
