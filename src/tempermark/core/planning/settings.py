"""The settings of runs whose order is known: a linear programme, solved exactly.

Equation: minimise the objective over settings s_j within their windows, changes c_j and starts,
with c_j ≥ (s_j − s_i) ÷ heating, c_j ≥ (s_i − s_j) ÷ cooling, c_j ≥ what hands need,
start_j ≥ end_i + c_j; then, of all as good, the one whose platens change least.
"""

from collections.abc import Sequence

import numpy as np
from scipy.optimize import linprog
from scipy.sparse import coo_array

from tempermark.core.planning.day import (
    PlanJob,
    PlannedRun,
    PlanPress,
    SequencedDay,
    hands_minutes,
    swap_minutes,
    swaps,
)
from tempermark.core.planning.power import held_kwh_min, rise_kwh_k, running_kwh_k
from tempermark.core.planning.timing import timed_runs
from tempermark.core.preparing.size.growth import ROOM_C

# What the second programme may give up of the first one's best, minutes.
EQUAL_MIN = 1e-6
# Of plans that change as little, the one that begins each run as early as it can.
EARLY_WEIGHT = 1e-3
# Objective → what is made small, one after the other.
GOALS = {
    "makespan": ("makespan", "late"),
    "lateness": ("late", "makespan"),
    "changes": ("changes", "makespan"),
    "power": ("power", "makespan"),
}


class _Programme:
    """Rows of A·x ≤ b, gathered one by one."""

    def __init__(self, names: Sequence[str]) -> None:
        kinds = ("set", "change", "start", "late", "rise")
        self.place = {
            (kind, name): n for n, (kind, name) in enumerate((k, j) for k in kinds for j in names)
        }
        self.place["makespan", ""] = len(self.place)
        self.rows: list[tuple[int, int, float]] = []
        self.limits: list[float] = []

    def at_most(self, terms: Sequence[tuple[str, str, float]], limit: float) -> None:
        self.rows += [(len(self.limits), self.place[k, name], c) for k, name, c in terms]
        self.limits.append(limit)

    def solved(
        self, costs: np.ndarray, bounds: Sequence[tuple[float, float | None]]
    ) -> np.ndarray | None:
        """What makes the costs least; None where nothing keeps all rows."""
        rows, columns, values = zip(*self.rows, strict=True)
        table = coo_array((values, (rows, columns)), shape=(len(self.limits), len(self.place)))
        found = linprog(costs, A_ub=table.tocsr(), b_ub=self.limits, bounds=bounds, method="highs")
        return np.asarray(found.x) if found.success else None


def best_settings(day: SequencedDay, objective: str) -> list[PlannedRun]:
    """The runs with the settings and starts that serve ``objective`` (a key of ``GOALS``) best,
    in the order of their start. Raises ValueError for an order that nothing keeps.
    """
    names = [name for order in day.order.values() for name in order]
    if not names:
        return []
    programme = _Programme(names)
    for press, order in day.order.items():
        _in_order(programme, day, day.presses[press], order)
    for name in names:
        _times(programme, day, day.jobs[name])
    bounds = _bounds(programme, day, names)
    found, costs = None, _costs(programme, day, names)
    for goal in (*GOALS[objective], "early"):
        better = programme.solved(costs[goal], bounds)
        if better is None:
            # The goals before hold to the last digit that the programme counts in.
            break
        found = better
        used = np.flatnonzero(costs[goal])
        programme.rows += [(len(programme.limits), int(n), float(costs[goal][n])) for n in used]
        programme.limits.append(float(costs[goal] @ found) + EQUAL_MIN)
    if found is None:
        raise ValueError("No settings keep these runs in this order.")
    return timed_runs(day, _settings(programme, day, found))


def _costs(programme: _Programme, day: SequencedDay, names: Sequence[str]) -> dict[str, np.ndarray]:
    """What each goal adds up: min late, until all is done, of changes, kWh; and, among plans as
    good, changes with what begins early.
    """
    goals = ("late", "makespan", "changes", "power", "early")
    costs = {goal: np.zeros(len(programme.place)) for goal in goals}
    for press, order in day.order.items():
        _power(costs["power"], programme, day, day.presses[press], order)
    for name in names:
        costs["late"][programme.place["late", name]] = 1.0
        costs["changes"][programme.place["change", name]] = 1.0
        costs["early"][programme.place["change", name]] = 1.0
        costs["early"][programme.place["start", name]] = EARLY_WEIGHT
    costs["makespan"][programme.place["makespan", ""]] = 1.0
    return costs


