"""Which of a logger's channels can be believed just now.

A thermocouple in a heated platen never repeats a figure for long: the controller cycles and
the converter has noise. A channel that does, that is silent, or that stands far from the
others is left out of the mean and of the map, and is named.
"""

from dataclasses import dataclass

import numpy as np

# The stretch looked at, and the fewest figures in it that can tell: a slow logger is looked at
# for longer.
WATCHED_S = 30.0
FEWEST = 20
# Share of figures missing from which a channel counts as silent.
SILENT_SHARE = 0.5
# A probe this far from the middle of the others is not on the platen.
FAR_C = 40.0

STUCK, SILENT, FAR = "stuck", "silent", "far"


@dataclass(frozen=True)
class ChannelFault:
    """Why a channel (its index) is left out; `value_c` is what it shows, if anything."""

    channel: int
    kind: str
    value_c: float | None
    since_s: float


def channel_faults(time_s: np.ndarray, reading_c: np.ndarray) -> tuple[ChannelFault, ...]:
    """Channels that cannot be believed at the end of `time_s` (n,).

    `reading_c` (n, channels) in °C, NaN where a figure is missing. `since_s` is the time from
    which the fault is seen in what was given.
    """
    if not len(time_s):
        return ()
    first = int(np.searchsorted(time_s, time_s[-1] - WATCHED_S, side="right"))
    watched = reading_c[max(0, min(first, len(time_s) - FEWEST)) :]
    found: list[ChannelFault] = []
    for channel in range(reading_c.shape[1]):
        fault = _fault(channel, time_s, reading_c[:, channel], watched)
        if fault is not None:
            found.append(fault)
    return tuple(found)


def _fault(
    channel: int, time_s: np.ndarray, course: np.ndarray, watched: np.ndarray
) -> ChannelFault | None:
    recent = watched[:, channel]
    there = recent[np.isfinite(recent)]
    if len(there) <= (1 - SILENT_SHARE) * len(recent):
        return ChannelFault(channel, SILENT, None, _since(time_s, np.isnan(course)))
    last = float(there[-1])
    others = np.delete(watched, channel, axis=1)
    if len(there) >= FEWEST and np.ptp(there) == 0 and _moves(others):
        return ChannelFault(
            channel, STUCK, last, _since(time_s, np.isnan(course) | (course == last))
        )
    middle = _middle(others[-FEWEST:])
    if middle is not None and abs(np.median(there[-FEWEST:]) - middle) > FAR_C:
        return ChannelFault(channel, FAR, last, _since(time_s, ~(np.abs(course - middle) < FAR_C)))
    return None


def _moves(others: np.ndarray) -> bool:
    """Whether at least half of the other channels showed more than one figure."""
    spans = [np.ptp(c[np.isfinite(c)]) for c in others.T if np.isfinite(c).sum() > 1]
    return bool(spans) and float(np.median(spans)) > 0


def _middle(others: np.ndarray) -> float | None:
    """Median of at least two other channels; fewer cannot outvote one."""
    speaking = [float(np.median(c[np.isfinite(c)])) for c in others.T if np.isfinite(c).any()]
    return float(np.median(speaking)) if len(speaking) >= 2 else None


def _since(time_s: np.ndarray, holds: np.ndarray) -> float:
    """Start of the last unbroken stretch in which `holds` (n,) is true."""
    broken = np.flatnonzero(~holds)
    first = broken[-1] + 1 if len(broken) else 0
    return float(time_s[min(first, len(time_s) - 1)])


def platen_level(reading_c: np.ndarray, left_out: tuple[int, ...] = ()) -> np.ndarray:
    """Mean over the channels that speak, (n,) in °C; NaN where none does.

    A channel that misses a figure would pull the mean towards the others: its usual distance
    from them is put in instead.
    """
    kept = np.delete(reading_c, list(left_out), axis=1)
    there = np.isfinite(kept)
    if not there.any():
        return np.full(len(reading_c), np.nan)
    with np.errstate(invalid="ignore"):
        plain = np.where(there, kept, 0).sum(axis=1) / np.maximum(there.sum(axis=1), 1)
    plain[~there.any(axis=1)] = np.nan
    distance = np.where(there, kept - plain[:, None], 0).sum(axis=0) / np.maximum(
        there.sum(axis=0), 1
    )
    spoken = there.any(axis=0)
    distance = np.where(spoken, distance, 0)
    filled = np.where(there, kept, plain[:, None] + distance)[:, spoken]
    return np.asarray(filled.mean(axis=1))
