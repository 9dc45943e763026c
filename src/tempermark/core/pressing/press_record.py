"""What a press at the bench amounts to: its closings added up, and the time it lay open between.

Source: handbook 1 §5: a dwell over a timer's ceiling is split over closings.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from tempermark.core.constants import DWELL_LIMIT_S
from tempermark.core.errors import InputError

# Two taps within this, s, are one: nobody closes and opens a press so fast.
LEAST_CLOSED_S = 0.3


@dataclass(frozen=True)
class ClosedSpan:
    """A press that was closed and opened, both in s on one clock."""

    closed_s: float
    opened_s: float

    @property
    def dwell_s(self) -> float:
        """How long it was closed, s."""
        return self.opened_s - self.closed_s


@dataclass(frozen=True)
class PressRecord:
    """A press over one or more closings: from when, closed for so long in all, and open for so
    long between, s.
    """

    began_s: float
    dwell_s: float
    closings: int
    open_s: float


def press_record(closings: Sequence[ClosedSpan]) -> PressRecord:
    """The record of a press; times in s. Closings that overlap are one closing to the later end.

    Raises InputError where there is none, or where together they are shorter than any press or
    longer than `DWELL_LIMIT_S`.
    """
    merged: list[ClosedSpan] = []
    for one in sorted(closings, key=lambda c: c.closed_s):
        if merged and one.closed_s <= merged[-1].opened_s:
            last = merged[-1]
            merged[-1] = ClosedSpan(last.closed_s, max(last.opened_s, one.opened_s))
        else:
            merged.append(one)
    dwell_s = sum(one.dwell_s for one in merged)
    if not LEAST_CLOSED_S <= dwell_s <= DWELL_LIMIT_S:
        raise InputError.single(
            "closings", f"It was closed for {dwell_s:.1f} s: that is not a press."
        )
    whole_s = merged[-1].opened_s - merged[0].closed_s
    return PressRecord(merged[0].closed_s, dwell_s, len(merged), whole_s - dwell_s)