def _power(
    costs: np.ndarray,
    programme: _Programme,
    day: SequencedDay,
    press: PlanPress,
    order: Sequence[str],
) -> None:
    """The kWh of a press (power.py), but for what is the same in all plans of this order."""
    place, before = programme.place, None
    for name in order:
        job = day.jobs[name]
        costs[place["set", name]] += running_kwh_k(press, job)
        costs[place["rise", name]] += rise_kwh_k(press)
        if before is None:
            costs[place["change", name]] += held_kwh_min(press, job)
        else:
            costs[place["start", name]] += held_kwh_min(press, job)
            costs[place["start", before]] -= held_kwh_min(press, job)
        before = name


def _in_order(
    programme: _Programme, day: SequencedDay, press: PlanPress, order: Sequence[str]
) -> None:
    before = None
    for name in order:
        job, earlier = day.jobs[name], day.jobs[before] if before else None
        programme.at_most([("change", name, -1.0)], -hands_minutes(press, earlier, job))
        swapped = swaps(press, earlier, job)
        if swapped:
            warmer = [("set", name, 1.0 / press.heats_c_per_min), ("change", name, -1.0)]
            cold_min = ROOM_C / press.heats_c_per_min - swap_minutes(press, earlier)
            programme.at_most(warmer, cold_min)
        else:
            _thermal(programme, press, before, name)
        rises = [("set", name, 1.0), ("rise", name, -1.0)]
        if before is None or swapped:
            programme.at_most(rises, ROOM_C if swapped else press.start_c)
        else:
            programme.at_most([*rises, ("set", before, -1.0)], 0.0)
        begins = [("change", name, 1.0), ("start", name, -1.0)]
        if before is None:
            programme.at_most(begins, -press.free_from_min)
        else:
            programme.at_most([*begins, ("start", before, 1.0)], -day.jobs[before].run_min)
        before = name


def _thermal(programme: _Programme, press: PlanPress, before: str | None, name: str) -> None:
    """A change takes as long as the platen heats or cools."""
    for sign, rate in ((1.0, press.heats_c_per_min), (-1.0, press.cools_c_per_min)):
        terms = [("set", name, sign / rate), ("change", name, -1.0)]
        if before is None:
            programme.at_most(terms, sign * press.start_c / rate)
        else:
            programme.at_most([*terms, ("set", before, -sign / rate)], 0.0)


def _times(programme: _Programme, day: SequencedDay, job: PlanJob) -> None:
    programme.at_most([("start", job.name, 1.0), ("makespan", "", -1.0)], -job.run_min)
    if job.due_min is not None:
        programme.at_most(
            [("start", job.name, 1.0), ("late", job.name, -1.0)], job.due_min - job.run_min
        )
    for wait in job.after:
        if ("start", wait.job) in programme.place:
            programme.at_most(
                [("start", wait.job, 1.0), ("start", job.name, -1.0)],
                -wait.minutes - day.jobs[wait.job].run_min,
            )


def _bounds(
    programme: _Programme, day: SequencedDay, names: Sequence[str]
) -> list[tuple[float, float | None]]:
    bounds: list[tuple[float, float | None]] = [(0.0, None)] * len(programme.place)
    for name in names:
        job = day.jobs[name]
        bounds[programme.place["set", name]] = (job.low_c, job.high_c)
        bounds[programme.place["start", name]] = (job.release_min, None)
    return bounds


def _settings(programme: _Programme, day: SequencedDay, found: np.ndarray) -> dict[str, float]:
    """The settings in °C, without dust of the programme."""
    settings = {}
    for order in day.order.values():
        for name in order:
            job, set_c = day.jobs[name], round(float(found[programme.place["set", name]]), 6)
            settings[name] = min(max(set_c, job.low_c), job.high_c)
    return settings
