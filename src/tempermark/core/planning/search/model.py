"""A day as a constraint model: an optional circuit through the jobs of each press.

Settings and times are whole steps of 0.001 K and 1 ms. Every pair's least change and every press's
least load are told to the solver, for they bound what it searches.
"""

import itertools
import math
from collections.abc import Callable, Mapping, Sequence

from ortools.sat.python import cp_model

from tempermark.core.planning.day import (
    COVER_MIN,
    SECONDS_PER_MINUTE,
    PlanJob,
    PlannedRun,
    PlanPress,
    hands_minutes,
    least_change_minutes,
    order_of,
    swap_minutes,
    swaps,
    thermal_minutes,
)
from tempermark.core.planning.duty import Hands
from tempermark.core.planning.search.additions import add_power, add_tending, paused
from tempermark.core.planning.search.ticks import ROUNDING_TICKS, TICKS_PER_K, TICKS_PER_MIN, ticks
from tempermark.core.preparing.size.growth import ROOM_C
from tempermark.core.vocabulary.settings import PRESSURE_CLASSES

# No run takes more.
MOST_KWH = 1_000


class DayModel:
    """The solver's variables of a day."""

    def __init__(
        self,
        presses: Sequence[PlanPress],
        jobs: Sequence[PlanJob],
        fits: Mapping[str, Sequence[int]],
        arcs: Mapping[int, Sequence[tuple[int, int]]],
        is_exact: bool,
        hands: Hands | None = None,
        counts_power: bool = False,
    ) -> None:
        self.model = cp_model.CpModel()
        self.presses, self.jobs, self.fits, self.is_exact = presses, jobs, fits, is_exact
        self.place = {job.name: n for n, job in enumerate(jobs)}
        self.hands = hands
        self.horizon = _horizon(presses, jobs) + (0 if hands is None else _longer(hands))
        self.most_change = max(_most_change(press, jobs) for press in presses)
        self.runs = [ticks(job.run_min) for job in jobs]
        new = self.model.new_int_var
        self.start = [
            new(ticks(j.release_min), self.horizon, f"start {n}") for n, j in enumerate(jobs)
        ]
        self.setting = [new(*_window(job), f"set {n}") for n, job in enumerate(jobs)]
        self.paused = [paused(self, n) for n in range(len(jobs))]
        self.change = [new(0, self.most_change, f"change {n}") for n in range(len(jobs))]
        # kWh, in as many parts as a minute has ticks.
        self.power = [
            new(0, MOST_KWH * TICKS_PER_MIN, f"power {n}") for n in range(counts_power * len(jobs))
        ]
        self.makespan = new(0, self.horizon, "makespan")
        self.late = {
            n: new(0, self.horizon + max(ticks(-job.due_min), 0), f"late {n}")
            for n, job in enumerate(jobs)
            if job.due_min is not None
        }
        # 0 stands for the press as it is; job n is n + 1.
        self.follows: dict[tuple[int, int, int], cp_model.IntVar] = {}
        self.runs_on: dict[tuple[int, int], cp_model.IntVar] = {}
        for press in range(len(presses)):
            self._press(press, arcs[press])
        self._jobs()
        if hands is not None:
            add_tending(self, hands)

    def end(self, job: int) -> cp_model.LinearExpr:
        """When a job ends, pauses counted."""
        return self.start[job] + self.runs[job] + self.paused[job]

    def _press(self, press: int, pairs: Sequence[tuple[int, int]]) -> None:
        model, here = self.model, [n for n, j in enumerate(self.jobs) if press in self.fits[j.name]]
        if not here:
            return
        arcs = []
        for job in here:
            on = self.runs_on[press, job] = model.new_bool_var(f"{job} on {press}")
            arcs.append((job + 1, job + 1, ~on))
        is_used = model.new_bool_var(f"{press} used")
        arcs.append((0, 0, ~is_used))
        for before, job in pairs:
            follows = model.new_bool_var(f"{job} after {before} on {press}")
            arcs.append((before, job, follows))
            if job:
                self.follows[press, before, job] = follows
        model.add_circuit(arcs)
        before_it = {
            job: [(b, self.follows[press, b, job + 1]) for b in found]
            for job, found in _before(pairs).items()
        }
        load, changes = [], []
        for job in here:
            earlier = before_it[job]
            change = self._change_on(press, job, earlier)
            load += [self.runs_on[press, job] * self.runs[job], change]
            changes.append(change)
            for before, follows in earlier:
                self._arc(press, before, job, follows)
        # Pauses only make runs longer.
        model.add_no_overlap(
            model.new_optional_fixed_size_interval_var(
                self.start[job], self.runs[job], self.runs_on[press, job], f"run {job} {press}"
            )
            for job in here
        )
        model.add(sum(load) + ticks(self.presses[press].free_from_min) * is_used <= self.makespan)
        self._reach(press, here, sum(changes))

    def _change_on(
        self, press: int, job: int, earlier: Sequence[tuple[int, cp_model.IntVar]]
    ) -> cp_model.IntVar:
        """The change before a job if it is on this press, else none."""
        on = self.runs_on[press, job]
        if len(self.fits[self.jobs[job].name]) == 1:
            change = self.change[job]
        else:
            change = self.model.new_int_var(0, self.most_change, f"change {job} on {press}")
            self.model.add(change <= self.most_change * on)
            self.model.add(change >= self.change[job] - self.most_change * (1 - on))
        least = sum(ticks(self._least(press, before, job)) * follows for before, follows in earlier)
        self.model.add(change >= least)
        return change

    def _least(self, press: int, before: int, job: int) -> float:
        earlier = self.jobs[before - 1] if before else None
        return least_change_minutes(self.presses[press], earlier, self.jobs[job])

    def _arc(self, press: int, before: int, job: int, follows: cp_model.IntVar) -> None:
        """What holds when a job follows another, or the press as it stands, on a press."""
        model, at = self.model, self.presses[press]
        earlier = self.jobs[before - 1] if before else None
        if before:
            earliest = self.end(before - 1)
        else:
            opens_min = self.hands.opens_min if self.hands else 0.0
            earliest = self.change[job] * 0 + ticks(max(at.free_from_min, opens_min))
        model.add(self.start[job] >= earliest + self.change[job]).only_enforce_if(follows)
        if not self.is_exact:
            least = ticks(self._least(press, before, job))
            model.add(self.change[job] >= least).only_enforce_if(follows)
            return
        steps = ticks(hands_minutes(at, earlier, self.jobs[job]))
        if steps:
            model.add(self.change[job] >= steps).only_enforce_if(follows)
        if swaps(at, earlier, self.jobs[job]):
            self._swap(press, earlier, job, follows)
        else:
            self._thermal(press, before, job, follows)
        if self.power:
            add_power(self, press, before, job, follows)

    def _swap(
        self, press: int, earlier: PlanJob | None, job: int, follows: cp_model.IntVar
    ) -> None:
        """Cooled, exchanged and heated from the room."""
        at = self.presses[press]
        rate = round(at.heats_c_per_min * TICKS_PER_K)
        heated = (self.setting[job] - round(ROOM_C * TICKS_PER_K)) * TICKS_PER_MIN
        needed = ticks(swap_minutes(at, earlier)) * rate + heated
        self.model.add(self.change[job] * rate >= needed).only_enforce_if(follows)

    def _thermal(self, press: int, before: int, job: int, follows: cp_model.IntVar) -> None:
        """Heated or cooled: c·rate ≥ rise, with the rate in millikelvin per minute, c in ticks."""
        at = self.presses[press]
        was = self.setting[before - 1] if before else round(at.start_c * TICKS_PER_K)
        low, high = _window(self.jobs[job])
        lowest, highest = _window(self.jobs[before - 1]) if before else (was, was)
        for rate, sign, is_possible in (
            (at.heats_c_per_min, 1, high > lowest),
            (at.cools_c_per_min, -1, low < highest),
        ):
            if is_possible:
                rise = sign * (self.setting[job] - was) * TICKS_PER_MIN
                change = self.change[job] * round(rate * TICKS_PER_K)
                self.model.add(change >= rise).only_enforce_if(follows)

    def _reach(self, press: int, here: Sequence[int], changes: cp_model.LinearExprT) -> None:
        """A press that visits two jobs changes at least as much as by the shorter way to both:
        changes in setting and pressure keep the triangle's inequality.
        """
        if not self.is_exact:
            return
        name = self.presses[press].name
        for one, other in itertools.combinations(here, 2):
            if self.jobs[one].element_on(name) or self.jobs[other].element_on(name):
                # An exchange takes as long as the platen before it was hot.
                continue
            ways = (
                self._least(press, 0, a) + self._least(press, a + 1, b)
                for a, b in ((one, other), (other, one))
            )
            least = math.floor(min(ways) * TICKS_PER_MIN)
            both = self.runs_on[press, one] + self.runs_on[press, other]
            if least:
                self.model.add(changes >= least * (both - 1))

    def _jobs(self) -> None:
        model = self.model
        for number, job in enumerate(self.jobs):
            model.add_exactly_one(self.runs_on[press, number] for press in self.fits[job.name])
            end = self.end(number)
            model.add(self.makespan >= end)
            if job.due_min is not None:
                model.add(self.late[number] >= end - math.floor(job.due_min * TICKS_PER_MIN))
            for wait in job.after:
                other = self.place[wait.job]
                model.add(self.start[number] >= self.end(other) + ticks(wait.minutes))
            if job.behind is not None:
                before = self.place[job.behind] + 1 if job.behind else 0
                arcs = ((press, before, number + 1) for press in self.fits[job.name])
                model.add_exactly_one(self.follows[arc] for arc in arcs if arc in self.follows)

    @property
    def moves(self) -> cp_model.LinearExprT:
        """How many jobs are on another press than in the plan before."""
        names = [press.name for press in self.presses]
        stays = [
            self.runs_on[names.index(job.was_on), number]
            for number, job in enumerate(self.jobs)
            if job.was_on in names and (names.index(job.was_on), number) in self.runs_on
        ]
        return len(stays) - cp_model.LinearExpr.sum(stays)

    @property
    def goals(self) -> dict[str, cp_model.LinearExprT]:
        """What can be made least, in ticks of a minute or parts of a kWh."""
        changes = cp_model.LinearExpr.sum(self.change)
        return {
            "makespan": self.makespan,
            "late": self.lateness,
            "changes": changes,
            "power": cp_model.LinearExpr.sum(self.power),
        }

    @property
    def lateness(self) -> cp_model.LinearExprT:
        return cp_model.LinearExpr.sum(list(self.late.values()))

    def hint(self, runs: Sequence[PlannedRun]) -> None:
        """A plan to begin with."""
        self.model.proto.clear_solution_hint()
        by_name = {run.job: run for run in runs}
        order = order_of(self.presses, runs)
        followed = set()
        for number, press in enumerate(self.presses):
            places = [0, *(self.place[name] + 1 for name in order[press.name])]
            followed |= {(number, *pair) for pair in itertools.pairwise(places)}
        for arc, follows in self.follows.items():
            self.model.add_hint(follows, arc in followed)
        for (on, at), is_on in self.runs_on.items():
            self.model.add_hint(is_on, by_name[self.jobs[at].name].press == self.presses[on].name)
        for number, job in enumerate(self.jobs):
            run = by_name[job.name]
            low, high = _window(job)
            self.model.add_hint(
                self.setting[number], min(max(round(run.set_c * TICKS_PER_K), low), high)
            )
            self.model.add_hint(self.change[number], ticks(run.change_min))

    def wanted(self, value: Callable[[cp_model.LinearExprT], int]) -> list[str]:
        """The jobs in the order of their start."""
        starts = {job.name: value(self.start[n]) for n, job in enumerate(self.jobs)}
        return sorted(starts, key=starts.__getitem__)

    def settings_c(self, value: Callable[[cp_model.LinearExprT], int]) -> dict[str, float]:
        """The settings of the jobs in °C."""
        return {j.name: value(self.setting[n]) / TICKS_PER_K for n, j in enumerate(self.jobs)}

    def order(self, value: Callable[[cp_model.IntVar], int]) -> dict[str, list[str]]:
        """The jobs on each press in order, by names."""
        next_of = {(p, b): a for (p, b, a), follows in self.follows.items() if value(follows)}
        found = {}
        for number, press in enumerate(self.presses):
            names, at = [], next_of.get((number, 0))
            while at:
                names.append(self.jobs[at - 1].name)
                at = next_of.get((number, at))
            found[press.name] = names
        return found


