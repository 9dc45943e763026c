"""The least minutes in which a press can be done with any set of its jobs, found exactly.

Method: for a fixed order, the cost of changes is convex and bends only where a setting is the end
of a window or the press's first, or where two settings lie so far apart that the platen takes just
as long as hands (equal settings, where hands do nothing). A best one therefore has every
setting at one of those points or tied to one by a chain of such distances: with these points for
each job, the sets of jobs are gone through from the smallest, each ended by each of its jobs.
"""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from tempermark.core.planning.day import (
    PlanJob,
    PlanPress,
    hands_minutes,
    swap_minutes,
    swaps,
)
from tempermark.core.preparing.size.growth import ROOM_C

# More jobs than this have too many sets; more points cost more than what is known by them is worth.
MOST_SET_JOBS, MOST_POINTS = 12, 1_000
# Points nearer than this are one, K.
SAME_POINT_K = 1e-6
# Amounts that differ by less are the same, minutes.
SAME_MIN = 1e-3


@dataclass(frozen=True)
class _Points:
    """Settings that can be best: °C, and the job of each (0 is the press as it stands, job n is
    n + 1).
    """

    set_c: np.ndarray
    job: np.ndarray


@dataclass(frozen=True)
class SetLoads:
    """A press's minutes by the bits of a set of jobs, infinite where a job does not fit:
    ``minutes`` (2ⁿ) from the plan's beginning until it can be done with the set at the earliest,
    waits for other presses left aside; ``change_min`` (2ⁿ) of changes alone; ``past_min`` (2ⁿ, n)
    how late the job that ends the set is then at least, ``late_min`` (2ⁿ) how late all of it is.
    ``reached`` (2ⁿ, points) are minutes of runs and changes by the last setting.
    """

    minutes: np.ndarray
    change_min: np.ndarray
    past_min: np.ndarray
    late_min: np.ndarray
    reached: np.ndarray
    points: _Points
    changes: np.ndarray

    def order(self, bits: int) -> list[int]:
        """The order in which a press is done with a set at the earliest, by the jobs' places."""
        order: list[int] = []
        at = int(np.argmin(self.reached[bits]))
        while bits:
            job = int(self.points.job[at]) - 1
            order.append(job)
            bits ^= 1 << job
            at = int(np.argmin(self.reached[bits] + self.changes[:, at]))
        return order[::-1]

    def no_later(self, press: PlanPress, jobs: Sequence[PlanJob], late_min: float) -> "SetLoads":
        """The same, for orders that are no later in all than so many minutes."""
        may_end = self._least_late() <= late_min + SAME_MIN
        return _set_loads(press, jobs, self.points, self.changes, may_end)

    def _least_late(self) -> np.ndarray:
        """How late a set is at least with each of its jobs as the last (2ⁿ, n)."""
        sets = np.arange(len(self.late_min))
        before = np.stack(
            [self.late_min[sets & ~(1 << n)] for n in range(self.past_min.shape[1])], 1
        )
        least: np.ndarray = before + self.past_min
        return least


def set_loads(press: PlanPress, jobs: Sequence[PlanJob], is_fit: Sequence[bool]) -> SetLoads | None:
    """What every set of jobs takes on a press; None where the points are too many."""
    points = _points(press, [job for job, fit in zip(jobs, is_fit, strict=True) if fit])
    if points is None:
        return None
    # Points count the jobs that fit; from here on they count all.
    place = np.concatenate([[0], 1 + np.flatnonzero(is_fit)])
    points = replace(points, job=place[points.job])
    every = np.ones((1 << len(jobs), len(jobs)), dtype=bool)
    return _set_loads(press, jobs, points, _changes(press, jobs, points), every)


def _set_loads(
    press: PlanPress,
    jobs: Sequence[PlanJob],
    points: _Points,
    changes: np.ndarray,
    may_end: np.ndarray,
) -> SetLoads:
    """The same, where a set may be ended by some of its jobs only (2ⁿ, n)."""
    reached = _reached(jobs, points, changes, may_end)
    ends = np.stack(
        [np.min(reached[:, points.job == n + 1], axis=1, initial=np.inf) for n in range(len(jobs))],
        axis=1,
    )
    ends = np.maximum(press.free_from_min + ends, _by_sets(jobs).released_min[:, None])
    minutes = ends.min(axis=1)
    minutes[0] = 0.0
    past = _past(jobs, ends)
    change = reached.min(axis=1) - _by_sets(jobs).runs_min
    return SetLoads(minutes, change, past, _late(past), reached, points, changes)


def _points(press: PlanPress, jobs: Sequence[PlanJob]) -> _Points | None:
    windows = [(press.start_c, press.start_c), *((job.low_c, job.high_c) for job in jobs)]
    hands = _hands(press, jobs)
    found = [np.unique(np.array(window)) for window in windows]
    # A chain visits each job once.
    for _ in jobs:
        wider = [
            _wider(press, windows, hands, found, n) if n else found[0] for n in range(len(found))
        ]
        if sum(map(len, wider)) > MOST_POINTS:
            return None
        if all(len(a) == len(b) for a, b in zip(found, wider, strict=True)):
            break
        found = wider
    return _Points(
        set_c=np.concatenate(found),
        job=np.repeat(np.arange(len(found)), [len(at) for at in found]),
    )


