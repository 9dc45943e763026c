"""Plans without a solver: jobs in the order in which they came, and jobs put where they wait least.

The first is what a room does without a plan, the second where the solver begins.
"""

from collections.abc import Mapping, Sequence

from tempermark.core.planning.day import (
    PlanJob,
    PlannedRun,
    PlanPress,
    SequencedDay,
    change_between,
    least_change_minutes,
)
from tempermark.core.planning.duty import Hands
from tempermark.core.planning.fits import fitting, unplaced
from tempermark.core.planning.timing import timed_runs


def nearest_setting(job: PlanJob, from_c: float) -> float:
    """The setting in a job's window that is nearest to a platen's °C."""
    return min(max(from_c, job.low_c), job.high_c)


def in_order_of_arrival(
    jobs: Sequence[PlanJob],
    presses: Sequence[PlanPress],
    fits: Mapping[str, Sequence[int]],
    hands: Hands | None = None,
) -> list[PlannedRun]:
    """Each job as it came, on the press that is done with it first, its platen moved only as far
    as the window asks. A job that waits for another comes after it.
    """
    order: dict[str, list[str]] = {press.name: [] for press in presses}
    named, settings = {press.name: press for press in presses}, dict[str, float]()
    now_at: dict[str, tuple[float, PlanJob | None, float]] = {
        press.name: (press.start_c, None, press.free_from_min) for press in presses
    }
    ends: dict[str, float] = {}
    where: dict[str, int] = {}
    for job in _earlier_first(jobs):
        waits = [ends[w.job] + w.minutes for w in job.after if w.job in ends]
        earliest = max([job.release_min, *waits])

        def done(n: int, job: PlanJob = job, earliest: float = earliest) -> tuple[float, int]:
            press = presses[n]
            now_c, before, free = now_at[press.name]
            set_c = nearest_setting(job, now_c)
            change = change_between(press, before, now_c, job, set_c)
            return max(free + change, earliest) + job.run_min, n

        offered = [where[job.behind]] if job.behind in where else fits[job.name]
        end, number = min(done(n) for n in offered)
        press, where[job.name] = presses[number], number
        set_c = nearest_setting(job, now_at[press.name][0])
        order[press.name].append(job.name)
        settings[job.name], ends[job.name] = set_c, end
        now_at[press.name] = (set_c, job, end)
    jobs_named = {job.name: job for job in jobs}
    return timed_runs(SequencedDay(named, jobs_named, order, hands, list(settings)), settings)


def as_they_came(
    jobs: Sequence[PlanJob], presses: Sequence[PlanPress], hands: Hands | None = None
) -> list[PlannedRun]:
    """The day without a plan: what can be planned, in the order of arrival. Raises ValueError for
    jobs that wait for each other.
    """
    reasons = unplaced(jobs, presses)
    left = [job for job in jobs if job.name not in reasons]
    return in_order_of_arrival(left, presses, fitting(left, presses), hands) if left else []


def _earlier_first(jobs: Sequence[PlanJob]) -> list[PlanJob]:
    """As they came, but what a job waits for before it, what begins its press first, and what
    follows a job right behind that.
    """
    names, done, ordered = {job.name for job in jobs}, set[str](), list[PlanJob]()
    behind = {job.behind: job for job in jobs if job.behind}
    left = sorted((job for job in jobs if not job.behind), key=lambda job: job.behind is None)
    while left:
        ready = (j for j in left if all(w.job in done or w.job not in names for w in j.after))
        job: PlanJob | None = next(ready, left[0])
        left = [other for other in left if other is not job]
        while job is not None and job.name not in done:
            done.add(job.name)
            ordered.append(job)
            job = behind.get(job.name)
    return ordered


def inserted(
    jobs: Sequence[PlanJob], presses: Sequence[PlanPress], fits: Mapping[str, Sequence[int]]
) -> dict[str, list[str]]:
    """An order of jobs by names for each press: the longest first, each put where the press that
    ends last ends earliest, by the least changes that its neighbours need. Wishes are not kept.
    """
    orders: list[list[PlanJob]] = [[] for _ in presses]
    loads = [press.free_from_min for press in presses]
    for job in sorted(jobs, key=lambda j: (len(fits[j.name]), -j.run_min, j.name)):
        best = min(
            (loads[n] + job.run_min + cost, cost, n, place)
            for n in fits[job.name]
            for place, cost in _places(presses[n], orders[n], job)
        )
        loads[best[2]] = best[0]
        orders[best[2]].insert(best[3], job)
    return {press.name: [job.name for job in orders[n]] for n, press in enumerate(presses)}


def _places(press: PlanPress, order: Sequence[PlanJob], job: PlanJob) -> list[tuple[int, float]]:
    """Where a job can stand in an order, with the minutes of change that it adds there."""
    found = []
    for place in range(len(order) + 1):
        before = order[place - 1] if place else None
        cost = least_change_minutes(press, before, job)
        if place < len(order):
            later = order[place]
            cost += least_change_minutes(press, job, later)
            cost -= least_change_minutes(press, before, later)
        found.append((place, cost))
    return found
