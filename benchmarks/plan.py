"""The plan of a day: proofs and times on made-up days, and changes saved beside the order in which
the orders came.

Jobs are stages of the shipped recipes in random numbers and sizes; presses stand at random heat.
"""

import time

import numpy as np

from tempermark.core.planning.day import PlanJob, PlanPress
from tempermark.core.planning.first_come import as_they_came
from tempermark.core.planning.search.solve import plan_day
from tempermark.core.planning.stages import stages_of
from tempermark.core.recipes.shipped import shipped_recipes

DAYS = 50
# The recipes of flat presses: any of these takes any of their blanks.
FLAT_KINDS = ("garment", "bag", "hardboard", "panel", "plastic", "tile", "wood")


def made_up_day(rng, presses, jobs, due=False):
    """Presses and jobs of a day."""
    stages = [
        stage
        for recipe in shipped_recipes()
        if recipe.blank_kind in FLAT_KINDS
        for stage in stages_of(recipe).stages
    ]
    return (
        [_press(rng, n) for n in range(presses)],
        [_job(rng, stages[rng.integers(len(stages))], n, due) for n in range(jobs)],
    )


def _press(rng, number):
    return PlanPress(
        name=f"P{number}",
        kind="swing_away",
        width_mm=400,
        height_mm=500,
        start_c=float(rng.choice([22.0, 160.0, 195.0])),
        heats_c_per_min=float(rng.uniform(8, 16)),
        cools_c_per_min=float(rng.uniform(2, 4)),
        pressure=str(rng.choice(["light", "medium", "firm"])),
        pressure_step_s=60.0,
    )


def _job(rng, stage, number, due):
    return PlanJob(
        name=f"J{number}",
        quantity=int(rng.integers(2, 40)),
        per_load=int(rng.integers(1, 4)),
        low_c=stage.low_c,
        high_c=stage.high_c,
        dwell_s=stage.dwell_s,
        handling_s=stage.handling_s,
        pressure=stage.pressure or "medium",
        cover=stage.cover,
        width_mm=300,
        height_mm=300,
        due_min=float(rng.uniform(30, 480)) if due else None,
    )


def run():
    """Proofs on small days, bounds on large ones, and changes saved on 50 days of a shop."""
    for objective in ("makespan", "lateness"):
        proofs("ten jobs on two presses", objective, 30, 2, 10, 10.0)
    proofs("sixty jobs on six presses", "makespan", 5, 6, 60, 18.0)
    saved()


def proofs(title, objective, days, presses, jobs, seconds):
    """How long the search takes, how often the plan is proved, how far from its bound."""
    taken, gaps, proved = [], [], 0
    for seed in range(days):
        rng = np.random.default_rng(seed)
        given, wanted = made_up_day(rng, presses, jobs, objective == "lateness")
        begun = time.perf_counter()
        plan = plan_day(given, wanted, objective=objective, seconds=seconds)
        taken.append(time.perf_counter() - begun)
        if objective == "makespan":
            gaps.append(plan.makespan_min / plan.lower_bound_min - 1)
        proved += plan.is_proved
    above = ""
    if gaps:
        above = f"; above the bound by {np.mean(gaps):.2%} on average, {max(gaps):.2%} at most"
    print(
        f"{title}, {objective}: {proved} of {days} proved; median {np.median(taken):.1f} s, most "
        f"{max(taken):.1f} s{above}",
        flush=True,
    )


def saved():
    """Minutes of changes and until the day is done, planned and as the orders came."""
    rows = []
    for seed in range(DAYS):
        rng = np.random.default_rng(1000 + seed)
        presses, jobs = made_up_day(rng, 3, 18)
        plan = plan_day(presses, jobs, seconds=6.0)
        came = as_they_came(jobs, presses)
        rows.append(
            (
                sum(r.change_min for r in plan.runs),
                sum(r.change_min for r in came),
                plan.makespan_min,
                max(r.end_min for r in came),
            )
        )
    found = np.array(rows)
    less = 1 - found[:, 0] / found[:, 1]
    saved_share = 1 - found[:, 0].sum() / found[:, 1].sum()
    print(
        f"{DAYS} days of 18 jobs on three presses: changes {found[:, 0].mean():.0f} min planned, "
        f"{found[:, 1].mean():.0f} min as they came, {saved_share:.0%} "
        f"less in all (least {less.min():.0%}); done after {found[:, 2].mean():.0f} and "
        f"{found[:, 3].mean():.0f} min",
        flush=True,
    )
