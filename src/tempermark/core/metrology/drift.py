"""Drift of an element: is the display's error still what it was, and until when.

Individuals chart with the usual run rules and an exponentially weighted mean (handbook 3,
"Uncertainty and decisions"; Montgomery, Introduction to Statistical Quality Control, ch. 6.4
and 9.2). Offsets are true mean minus setting in K; times in days.
"""

from dataclasses import dataclass

import numpy as np
from scipy.special import stdtrit

# Mean moving range of two normal values is 1.128 σ (Montgomery, app. VI, d2 for n = 2).
MOVING_RANGE_PER_SIGMA = 1.128
EWMA_WEIGHT = 0.2
EWMA_LIMIT_SIGMAS = 2.7
# The first surveys say what is usual.
BASELINE, FEWEST = 6, 4
LEAST_SIGMA_C = 0.3
# A trend is one when its slope is this many standard errors from none.
TREND_SIGMAS = 2.0
FEWEST_FOR_TREND = 4
LOOK_BACK_DAYS = 180.0

RULES = {
    "beyond_3_sigma": "one survey beyond 3σ",
    "two_of_three_beyond_2_sigma": "two of three beyond 2σ on one side",
    "four_of_five_beyond_1_sigma": "four of five beyond 1σ on one side",
    "eight_on_one_side": "eight in a row on one side",
    "ewma": "the weighted mean has left its limits",
}


@dataclass(frozen=True)
class Signal:
    """A run rule that speaks at a survey (its index)."""

    index: int
    rule: str


@dataclass(frozen=True)
class ControlChart:
    """Centre, σ, weighted means with their limits (n,), and what the run rules say."""

    centre_c: float
    sigma_c: float
    ewma_c: np.ndarray
    ewma_reach_c: np.ndarray
    signals: tuple[Signal, ...]

    @property
    def speaks_now(self) -> tuple[str, ...]:
        """Rules that speak at the newest survey."""
        last = len(self.ewma_c) - 1
        return tuple(s.rule for s in self.signals if s.index == last)


@dataclass(frozen=True)
class Trend:
    """A steady change: K per day with its standard error and degrees of freedom."""

    slope_c_per_day: float
    standard_error: float
    freedom: int

    @property
    def is_one(self) -> bool:
        """Whether the slope is more than chance."""
        return abs(self.slope_c_per_day) > TREND_SIGMAS * self.standard_error

    def days_until(self, room_c: float) -> tuple[float, float, float | None]:
        """Days until the offset has moved by `room_c`: likely, earliest, latest (95 %).

        Latest is None when the slope may as well be nothing. 0.05 K a day ± 0.01 with 10
        degrees of freedom and 5 K of room: 100, 69, 180 days.
        """
        slope = abs(self.slope_c_per_day)
        reach = float(stdtrit(self.freedom, 0.975)) * self.standard_error
        latest = room_c / (slope - reach) if slope > reach else None
        return room_c / slope, room_c / (slope + reach), latest


def control_chart(offset_c: np.ndarray) -> ControlChart | None:
    """The chart of offsets (n,) in K, oldest first; None for fewer than `FEWEST`."""
    if len(offset_c) < FEWEST:
        return None
    usual = offset_c[:BASELINE]
    centre = float(usual.mean())
    moving = np.abs(np.diff(offset_c))
    sigma = max(float(moving.mean()) / MOVING_RANGE_PER_SIGMA, LEAST_SIGMA_C)
    ewma, reach = _weighted_means(offset_c, centre, sigma)
    signals = _run_rules((offset_c - centre) / sigma)
    beyond = np.flatnonzero(np.abs(ewma - centre) > reach)
    signals += [Signal(int(i), "ewma") for i in beyond]
    return ControlChart(centre, sigma, ewma, reach, tuple(signals))


def _weighted_means(offset_c, centre, sigma):
    weighted, level = [], centre
    for value in offset_c:
        level = EWMA_WEIGHT * value + (1 - EWMA_WEIGHT) * level
        weighted.append(level)
    count = np.arange(1, len(offset_c) + 1)
    share = EWMA_WEIGHT / (2 - EWMA_WEIGHT) * (1 - (1 - EWMA_WEIGHT) ** (2 * count))
    return np.array(weighted), EWMA_LIMIT_SIGMAS * sigma * np.sqrt(share)


def _run_rules(z: np.ndarray) -> list[Signal]:
    """Rules on standardised offsets (n,), each looked at on either side."""
    found = []
    for index in range(len(z)):
        for side in (z, -z):
            recent = side[: index + 1]
            if recent[-1] > 3:
                found.append(Signal(index, "beyond_3_sigma"))
            if recent[-1] > 2 and (recent[-3:] > 2).sum() >= 2:
                found.append(Signal(index, "two_of_three_beyond_2_sigma"))
            if recent[-1] > 1 and (recent[-5:] > 1).sum() >= 4:
                found.append(Signal(index, "four_of_five_beyond_1_sigma"))
            if index >= 7 and (recent[-8:] > 0).all():
                found.append(Signal(index, "eight_on_one_side"))
    return found


def trend(day: np.ndarray, offset_c: np.ndarray) -> Trend | None:
    """Least-squares trend of offsets (n,) at days (n,) over the last half year.

    None when too few surveys fall into it, or all on one day.
    """
    recent = day >= day.max() - LOOK_BACK_DAYS if len(day) else np.zeros(0, bool)
    day, offset_c = day[recent], offset_c[recent]
    if len(day) < FEWEST_FOR_TREND or np.ptp(day) == 0:
        return None
    centred = day - day.mean()
    scatter = float(centred @ centred)
    slope = float(centred @ offset_c) / scatter
    residual = offset_c - offset_c.mean() - slope * centred
    freedom = len(day) - 2
    error = float(np.sqrt(residual @ residual / freedom / scatter))
    return Trend(slope, error, freedom)
