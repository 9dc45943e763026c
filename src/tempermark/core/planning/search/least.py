"""What no plan of a small day can beat, found exactly from its presses' sets of jobs."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from tempermark.core.planning.day import PlanJob, PlanPress
from tempermark.core.planning.search.loads import MOST_SET_JOBS, SAME_MIN, SetLoads, set_loads


class LeastDay:
    """What no plan of a day can beat: ``makespan_min`` until all is done, ``late_min`` and
    ``change_min`` in all; ``order``, by names on each press, is done at the makespan if no job
    waits for anything.
    """

    def __init__(
        self, presses: Sequence[PlanPress], jobs: Sequence[PlanJob], loads: Sequence[SetLoads]
    ) -> None:
        self.presses, self.jobs, self.loads = presses, jobs, loads
        self.late_min = float(_shared_out([at.late_min for at in loads], np.add).amounts[-1][-1])
        self._changes = _shared_out([at.change_min for at in loads], np.add)
        self.change_min = float(self._changes.amounts[-1][-1])
        self.makespan_min, self.order = self._done_by(loads, None)

    @property
    def bounds(self) -> dict[str, float]:
        """Minutes (min) of each goal that can be made least."""
        return {
            "makespan": self.makespan_min,
            "late": self.late_min,
            "changes": self.change_min,
        }

    def _done_by(
        self, loads: Sequence[SetLoads], within: "_Sharing | None"
    ) -> tuple[float, dict[str, list[str]]]:
        found = _shared_out([at.minutes for at in loads], np.maximum, within)
        order = {}
        left = len(found.amounts[-1]) - 1
        for press, at, share in reversed(list(zip(self.presses, loads, found.shares, strict=True))):
            mine = int(share[left])
            order[press.name] = [self.jobs[n].name for n in at.order(mine)]
            left &= ~mine
        return float(found.amounts[-1][-1]), order

    def no_later(self, late_min: float) -> tuple[float, dict[str, list[str]]]:
        """Minutes until all is done, at least, if the day may be no later in all than ``late_min``;
        and the order of that.
        """
        kept = [
            at.no_later(press, self.jobs, late_min)
            for press, at in zip(self.presses, self.loads, strict=True)
        ]
        return self._done_by(kept, None)

    def of_least_change(self) -> tuple[float, dict[str, list[str]]]:
        """Minutes until all is done, at least, by plans of the least minutes of change; and the
        order of that.
        """
        return self._done_by(self.loads, self._changes)


def least_day(
    presses: Sequence[PlanPress], jobs: Sequence[PlanJob], fits: Mapping[str, Sequence[int]]
) -> LeastDay | None:
    """What no plan of a day can beat; None where its jobs or its points are too many."""
    if len(jobs) > MOST_SET_JOBS:
        return None
    loads = []
    for number, press in enumerate(presses):
        found = set_loads(press, jobs, [number in fits[job.name] for job in jobs])
        if found is None:
            return None
        loads.append(found)
    return LeastDay(presses, jobs, loads)


@dataclass(frozen=True)
class _Sharing:
    """How sets are shared out best, over the first press, the first two, and so on: ``each`` is
    what a press's share comes to, ``amounts`` what all of it comes to, ``shares`` what of a set the
    last of the presses then has; all (2ⁿ).
    """

    each: Sequence[np.ndarray]
    amounts: list[np.ndarray]
    shares: list[np.ndarray]


def _shared_out(
    each: Sequence[np.ndarray], together: np.ufunc, within: _Sharing | None = None
) -> _Sharing:
    """The best sharing of every set, amounts taken ``together``; ``within``: only those that are
    the best by another measure, whose amounts are added up.
    """
    sets = np.arange(len(each[0]))
    found = _Sharing(each, [each[0]], [sets])
    for press, amount in enumerate(each[1:], 1):
        least, share = np.full(len(sets), np.inf), np.zeros_like(sets)
        for mine in sets[np.isfinite(amount)]:
            over = sets[sets & mine == mine]
            value = together(found.amounts[-1][over ^ mine], amount[mine])
            if within is not None:
                other = within.amounts[press - 1][over ^ mine] + within.each[press][mine]
                value = np.where(other <= within.amounts[press][over] + SAME_MIN, value, np.inf)
            better = value < least[over]
            least[over[better]], share[over[better]] = value[better], mine
        found.amounts.append(least)
        found.shares.append(share)
    return found