def _hands(press: PlanPress, jobs: Sequence[PlanJob]) -> np.ndarray:
    """Minutes of hands from each job to each other, (n + 1, n + 1); 0 is the press as it stands."""
    at = [None, *jobs]
    return np.array([[0.0, *(hands_minutes(press, before, job) for job in jobs)] for before in at])


def _wider(
    press: PlanPress,
    windows: Sequence[tuple[float, float]],
    hands: np.ndarray,
    found: Sequence[np.ndarray],
    job: int,
) -> np.ndarray:
    """A job's points and those that are tied to the points of others."""
    low, high = windows[job]
    new = [found[job]]
    for other, at in enumerate(found):
        if other == job:
            continue
        # Hands take as long there as back.
        by_hand = float(hands[min(other, job), max(other, job)])
        up, down = by_hand * press.heats_c_per_min, by_hand * press.cools_c_per_min
        new += [at + distance for distance in (up, -up, down, -down)]
    every = np.sort(np.concatenate(new))
    every = every[(every >= low - SAME_POINT_K) & (every <= high + SAME_POINT_K)]
    is_new = np.concatenate([[True], np.diff(every) > SAME_POINT_K])
    points: np.ndarray = np.clip(every[is_new], low, high)
    return points


def _changes(press: PlanPress, jobs: Sequence[PlanJob], points: _Points) -> np.ndarray:
    """Minutes of change from each point to each other, (n, n)."""
    rise = points.set_c[None, :] - points.set_c[:, None]
    by_hand = _hands(press, jobs)[np.ix_(points.job, points.job)]
    thermal = np.maximum(rise / press.heats_c_per_min, -rise / press.cools_c_per_min)
    changes: np.ndarray = np.maximum(thermal, by_hand)
    at = [None, *jobs]
    for one, other in itertools.product(np.unique(points.job).tolist(), repeat=2):
        later = at[other]
        if later is None or not swaps(press, at[one], later):
            continue
        heats = np.maximum(points.set_c - ROOM_C, 0.0) / press.heats_c_per_min
        least = swap_minutes(press, at[one]) + heats
        cells = np.ix_(points.job == one, points.job == other)
        changes[cells] = np.maximum(least[points.job == other][None, :], by_hand[cells])
    return changes


def _reached(
    jobs: Sequence[PlanJob], points: _Points, changes: np.ndarray, may_end: np.ndarray
) -> np.ndarray:
    """Least minutes of runs and changes for every set by its last setting (2ⁿ, points), from the
    press as it stands.
    """
    sets = 1 << len(jobs)
    best = np.full((sets, len(points.set_c)), np.inf)
    best[0, points.job == 0] = 0.0
    members = np.arange(sets)
    sizes = np.array([bits.bit_count() for bits in range(sets)])
    for size in range(len(jobs)):
        here = members[sizes == size]
        for number, job in enumerate(jobs):
            rows = here[here & 1 << number == 0]
            rows = rows[may_end[rows | 1 << number, number]]
            to = np.flatnonzero(points.job == number + 1)
            if not len(to):
                continue
            ready = np.full((len(rows), len(to)), np.inf)
            for at in np.flatnonzero(np.isfinite(best[rows]).any(axis=0)):
                np.minimum(ready, best[rows, at][:, None] + changes[at, to], out=ready)
            best[np.ix_(rows | 1 << number, to)] = ready + job.run_min
    return best


@dataclass(frozen=True)
class _BySets:
    """Of every set (2ⁿ): the minutes of its runs, and when it can be done for its jobs are not
    there earlier: all of them run after the first that is there, and each after its own.
    """

    runs_min: np.ndarray
    released_min: np.ndarray


def _by_sets(jobs: Sequence[PlanJob]) -> _BySets:
    sets = 1 << len(jobs)
    first, runs, alone = np.full(sets, np.inf), np.zeros(sets), np.zeros(sets)
    for number, job in enumerate(jobs):
        rows = np.flatnonzero(np.arange(sets) & 1 << number)
        first[rows] = np.minimum(first[rows], job.release_min)
        runs[rows] += job.run_min
        alone[rows] = np.maximum(alone[rows], job.release_min + job.run_min)
    return _BySets(runs, np.maximum(alone, first + runs))


def _past(jobs: Sequence[PlanJob], ends: np.ndarray) -> np.ndarray:
    """Minutes past due of the job that ends a set, by its earliest end (2ⁿ, n)."""
    due = np.array([math.inf if job.due_min is None else job.due_min for job in jobs])
    with np.errstate(invalid="ignore"):
        past = np.maximum(ends - due, 0.0)
    return np.where(np.isfinite(ends), past, np.inf)


def _late(past: np.ndarray) -> np.ndarray:
    """Minutes past due (2ⁿ) of every set at least."""
    late = np.zeros(len(past))
    for bits in range(1, len(past)):
        last = [n for n in range(past.shape[1]) if bits >> n & 1]
        late[bits] = min(late[bits ^ 1 << n] + past[bits, n] for n in last)
    return late
