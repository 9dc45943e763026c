"""What is known of a day while it is searched: its best plan so far and the bound."""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from tempermark.core.planning.day import PlanJob, PlannedRun, PlanPress, SequencedDay
from tempermark.core.planning.duty import Hands
from tempermark.core.planning.power import power_kwh
from tempermark.core.planning.settings import GOALS, best_settings
from tempermark.core.planning.timing import timed_runs


@dataclass(frozen=True)
class PlanProgress:
    """How far the search is: seconds, the objective's best so far and its bound, in its own unit
    (minutes; kWh for power).
    """

    seconds: float
    best_min: float
    bound_min: float


Watch = Callable[[PlanProgress], bool]


@dataclass
class DaySearch:
    """What is known of a day while it is searched; ``settled``: what its first goal comes to at
    best, as the solver counts, once that is known.
    """

    presses: Sequence[PlanPress]
    jobs: Sequence[PlanJob]
    objective: str
    runs: list[PlannedRun]
    bound_min: float
    ends_at: float
    watch: Watch | None
    begun_at: float
    hands: Hands | None = None
    settled: float = -math.inf

    @property
    def value(self) -> tuple[float, float, int, float]:
        """What is to be small: the objective, what counts after it, jobs that move, and min of
        changes.
        """
        return self.value_of(self.runs)

    def value_of(self, runs: Sequence[PlannedRun]) -> tuple[float, float, int, float]:
        """The same of any runs, min or kWh."""
        was_on = {job.name: job.was_on for job in self.jobs}
        amounts = _amounts(runs, self.presses, self.jobs)
        moves = sum(was_on[run.job] not in (None, run.press) for run in runs)
        # Differences below the solver's steps are none; nor are those of a goal that is settled.
        first, second = (round(amounts[goal], 4) for goal in GOALS[self.objective])
        return max(first, self.settled), second, moves, round(amounts["changes"], 4)

    @property
    def amounts(self) -> dict[str, float]:
        """What each goal comes to in the plan that is kept, in minutes and kWh."""
        return _amounts(self.runs, self.presses, self.jobs)

    @property
    def has_wishes(self) -> bool:
        """Whether a job must follow another: orders that know of no wishes are of no use then."""
        return any(job.behind is not None for job in self.jobs)

    @property
    def late_counts(self) -> bool:
        """Whether lateness is what is to be small."""
        return self.objective == "lateness"

    def take(
        self,
        order: Mapping[str, Sequence[str]],
        wanted: Sequence[str] = (),
        settings_c: Mapping[str, float] | None = None,
    ) -> None:
        """Keep an order if it is better than the one that is kept; where hands are few, in the
        order in which they are ``wanted``, and at the settings in °C that go with that.
        """
        presses, jobs = {p.name: p for p in self.presses}, {j.name: j for j in self.jobs}
        day = SequencedDay(presses, jobs, order, self.hands, wanted)
        found = [best_settings(day, self.objective)]
        if self.hands is not None and settings_c is not None:
            found.append(timed_runs(day, settings_c))
        for runs in found:
            if self.value_of(runs) < self.value:
                self.runs = runs


def _amounts(
    runs: Sequence[PlannedRun], presses: Sequence[PlanPress], jobs: Sequence[PlanJob]
) -> dict[str, float]:
    """What each goal comes to, in minutes and kWh."""
    ends = {run.job: run.end_min for run in runs}
    late = [max(ends[j.name] - j.due_min, 0.0) for j in jobs if j.due_min is not None]
    changes = sum(run.change_min for run in runs)
    power = power_kwh(presses, {job.name: job for job in jobs}, runs)
    return {"late": sum(late), "makespan": max(ends.values()), "changes": changes, "power": power}
