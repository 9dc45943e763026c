"""Since when a platen is steady.

Controllers cycle, so a single figure never rests; the mean over the last minute does. The
platen is steady since that mean last lay outside a band around where it is now. Handbook 1 §2:
15–20 min from cold and 5 min after a change before a survey.
"""

from dataclasses import dataclass

import numpy as np

# Longer than a usual controller cycle.
SMOOTH_S = 60.0
BAND_C = 1.0
# After a change of setting; from cold the mean itself creeps for longer and says so.
SOAKED_AFTER_S = 300.0


@dataclass(frozen=True)
class Soak:
    """`steady_s` since when (0 when not), the mean now, half the swing, and the slope."""

    steady_s: float
    level_c: float
    swing_c: float
    slope_c_per_min: float

    @property
    def soaked(self) -> bool:
        """Steady for long enough to be surveyed."""
        return self.steady_s >= SOAKED_AFTER_S


def running_mean(time_s: np.ndarray, level_c: np.ndarray, window_s: float) -> np.ndarray:
    """Mean (n,) of the levels within `window_s` before each moment; NaN levels do not count."""
    there = np.isfinite(level_c)
    total = np.concatenate([[0.0], np.cumsum(np.where(there, level_c, 0))])
    count = np.concatenate([[0], np.cumsum(there)])
    first = np.searchsorted(time_s, time_s - window_s, side="right")
    last = np.arange(1, len(time_s) + 1)
    number = count[last] - count[first]
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(number > 0, (total[last] - total[first]) / number, np.nan)


def soak(time_s: np.ndarray, level_c: np.ndarray, band_c: float = BAND_C) -> Soak | None:
    """How long the level (n,) in °C at ascending times (n,) in s has been steady.

    The last minute's mean has lain within ± `band_c` of where it is now for `steady_s`. None
    until a whole minute was seen.
    """
    if len(time_s) < 2 or time_s[-1] - time_s[0] < SMOOTH_S:
        return None
    mean = running_mean(time_s, level_c, SMOOTH_S)
    full = time_s >= time_s[0] + SMOOTH_S
    now = mean[-1]
    if not np.isfinite(now):
        return None
    outside = full & ~(np.abs(mean - now) <= band_c)
    where = np.flatnonzero(outside)
    first = where[-1] + 1 if len(where) else int(np.argmax(full))
    recent = time_s >= time_s[-1] - SMOOTH_S
    spoken = level_c[recent & np.isfinite(level_c)]
    return Soak(
        steady_s=float(time_s[-1] - time_s[min(first, len(time_s) - 1)]),
        level_c=float(now),
        swing_c=float(np.ptp(spoken) / 2),
        slope_c_per_min=_slope(time_s, mean, full),
    )


def _slope(time_s: np.ndarray, mean: np.ndarray, full: np.ndarray) -> float:
    """Change of the mean over its last minute (or what there is of it), K per minute."""
    last = full & (time_s >= time_s[-1] - SMOOTH_S) & np.isfinite(mean)
    at = np.flatnonzero(last)
    if len(at) < 2 or time_s[at[-1]] == time_s[at[0]]:
        return 0.0
    return float((mean[at[-1]] - mean[at[0]]) / (time_s[at[-1]] - time_s[at[0]]) * 60)
