"""The power that a plan takes to keep its platens hot and to make them hotter.

Equation: E = Σ loss · (run · (s − room) + held · (m − room)) + C · rise, over the runs: s is a
run's setting, m the middle of its window, held the min that its press waits or changes before it
(before the first run it is off until it has to heat). What the pieces take is the same in every
plan and is not counted. Range: platens of one to two centimetres of aluminium.
Source: C as in core/pressing/closing.py; the loss is what makes an idle platen cool as fast as it
does (core/preparing/heat/changeover.py).
"""

from collections.abc import Mapping, Sequence

from tempermark.core.planning.day import SECONDS_PER_MINUTE, PlanJob, PlannedRun, PlanPress, swaps
from tempermark.core.preparing.heat.changeover import RATE_AT_EXCESS_K
from tempermark.core.preparing.size.growth import ROOM_C
from tempermark.core.pressing.closing import PLATEN_J_M2K

JOULES_PER_KWH = 3.6e6


def heat_capacity_j_k(press: PlanPress) -> float:
    """Heat capacity of a platen (J/K)."""
    return PLATEN_J_M2K * press.platen_m2


def loss_w_k(press: PlanPress) -> float:
    """What a hot platen loses for each K over the room (W/K)."""
    rate_k_s = press.cools_c_per_min / SECONDS_PER_MINUTE
    return heat_capacity_j_k(press) * rate_k_s / RATE_AT_EXCESS_K


def running_kwh_k(press: PlanPress, job: PlanJob) -> float:
    """What a run takes for each K over the room (kWh/K)."""
    return loss_w_k(press) * job.run_min * SECONDS_PER_MINUTE / JOULES_PER_KWH


def held_kwh_min(press: PlanPress, job: PlanJob) -> float:
    """What a minute of waiting or changing before a run takes (kWh/min)."""
    middle_k = (job.low_c + job.high_c) / 2 - ROOM_C
    return loss_w_k(press) * max(middle_k, 0.0) * SECONDS_PER_MINUTE / JOULES_PER_KWH


def rise_kwh_k(press: PlanPress) -> float:
    """What each K of rise takes (kWh/K)."""
    return heat_capacity_j_k(press) / JOULES_PER_KWH


def power_kwh(
    presses: Sequence[PlanPress], jobs: Mapping[str, PlanJob], runs: Sequence[PlannedRun]
) -> float:
    """What the platens of a plan take, kWh, by its runs in minutes (min) and °C."""
    total = 0.0
    for press in presses:
        before: PlannedRun | None = None
        for run in sorted((r for r in runs if r.press == press.name), key=lambda r: r.start_min):
            job = jobs[run.job]
            held = run.change_min if before is None else run.start_min - before.end_min
            was_c = press.start_c if before is None else before.set_c
            if swaps(press, jobs[before.job] if before else None, job):
                was_c = ROOM_C
            rise = run.set_c - was_c
            total += running_kwh_k(press, job) * max(run.set_c - ROOM_C, 0.0)
            total += held_kwh_min(press, job) * held + rise_kwh_k(press) * max(rise, 0.0)
            before = run
    return total


def least_kwh(
    presses: Sequence[PlanPress], jobs: Sequence[PlanJob], fits: Mapping[str, Sequence[int]]
) -> float:
    """What every plan takes at least, kWh, with windows in °C: each run at the foot of its window
    on the press that loses least.
    """
    return sum(
        max(job.low_c - ROOM_C, 0.0) * min(running_kwh_k(presses[n], job) for n in fits[job.name])
        for job in jobs
    )
