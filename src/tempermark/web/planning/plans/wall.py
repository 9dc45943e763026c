"""The wall of the room: what each press does now and what comes next, by the plan in force and what
is logged.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from tempermark.web.planning.plans.shown import NextRun, ShownPlan
from tempermark.web.planning.queries import pieces_done


@dataclass(frozen=True)
class WallRow:
    """A press: the run that is on or comes now, its pieces done, how many min behind; the next."""

    press: str
    now: NextRun | None
    done: int
    behind_min: float
    then: NextRun | None


def wall(shown: ShownPlan) -> list[WallRow]:
    """A row for each press of the plan."""
    done = pieces_done([row.job for _, _, rows in shown.presses for row in rows])
    return [_row(name, rows, done) for _, name, rows in shown.presses]


def _row(press: str, rows: Sequence[NextRun], done: Mapping[int, int]) -> WallRow:
    left = [r for r in rows if r.job.closed_at is None and done[r.job.pk] < r.job.quantity]
    if not left:
        return WallRow(press, None, 0, 0.0, None)
    now = left[0]
    return WallRow(
        press=press,
        now=now,
        done=done[now.job.pk],
        behind_min=now.behind_min,
        then=left[1] if len(left) > 1 else None,
    )
