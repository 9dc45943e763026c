"""What no plan of a day can beat, by simple sums; for days of too many jobs for loads.py."""

from collections.abc import Mapping, Sequence

import numpy as np

from tempermark.core.planning.day import PlanJob, PlanPress, least_change_minutes
from tempermark.core.planning.power import least_kwh


def loose_bounds(
    jobs: Sequence[PlanJob], presses: Sequence[PlanPress], fits: Mapping[str, Sequence[int]]
) -> dict[str, float]:
    """Minutes (min) until all is done, late in all, and of changes; and kWh; all at least."""
    return {
        "makespan": _load_bound(jobs, presses, fits),
        "late": _late_bound(jobs, presses),
        "changes": 0.0,
        "power": least_kwh(presses, jobs, fits),
    }


def _load_bound(
    jobs: Sequence[PlanJob], presses: Sequence[PlanPress], fits: Mapping[str, Sequence[int]]
) -> float:
    """No plan ends before this: every job's earliest end alone, and all the runs shared out."""
    alone = max(
        min(
            max(presses[n].free_from_min + least_change_minutes(presses[n], None, j), j.release_min)
            for n in fits[j.name]
        )
        + j.run_min
        for j in jobs
    )
    used = sorted({n for found in fits.values() for n in found})
    # Each press begins with a change to one of its jobs.
    first = [
        presses[n].free_from_min
        + min(least_change_minutes(presses[n], None, j) for j in jobs if n in fits[j.name])
        for n in used
    ]
    return max(alone, _shared(sorted(first), sum(job.run_min for job in jobs)))


def _late_bound(jobs: Sequence[PlanJob], presses: Sequence[PlanPress]) -> float:
    """No plan is less late in all: of the jobs that are due, whichever is the n-th to end ends no
    sooner than the n shortest shared out over all presses, and least is late when they end in the
    order in which they are due.
    """
    due = [job for job in jobs if job.due_min is not None]
    if not due:
        return 0.0
    begins = sorted(press.free_from_min for press in presses)
    runs = np.cumsum(sorted(job.run_min for job in due))
    ends = np.array([_shared(begins, float(work)) for work in runs])
    return float(np.maximum(ends - np.sort([job.due_min for job in due]), 0.0).sum())


def _shared(begins: Sequence[float], work: float) -> float:
    """When work shared out over presses that begin at these times, in order, can be done."""
    return min((sum(begins[:n]) + work) / n for n in range(1, len(begins) + 1))