def _before(pairs: Sequence[tuple[int, int]]) -> dict[int, list[int]]:
    """What may come before each job, the press as it stands among it."""
    found: dict[int, list[int]] = {}
    for before, after in pairs:
        if after:
            found.setdefault(after - 1, []).append(before)
    return found


def _window(job: PlanJob) -> tuple[int, int]:
    """A job's window in ticks, inwards; one that lies within a tick is that tick."""
    low = math.ceil(job.low_c * TICKS_PER_K - 1e-6)
    high = math.floor(job.high_c * TICKS_PER_K + 1e-6)
    return (low, high) if low <= high else (high, high)


def _most_change(press: PlanPress, jobs: Sequence[PlanJob]) -> int:
    """The longest change that this press can need, in ticks."""
    low = min(press.start_c, *(job.low_c for job in jobs))
    high = max(press.start_c, *(job.high_c for job in jobs))
    thermal_min = max(thermal_minutes(press, low, high), thermal_minutes(press, high, low))
    steps_min = (len(PRESSURE_CLASSES) - 1) * press.pressure_step_s / SECONDS_PER_MINUTE
    top = max(jobs, key=lambda job: job.high_c)
    spared = any(job.element_on(press.name) for job in jobs)
    swap = swap_minutes(press, top) + swap_minutes(press, None) if spared else 0.0
    most = thermal_min + steps_min + COVER_MIN + swap + (high - ROOM_C) / press.heats_c_per_min
    return ticks(most) + ROUNDING_TICKS


def _horizon(presses: Sequence[PlanPress], jobs: Sequence[PlanJob]) -> int:
    change = max(_most_change(press, jobs) for press in presses)
    waits = sum(wait.minutes for job in jobs for wait in job.after)
    begins = max([0.0, *(j.release_min for j in jobs), *(p.free_from_min for p in presses)])
    runs = sum(ticks(job.run_min) for job in jobs)
    return runs + len(jobs) * (change + ROUNDING_TICKS) + ticks(waits + begins)


def _longer(hands: Hands) -> int:
    """By how many ticks hours and pauses can lengthen a day at most."""
    return ticks(hands.closes_min + sum(p.to_min - p.from_min for p in hands.pauses)) + 1
