"""The best plan of a day by constraint programming, with the bound that no plan can beat.

Method: CP-SAT orders the jobs (model.py), begun from jobs put where they wait least; what its
steps leave to rounding is set right by a linear programme (settings.py). Days of more pairs than
``MOST_EXACT_ARCS`` are ordered by their least changes alone, and each job may follow only those
that it follows quickly: their bound comes from the least loads.
"""

import itertools
import math
import time
from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor, wait
from contextlib import suppress

import numpy as np
from ortools.sat.python import cp_model

from tempermark.core.planning.day import (
    SECONDS_PER_MINUTE,
    DayPlan,
    PlanJob,
    PlanPress,
)
from tempermark.core.planning.duty import Hands
from tempermark.core.planning.first_come import in_order_of_arrival, inserted
from tempermark.core.planning.fits import fitting, unplaced
from tempermark.core.planning.search.bounds import loose_bounds
from tempermark.core.planning.search.kept import DaySearch, PlanProgress, Watch
from tempermark.core.planning.search.least import LeastDay, least_day
from tempermark.core.planning.search.model import DayModel
from tempermark.core.planning.search.ticks import ROUNDING_TICKS, TICKS_PER_MIN, ticks
from tempermark.core.planning.settings import GOALS
from tempermark.core.vocabulary.settings import PRESSURE_CLASSES

OBJECTIVES = tuple(GOALS)
Pair = tuple[int, int]
MOST_EXACT_ARCS, MOST_ARCS = 12_000, 40_000
# Threads of the solver: it mixes its ways of searching best from so many on.
WORKERS = 8
# Amounts that differ by less are the same, minutes: the solver counts no finer.
SAME_MIN = 1e-4
# What is proved the best is so to a tenth of a second: the ticks of one goal buy some of the next.
PROVED_WITHIN_MIN = 2e-3
LOOK_EVERY_S = 0.25
# What is left to choose among plans as good is searched for this long.
TIDYING_S = 2.0


def plan_day(
    presses: Sequence[PlanPress],
    jobs: Sequence[PlanJob],
    objective: str = "makespan",
    seconds: float = 10.0,
    watch: Watch | None = None,
    hands: Hands | None = None,
) -> DayPlan:
    """The best plan found in so many seconds, tended by the ``hands`` that are there (None: by as
    many as are needed). ``watch`` is told of the progress a few times a second and ends the search
    by answering False; the best so far is then the plan.
    """
    begun = time.monotonic()
    reasons = unplaced(jobs, presses)
    left = [job for job in jobs if job.name not in reasons]
    if not left:
        return DayPlan((), tuple(reasons.items()), 0.0, 0.0, 0.0, True)
    fits = fitting(left, presses)
    least = least_day(presses, left, fits)
    bounds = loose_bounds(left, presses, fits)
    if least is not None:
        bounds |= least.bounds
    search = DaySearch(
        presses=presses,
        jobs=left,
        objective=objective,
        runs=in_order_of_arrival(left, presses, fits, hands),
        hands=hands,
        bound_min=bounds[GOALS[objective][0]],
        ends_at=begun + seconds,
        watch=watch,
        begun_at=begun,
    )
    search.take(_order_of(search))
    if not search.has_wishes:
        _offered(search, inserted(left, presses, fits))
    if least is not None:
        # Platens that change little rise little: the order for power too, until a better is found.
        of_changes = objective in ("changes", "power")
        _offered(search, least.of_least_change()[1] if of_changes else least.order)
    proved = _searched(search, fits, bounds, least)
    return _plan(search, reasons, proved)


def _offered(search: DaySearch, order: Mapping[str, Sequence[str]]) -> None:
    """Take an order that knows no wishes, where there are none."""
    if not search.has_wishes:
        with suppress(ValueError):  # Its presses wait for each other.
            search.take(order)


def _order_of(search: DaySearch) -> dict[str, list[str]]:
    return {
        press.name: [run.job for run in search.runs if run.press == press.name]
        for press in search.presses
    }


