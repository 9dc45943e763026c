"""Drift of an element: is the display's error still what it was, and until when.

Individuals chart with the usual run rules and an exponentially weighted mean (handbook 3,
"Uncertainty and decisions"; Montgomery, Introduction to Statistical Quality Control, ch. 6.4
and 9.2). Offsets are true mean minus setting in K; times in days.
"""

from dataclasses import dataclass

import numpy as np
from scipy.special import stdtrit

from tempermark.core.constants import COVERAGE_FACTOR

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
# A course without any scatter is weighed as if it had this little, K².
LEAST_VARIANCE = 1e-6

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
    """A steady change: K per day with its standard error and degrees of degrees_of_freedom."""

    slope_c_per_day: float
    standard_error: float
    degrees_of_freedom: int

    @property
    def is_one(self) -> bool:
        """Whether the slope is more than chance."""
        return abs(self.slope_c_per_day) > TREND_SIGMAS * self.standard_error

    def days_until(self, room_c: float) -> tuple[float, float, float | None]:
        """Days until the offset has moved by `room_c`: likely, earliest, latest (95 %).

        Latest is None when the slope may as well be nothing. 0.05 K a day ± 0.01 with 10
        degrees of degrees_of_freedom and 5 K of room: 100, 69, 180 days.
        """
        slope = abs(self.slope_c_per_day)
        reach = float(stdtrit(self.degrees_of_freedom, 0.975)) * self.standard_error
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


def _weighted_means(
    offset_c: np.ndarray, centre: float, sigma: float
) -> tuple[np.ndarray, np.ndarray]:
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


@dataclass(frozen=True)
class Instruments:
    """What each survey was read with: a number (n,), and that reading's common error (n,) in K.

    Surveys with the same number share one unknown error of that standard uncertainty; it
    moves a level and no slope. Where the number changes, a step may be the instrument's.
    """

    number: np.ndarray
    common_c: np.ndarray

    def part(self, chosen: np.ndarray) -> "Instruments":
        """Those of the chosen surveys; uncertainties in K."""
        return Instruments(self.number[chosen], self.common_c[chosen])

    @property
    def shared(self) -> np.ndarray:
        """Covariance (n, n) of the common errors, squares of K; one instrument throughout is a
        level.
        """
        if len(set(self.number)) < 2:
            return np.zeros((len(self.number),) * 2)
        same = self.number[:, None] == self.number
        return np.asarray(same * np.outer(self.common_c, self.common_c))


def without_instruments(
    day: np.ndarray, offset_c: np.ndarray, instruments: Instruments
) -> np.ndarray:
    """Offsets (n,) in K less what changes of the instrument explain, as far as those can be off.

    Best linear prediction of the instruments' errors beside a level and a slope, each at most
    its k = 2 uncertainty; their mean stays in, so that one instrument changes nothing.
    """
    if len(set(instruments.number)) < 2 or len(day) < 3 or np.ptp(day) == 0:
        return offset_c
    shared = instruments.shared
    design, whole = (
        _design(day),
        shared + _own_variance(day, offset_c, instruments) * np.eye(len(day)),
    )
    inverse = np.linalg.inv(whole)
    effect = np.linalg.lstsq(design.T @ inverse @ design, design.T @ inverse @ offset_c, rcond=None)
    predicted = shared @ inverse @ (offset_c - design @ effect[0])
    predicted = predicted - predicted.mean()
    most = COVERAGE_FACTOR * instruments.common_c
    return np.asarray(offset_c - np.clip(predicted, -most, most))


def trend(
    day: np.ndarray, offset_c: np.ndarray, instruments: Instruments | None = None
) -> Trend | None:
    """Least-squares trend of offsets (n,) at days (n,) over the last half year.

    With one instrument its common error falls out; where instruments change, their errors
    widen the slope's interval (generalised least squares). None when too few surveys fall into it,
    or all on one day.
    """
    recent = day >= day.max() - LOOK_BACK_DAYS if len(day) else np.zeros(0, bool)
    day, offset_c = day[recent], offset_c[recent]
    if len(day) < FEWEST_FOR_TREND or np.ptp(day) == 0:
        return None
    if instruments is None:
        instruments = Instruments(np.zeros(len(recent), int), np.zeros(len(recent)))
    instruments = instruments.part(recent)
    own = _own_variance(day, offset_c, instruments)
    design = _design(day)
    inverse = np.linalg.inv(instruments.shared + own * np.eye(len(day)))
    covariance = np.linalg.inv(design.T @ inverse @ design)
    slope = float((covariance @ design.T @ inverse @ offset_c)[1])
    return Trend(slope, float(np.sqrt(covariance[1, 1])), _degrees_of_freedom(instruments))


def _design(day: np.ndarray) -> np.ndarray:
    """Level and slope (n, 2)."""
    return np.column_stack([np.ones(len(day)), day - day.mean()])


def _degrees_of_freedom(instruments: Instruments) -> int:
    return max(1, len(instruments.number) - 1 - len(set(instruments.number)))


def _own_variance(day: np.ndarray, offset_c: np.ndarray, instruments: Instruments) -> float:
    """Variance of the surveys' own noise: what a slope and a level for each instrument leave."""
    levels = [instruments.number == number for number in sorted(set(instruments.number))]
    design = np.column_stack([*[level.astype(float) for level in levels], day - day.mean()])
    residual = offset_c - design @ np.linalg.lstsq(design, offset_c, rcond=None)[0]
    variance = float(residual @ residual) / _degrees_of_freedom(instruments)
    # Too few surveys of each instrument to tell: what a reading's mean usually scatters by.
    thin = len(offset_c) - 1 - len(levels) < 1
    return LEAST_SIGMA_C**2 if thin else max(variance, LEAST_VARIANCE)
