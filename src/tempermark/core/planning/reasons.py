"""Why a run is where it is: what only its press can do, what it waits for, and what every other
place would cost with the rest as it is.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from tempermark.core.planning.day import DayPlan, PlanJob, PlannedRun, PlanPress, SequencedDay
from tempermark.core.planning.duty import Hands
from tempermark.core.planning.fits import fitting
from tempermark.core.planning.settings import best_settings

# So many places of a press are tried.
MOST_PLACES = 12


@dataclass(frozen=True)
class OtherPlace:
    """A job on another press behind ``behind`` (empty: first), with the rest in its order: min that
    the day is done later, and min later in all.
    """

    press: str
    behind: str
    longer_min: float
    later_min: float


@dataclass(frozen=True)
class WhyHere:
    """``is_only_press``: no other takes it. ``waits_for``: the job whose end, with its wait, is why
    it does not begin sooner. ``change_min`` before it. ``others``: the best place on each other
    press.
    """

    is_only_press: bool
    waits_for: str
    change_min: float
    others: tuple[OtherPlace, ...]


def why_here(
    plan: DayPlan,
    presses: Sequence[PlanPress],
    jobs: Sequence[PlanJob],
    name: str,
    objective: str,
    hands: Hands | None = None,
) -> WhyHere:
    """Why a planned job runs where and when it does, by the plan's objective; times in minutes
    (min). Raises KeyError for a job that is not in the plan.
    """
    runs = {run.job: run for run in plan.runs}
    named = {job.name: job for job in jobs if job.name in runs}
    run, job = runs[name], named[name]
    fits = fitting(list(named.values()), presses)[name]
    others = [
        _best_on(plan, presses, named, name, presses[n].name, objective, hands)
        for n in fits
        if presses[n].name != run.press
    ]
    return WhyHere(
        is_only_press=len(fits) == 1,
        waits_for=_waits_for(job, run, runs),
        change_min=run.change_min,
        others=tuple(other for other in others if other is not None),
    )


def _waits_for(job: PlanJob, run: PlannedRun, runs: Mapping[str, PlannedRun]) -> str:
    for wait in job.after:
        earlier = runs.get(wait.job)
        if earlier and earlier.end_min + wait.minutes >= run.start_min - 1e-6:
            return wait.job
    return ""


def _best_on(
    plan: DayPlan,
    presses: Sequence[PlanPress],
    jobs: Mapping[str, PlanJob],
    name: str,
    press: str,
    objective: str,
    hands: Hands | None,
) -> OtherPlace | None:
    """The place of a press that costs least; None where none is possible."""
    order = {p.name: [r.job for r in plan.on(p.name) if r.job != name] for p in presses}
    here = order[press]
    found = []
    for place in range(min(len(here), MOST_PLACES) + 1):
        moved = {**order, press: [*here[:place], name, *here[place:]]}
        day = SequencedDay({p.name: p for p in presses}, jobs, moved, hands)
        try:
            runs = best_settings(day, objective)
        except ValueError:
            continue
        longer = max(run.end_min for run in runs) - plan.makespan_min
        late = sum(
            max(run.end_min - due, 0.0)
            for run in runs
            if (due := jobs[run.job].due_min) is not None
        )
        behind = here[place - 1] if place else ""
        found.append(OtherPlace(press, behind, longer, late - plan.lateness_min))
    return min(found, key=lambda p: (round(p.later_min, 3), p.longer_min), default=None)