def _plan(search: DaySearch, reasons: Mapping[str, str], is_proved: bool) -> DayPlan:
    amounts = search.amounts
    value = amounts[GOALS[search.objective][0]]
    bound = value if is_proved else min(search.bound_min, value)
    return DayPlan(
        runs=tuple(search.runs),
        unplaced=tuple(reasons.items()),
        makespan_min=amounts["makespan"],
        lateness_min=amounts["late"],
        lower_bound_min=bound,
        is_proved=is_proved,
    )


def _searched(
    search: DaySearch,
    fits: Mapping[str, Sequence[int]],
    bounds: Mapping[str, float],
    least: LeastDay | None,
) -> bool:
    """Search until proved, out of time or ended; whether the kept plan is proved the best."""
    here = {
        n: [k for k, job in enumerate(search.jobs) if n in fits[job.name]]
        for n in range(len(search.presses))
    }
    is_exact = sum((len(found) + 1) ** 2 for found in here.values()) <= MOST_EXACT_ARCS
    if search.objective == "power" and not is_exact:
        # Without settings there is no power to count.
        return False
    arcs = {n: _pairs(search, n, found, is_exact) for n, found in here.items()}
    model = DayModel(
        search.presses, search.jobs, fits, arcs, is_exact, search.hands, search.objective == "power"
    )
    # What is late counts after the rest only where it is asked for.
    goals = [goal for goal in GOALS[search.objective] if goal != "late" or search.late_counts]
    proved = True
    for number, goal in enumerate(goals):
        bound = bounds[goal]
        if number and least is not None and search.objective != "power":
            bound = _second_bound(search, least)
        status, best, found = _minimised(search, model, goal, bound, number == 0 and is_exact)
        proved = proved and status == cp_model.OPTIMAL
        if number == 0 and is_exact:
            search.bound_min = max(search.bound_min, found)
        if best is None or time.monotonic() > search.ends_at:
            return False
        model.model.add(model.goals[goal] <= best)
        if number == 0:
            search.settled = best / TICKS_PER_MIN
    search.ends_at = min(search.ends_at, time.monotonic() + TIDYING_S)
    for tidied in (model.moves, model.goals["changes"]):
        model.model.minimize(tidied)
        model.hint(search.runs)
        _, best, _ = _solved(search, model, keeps_bound=False)
        if best is None or time.monotonic() > search.ends_at:
            break
        model.model.add(tidied <= best)
    return proved and is_exact


def _second_bound(search: DaySearch, least: LeastDay) -> float:
    """Until when all is done at least by plans that are as good in what counts before; its order is
    taken if it is better.
    """
    if search.late_counts:
        bound, order = least.no_later(search.amounts["late"])
    elif search.amounts["changes"] <= least.change_min + SAME_MIN:
        bound, order = least.of_least_change()
    else:
        # Plans that change for longer may end sooner than those of the least change.
        return least.makespan_min
    _offered(search, order)
    return bound


def _minimised(
    search: DaySearch, model: DayModel, goal: str, bound_min: float, keeps_bound: bool
) -> tuple[cp_model.CpSolverStatus, int | None, float]:
    """As ``_solved``, for a goal with a bound that is known; a plan that reaches it is not searched
    for again.
    """
    amount = search.amounts[goal]
    if amount <= bound_min + SAME_MIN:
        return cp_model.OPTIMAL, ticks(amount) + ROUNDING_TICKS * len(search.jobs), amount
    model.model.add(model.goals[goal] >= math.floor(bound_min * TICKS_PER_MIN))
    model.model.minimize(model.goals[goal])
    model.hint(search.runs)
    status, best, found = _solved(search, model, keeps_bound)
    kept = search.amounts[goal]
    if best is not None and kept > best / TICKS_PER_MIN + PROVED_WITHIN_MIN:
        # What was found could not be kept as it is: nothing is proved of what is kept.
        return cp_model.FEASIBLE, best, max(bound_min, found)
    return status, best, max(bound_min, found)


