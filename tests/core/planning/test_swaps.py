"""Elements that are exchanged within a day: as long as cooling, hands and heating take, and no
oftener than pays; held against trying everything.
"""

import math
from dataclasses import replace

import pytest

from tempermark.core.planning.day import SpareElement, change_between, swaps
from tempermark.core.planning.fits import fitting, why_not
from tempermark.core.planning.power import power_kwh
from tempermark.core.planning.search.solve import plan_day
from tests.core.planning.days import least_makespan, random_day

SMALL = SpareElement("small", 150, 150)
LARGE = SpareElement("large", 600, 600)


def with_spares(seed, jobs):
    """A day in which every other job takes the spare element on the first press."""
    presses, jobs = random_day(seed, jobs)
    presses[0] = replace(presses[0], spares=(LARGE,))
    return presses, [
        replace(job, spare_on=(("P0", "large"),)) if number % 2 else job
        for number, job in enumerate(jobs)
    ]


def test_an_exchange_is_cooled_done_and_heated_again():
    presses, jobs = random_day(1, 2)
    press = replace(presses[0], spares=(LARGE,), heats_c_per_min=10.0, cools_c_per_min=3.0)
    before = replace(jobs[0], low_c=180.0, high_c=190.0, pressure="medium")
    job = replace(jobs[1], pressure="medium", spare_on=(("P0", "large"),))
    assert swaps(press, before, job)
    minutes = 170 / 3 * math.log((190 - 22) / (45 - 22)) + 10 + (160 - 22) / 10
    assert change_between(press, before, 185.0, job, 160.0) == pytest.approx(minutes)
    cold = replace(press, start_c=22.0)
    assert change_between(cold, None, 22.0, job, 160.0) == pytest.approx(10 + 13.8)


def test_art_lies_on_the_element_that_it_takes():
    presses, jobs = random_day(2, 1)
    press = replace(presses[0], kind="swing_away", spares=(SMALL, LARGE))
    job = replace(jobs[0], press_kinds=None, width_mm=500, height_mm=500)
    assert why_not(job, press) == "too small"
    assert why_not(replace(job, spare_on=(("P0", "large"),)), press) is None
    assert why_not(replace(job, spare_on=(("P0", "small"),)), press) == "too small"


@pytest.mark.parametrize("seed", range(6))
def test_no_way_of_exchanging_ends_sooner(seed):
    presses, jobs = with_spares(40 + seed, 3 + seed % 4)
    fits = fitting(jobs, presses)
    jobs = [job for job in jobs if fits[job.name]]
    plan = plan_day(presses, jobs, "makespan", 20.0)
    assert plan.is_proved
    assert plan.makespan_min == pytest.approx(least_makespan(presses, jobs, fits), abs=1e-3)


@pytest.mark.parametrize("objective", ["lateness", "changes", "power"])
def test_every_objective_counts_exchanges(objective):
    presses, jobs = with_spares(50, 5)
    presses = [replace(presses[0], height_mm=500)]
    jobs = [replace(job, press_kinds=None) for job in jobs]
    named = {job.name: job for job in jobs}
    plan = plan_day(presses, jobs, objective, 10.0)
    set_c, before = presses[0].start_c, None
    for run in plan.runs:
        change = change_between(presses[0], before, set_c, named[run.job], run.set_c)
        assert run.change_min == pytest.approx(change, abs=1e-6)
        set_c, before = run.set_c, named[run.job]
    assert len(plan.runs) == len(jobs)
    assert power_kwh(presses, named, plan.runs) > 0


@pytest.mark.parametrize("seed", range(6))
def test_no_way_of_laying_covers_ends_sooner(seed):
    presses, jobs = random_day(70 + seed, 3 + seed % 4)
    covers = ("parchment", "", "ptfe_sheet")
    jobs = [replace(job, cover=covers[n % 3]) for n, job in enumerate(jobs)]
    fits = fitting(jobs, presses)
    jobs = [job for job in jobs if fits[job.name]]
    plan = plan_day(presses, jobs, "makespan", 20.0)
    assert plan.is_proved
    assert plan.makespan_min == pytest.approx(least_makespan(presses, jobs, fits), abs=1e-3)


def test_a_cover_is_changed_after_the_pressure_while_the_platen_heats():
    presses, jobs = random_day(1, 2)
    press = replace(presses[0], heats_c_per_min=10.0, pressure_step_s=60)
    before = replace(jobs[0], pressure="light", cover="parchment")
    job = replace(jobs[1], pressure="medium", cover="ptfe_sheet")
    assert change_between(press, before, 160.0, job, 165.0) == pytest.approx(2.0)
    assert change_between(press, before, 160.0, job, 190.0) == pytest.approx(3.0)
    same = replace(job, cover="parchment")
    assert change_between(press, before, 160.0, same, 165.0) == pytest.approx(1.0)
