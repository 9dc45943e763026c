"""Dips: how far the platen falls when a cold blank goes in, and how long until it is back.

Handbook 1 §3: a dip is normal when the press recovers during the dwell; in a fast series it may
not. A dip is a quick fall below what the platen held for the minute before; slow cooling after
switching off is none.
"""

from dataclasses import dataclass

import numpy as np

from tempermark.core.metrology.live.soak import running_mean

BEFORE_S = 60.0
# Below the level before by this, or this many of its own standard deviations, is a dip …
LEAST_DEPTH_C, DEPTH_SIGMAS = 2.0, 4.0
# … if the fall happened within this time.
FALLS_WITHIN_S = 15.0
# Back within this of the level before, for this long, is recovered.
RECOVERED_C, HELD_S = 1.0, 5.0
# After this a dip is taken to be a change of setting.
LONGEST_S = 900.0
# A platen that wanders more than this is warming up, not being loaded.
STEADY_SIGMA_C = 2.5


@dataclass(frozen=True)
class Dip:
    """When it began, the level before, how deep, when deepest, and until recovery (s).

    `recovery_s` is None while, or if, it never came back.
    """

    start_s: float
    before_c: float
    depth_c: float
    deepest_after_s: float
    recovery_s: float | None


def dips(time_s: np.ndarray, level_c: np.ndarray) -> tuple[Dip, ...]:
    """Loading dips in a level (n,) in °C at ascending times (n,) in s, about one a second."""
    there = np.isfinite(level_c)
    time_s, level_c = time_s[there], level_c[there]
    if len(time_s) < 2:
        return ()
    before, sigma = _before(time_s, level_c)
    depth = np.maximum(LEAST_DEPTH_C, DEPTH_SIGMAS * sigma)
    earlier = np.interp(time_s - FALLS_WITHIN_S, time_s, level_c)
    quick = level_c < earlier - depth
    ready = (time_s >= time_s[0] + BEFORE_S) & (sigma <= STEADY_SIGMA_C)
    begins = ready & quick & (level_c < before - depth)
    found: list[Dip] = []
    at = 0
    while at < len(time_s):
        ahead = np.flatnonzero(begins[at:])
        if not len(ahead):
            break
        dip, at = _follow(time_s, level_c, at + int(ahead[0]), float(before[at + ahead[0]]))
        found.append(dip)
    return tuple(found)


def _before(time_s: np.ndarray, level_c: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Mean and standard deviation of the minute that ended `FALLS_WITHIN_S` earlier."""
    mean = running_mean(time_s, level_c, BEFORE_S)
    square = running_mean(time_s, (level_c - level_c.mean()) ** 2, BEFORE_S)
    sigma = np.sqrt(np.maximum(square - (mean - level_c.mean()) ** 2, 0))
    earlier = np.searchsorted(time_s, time_s - FALLS_WITHIN_S, side="right") - 1
    earlier = np.maximum(earlier, 0)
    return mean[earlier], sigma[earlier]


def _follow(time_s: np.ndarray, level_c: np.ndarray, at: int, before_c: float) -> tuple[Dip, int]:
    """The dip seen at index `at`, and the index to go on from."""
    start = at
    while start > 0 and level_c[start - 1] < before_c - RECOVERED_C:
        start -= 1
    after = slice(start, int(np.searchsorted(time_s, time_s[start] + LONGEST_S, side="right")))
    back = level_c[after] >= before_c - RECOVERED_C
    recovered = _held(time_s[after], back, time_s[-1])
    last = after.stop - 1 if recovered is None else start + recovered
    deepest = start + int(np.argmin(level_c[start : last + 1]))
    dip = Dip(
        start_s=float(time_s[start]),
        before_c=before_c,
        depth_c=float(before_c - level_c[deepest]),
        deepest_after_s=float(time_s[deepest] - time_s[start]),
        recovery_s=None if recovered is None else float(time_s[last] - time_s[start]),
    )
    return dip, max(last, at) + 1


def _held(time_s: np.ndarray, back: np.ndarray, end_s: float) -> int | None:
    """First index from which `back` holds for `HELD_S`."""
    for first in np.flatnonzero(back):
        held = (time_s >= time_s[first]) & (time_s <= time_s[first] + HELD_S)
        if time_s[first] + HELD_S > end_s:
            return None
        if back[held].all():
            return int(first)
    return None
