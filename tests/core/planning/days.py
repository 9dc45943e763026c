"""Days whose best plan is known by trying everything.

All windows, rates and steps of these days are whole numbers, so that a best setting lies on a whole
degree: the cost of a change bends only at no rise, at heating × step and at cooling × step.
"""

import itertools
import random

import numpy as np

from tempermark.core.planning.day import PlanJob, PlanPress

GRID_C = np.arange(140, 221)


def random_day(seed, jobs, presses=2, due=False):
    """Presses and jobs of a made-up day."""
    rng = random.Random(seed)
    return (
        [_press(rng, n) for n in range(presses)],
        [_job(rng, n, due) for n in range(jobs)],
    )


def _press(rng, number):
    return PlanPress(
        name=f"P{number}",
        kind=rng.choice(("swing_away", "clamshell")),
        width_mm=400,
        height_mm=rng.choice((400, 500)),
        start_c=rng.choice((150, 180, 200)),
        heats_c_per_min=rng.choice((6, 10, 12)),
        cools_c_per_min=rng.choice((2, 3, 4)),
        pressure=rng.choice(("light", "medium", "firm")),
        pressure_step_s=rng.choice((0, 60, 120)),
    )


def _job(rng, number, due):
    low = rng.choice(range(145, 206, 5))
    return PlanJob(
        name=f"J{number}",
        quantity=rng.randint(1, 30),
        per_load=rng.choice((1, 2, 4)),
        low_c=low,
        high_c=low + rng.choice((0, 4, 8, 12)),
        dwell_s=rng.choice((12, 45, 60, 180)),
        handling_s=rng.choice((15, 30, 40)),
        pressure=rng.choice(("light", "medium", "firm")),
        width_mm=rng.choice((200, 380)),
        height_mm=rng.choice((200, 380, 480)),
        press_kinds=rng.choice((None, None, frozenset({"swing_away"}))),
        due_min=rng.choice((None, rng.randint(5, 120))) if due else None,
    )


def _change(press, before, job):
    """Minutes between every whole degree and every other, (from, to); before None: as it stands."""
    rise = GRID_C[None, :] - GRID_C[:, None]
    warmer = np.maximum(rise, 0) / press.heats_c_per_min
    cooler = np.maximum(-rise, 0) / press.cools_c_per_min
    order = ("light", "medium", "firm")
    was = press.pressure if before is None else before.pressure
    steps = abs(order.index(was) - order.index(job.pressure)) * press.pressure_step_s / 60
    lies = press.cover if before is None else before.cover
    # Another cover takes a minute.
    steps += 1.0 if lies != job.cover else 0.0
    thermal = np.maximum(warmer, cooler)
    fitted = "" if before is None else before.element_on(press.name)
    if fitted != job.element_on(press.name):
        # Newton's cooling to 45 °C in a room of 22 °C, ten minutes of hands, heated from the room.
        from_c = press.start_c if before is None else before.high_c
        cooling = 170 / press.cools_c_per_min * np.log((from_c - 22) / (45 - 22))
        thermal = np.broadcast_to(cooling + 10 + (GRID_C - 22) / press.heats_c_per_min, rise.shape)
    return np.maximum(thermal, steps)


def _outside(job):
    return np.where((job.low_c <= GRID_C) & (job.high_c >= GRID_C), 0.0, np.inf)


def least_minutes(press, jobs):
    """For every set of jobs (as bits) the minutes after which a press can be done with it."""
    best = {}
    at_start = np.where(press.start_c == GRID_C, 0.0, np.inf)
    for bits in range(1, 1 << len(jobs)):
        for n, job in enumerate(jobs):
            if not bits & 1 << n:
                continue
            rest = bits & ~(1 << n)
            before = (
                [(None, at_start)]
                if not rest
                else [(jobs[k], best[rest, k]) for k in range(len(jobs)) if rest & 1 << k]
            )
            ends = [
                np.min(reached[:, None] + _change(press, earlier, job), axis=0)
                for earlier, reached in before
            ]
            best[bits, n] = np.min(ends, axis=0) + job.run_min + _outside(job)
    return {
        bits: min((best[bits, n].min() for n in range(len(jobs)) if bits & 1 << n), default=0.0)
        for bits in range(1 << len(jobs))
    }


def least_makespan(presses, jobs, fits):
    """The earliest end of a day, by every way of sharing its jobs out."""
    times = [least_minutes(press, jobs) for press in presses]
    ends = []
    for where in itertools.product(*(fits[job.name] for job in jobs)):
        bits = [sum(1 << n for n, at in enumerate(where) if at == p) for p in range(len(presses))]
        ends.append(max(times[p][bits[p]] for p in range(len(presses))))
    return min(ends)


def least_lateness(presses, jobs, fits):
    """The least lateness in all, by every order and every whole degree; for days of few jobs with
    narrow windows.
    """
    found = np.inf
    for where in itertools.product(*(fits[job.name] for job in jobs)):
        late = 0.0
        for number, press in enumerate(presses):
            here = [job for job, at in zip(jobs, where, strict=True) if at == number]
            late += min(
                (_lateness(press, order) for order in itertools.permutations(here)), default=0.0
            )
        found = min(found, late)
    return found


def _lateness(press, order):
    degrees = [range(int(job.low_c), int(job.high_c) + 1) for job in order]
    return min(_lateness_at(press, order, settings) for settings in itertools.product(*degrees))


def _lateness_at(press, order, settings):
    now, set_c, pressure, late = 0.0, press.start_c, press.pressure, 0.0
    for job, to_c in zip(order, settings, strict=True):
        rise = to_c - set_c
        rate = press.heats_c_per_min if rise >= 0 else press.cools_c_per_min
        names = ("light", "medium", "firm")
        steps = abs(names.index(pressure) - names.index(job.pressure)) * press.pressure_step_s / 60
        now += max(abs(rise) / rate, steps) + job.run_min
        late += max(now - job.due_min, 0.0) if job.due_min is not None else 0.0
        set_c, pressure = to_c, job.pressure
    return late