def _pairs(search: DaySearch, press: int, here: Sequence[int], is_exact: bool) -> list[Pair]:
    """What may follow what on a press: 0 is the press as it stands and its end, job n is n + 1."""
    ends = [(0, n + 1) for n in here] + [(n + 1, 0) for n in here]
    if is_exact:
        inner = [(a + 1, b + 1) for a in here for b in here if a != b]
    else:
        inner = _quick_pairs(search, press, here)
    return [pair for pair in ends + inner if _is_wanted(search.jobs, pair)]


def _is_wanted(jobs: Sequence[PlanJob], pair: Pair) -> bool:
    """Whether nobody wants the later of a pair to follow something else."""
    before, job = pair
    behind = jobs[job - 1].behind if job else None
    return behind is None or behind == (jobs[before - 1].name if before else "")


def _quick_pairs(search: DaySearch, press: int, here: Sequence[int]) -> list[Pair]:
    """Before each job those that it follows with the least change, and the one that it follows in
    the plan so far.
    """
    at, jobs = search.presses[press], [search.jobs[n] for n in here]
    low, high = (np.array([getattr(j, k) for j in jobs]) for k in ("low_c", "high_c"))
    level = np.array([PRESSURE_CLASSES.index(j.pressure) for j in jobs])
    rise = np.maximum(low[None, :] - high[:, None], 0) / at.heats_c_per_min
    fall = np.maximum(low[:, None] - high[None, :], 0) / at.cools_c_per_min
    steps = abs(level[:, None] - level[None, :]) * at.pressure_step_s / SECONDS_PER_MINUTE
    change = np.maximum(np.maximum(rise, fall), steps)
    np.fill_diagonal(change, np.inf)
    most = max(2, MOST_ARCS // (len(search.presses) * len(search.jobs)))
    near = np.argsort(change, axis=0, kind="stable")[:most]
    pairs = {
        (here[before] + 1, here[n] + 1)
        for n in range(len(here))
        for before in near[:, n].tolist()
        if before != n
    }
    place = {job.name: n + 1 for n, job in enumerate(search.jobs)}
    order = [place[run.job] for run in search.runs if run.press == at.name]
    return sorted(pairs | set(itertools.pairwise(order)))


def _solved(
    search: DaySearch, model: DayModel, keeps_bound: bool
) -> tuple[cp_model.CpSolverStatus, int | None, float]:
    """One run of the solver: its status, the objective of its best in ticks, and the bound in
    minutes. Every better order is kept as it is found.
    """
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = WORKERS
    solver.parameters.max_time_in_seconds = max(search.ends_at - time.monotonic(), 0.05)
    found = _Found(search, model)
    solver.best_bound_callback = found.bounded if keeps_bound else None
    # The solver has a thread of its own, so that whoever watches does so in theirs.
    with ThreadPoolExecutor(1) as threads:
        solving = threads.submit(solver.solve, model.model, found)
        while not wait([solving], LOOK_EVERY_S).done:
            if search.watch is not None and not search.watch(_progress(search)):
                solver.stop_search()
                break
        status = solving.result()
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return status, None, 0.0
    return status, round(solver.objective_value), _unrounded(search, solver.best_objective_bound)


def _unrounded(search: DaySearch, bound_ticks: float) -> float:
    """A bound of the rounded day as one of the day itself, minutes."""
    return max(bound_ticks - ROUNDING_TICKS * len(search.jobs), 0.0) / TICKS_PER_MIN


class _Found(cp_model.CpSolverSolutionCallback):
    """Keeps what the solver finds."""

    def __init__(self, search: DaySearch, model: DayModel) -> None:
        super().__init__()
        self.search, self.day = search, model

    def on_solution_callback(self) -> None:
        """Called by the solver with each better plan."""
        day = self.day
        settings_c = day.settings_c(self.value)
        self.search.take(day.order(self.boolean_value), day.wanted(self.value), settings_c)

    def bounded(self, bound_ticks: float) -> None:
        """Called by the solver with each better bound."""
        bound = _unrounded(self.search, bound_ticks)
        self.search.bound_min = max(self.search.bound_min, bound)


def _progress(search: DaySearch) -> PlanProgress:
    seconds = time.monotonic() - search.begun_at
    return PlanProgress(seconds, search.value[0], search.bound_min)
