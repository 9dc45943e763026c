"""When the taps of one press were, where a clock was set meanwhile: the bench's or the server's."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

from tempermark.core.constants import DWELL_LIMIT_S

# A clock that is off by less is taken as right: the way of an entry takes that long.
SKEW_S = 2.0


@dataclass(frozen=True)
class TapTime:
    """A tap by the server's clock in s, and by how much the bench's was taken to be off."""

    at_s: float
    shift_s: float

    @property
    def bench_s(self) -> float:
        """The tap by the bench's own clock."""
        return self.at_s - self.shift_s


def as_one_clock(taps: Sequence[TapTime], planned_s: float) -> list[float]:
    """The taps of one press in s of one clock, in the order in which they were sent.

    Where the two clocks drifted apart between taps, one of them was set. That one tells times that
    go back or a dwell that cannot be; where neither does, the clock whose time from the first tap
    to the last is nearer to `planned_s` is believed. The bench's is told by the server's of today.
    """
    by_server = [tap.at_s for tap in taps]
    shifts = [tap.shift_s for tap in taps]
    if not taps or max(shifts) - min(shifts) <= SKEW_S:
        return by_server
    by_bench = [tap.bench_s + shifts[-1] for tap in taps]
    possible = [line for line in (by_server, by_bench) if _can_be(line)]
    return min(possible or [by_server], key=lambda line: abs(line[-1] - line[0] - planned_s))


def _can_be(line: Sequence[float]) -> bool:
    gaps = [after - before for before, after in itertools.pairwise(line)]
    return all(0 <= gap <= DWELL_LIMIT_S for gap in gaps)
