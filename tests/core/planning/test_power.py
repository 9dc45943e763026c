"""What a plan takes in power: by hand for two runs, and least where that is what is wanted."""

from dataclasses import replace

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tempermark.core.planning.day import SequencedDay
from tempermark.core.planning.fits import fitting
from tempermark.core.planning.power import least_kwh, power_kwh
from tempermark.core.planning.search.least import least_day
from tempermark.core.planning.search.solve import plan_day
from tempermark.core.planning.settings import best_settings
from tempermark.core.planning.timing import timed_runs
from tests.core.planning.days import random_day


def test_two_runs_by_hand():
    presses, jobs = random_day(3, 2, presses=1)
    press = replace(
        presses[0],
        start_c=22.0,
        pressure="medium",
        heats_c_per_min=10.0,
        cools_c_per_min=3.0,
        whole_mm2=200_000.0,
    )
    first, second = (
        replace(
            job,
            low_c=low_c,
            high_c=low_c + 10,
            quantity=10,
            per_load=1,
            dwell_s=40.0,
            handling_s=20.0,
            pressure="medium",
        )
        for job, low_c in zip(jobs, (182.0, 192.0), strict=True)
    )
    named = {first.name: first, second.name: second}
    day = SequencedDay({press.name: press}, named, {press.name: [first.name, second.name]})
    runs = timed_runs(day, {first.name: 182.0, second.name: 192.0})
    # 0.2 m² of 29 kJ/m²K; 3 K/min at 170 K over the room of 22 °C.
    capacity = 0.2 * 29_000
    loss = capacity * 3 / 60 / 170
    joules = capacity * (160 + 10)
    joules += loss * (160 * 600 + 170 * 600)
    joules += loss * ((187 - 22) * 16 * 60 + (197 - 22) * 1 * 60)
    assert power_kwh([press], named, runs) == pytest.approx(joules / 3.6e6)


def _placeable(seed, jobs):
    presses, jobs = random_day(seed, jobs, due=True)
    fits = fitting(jobs, presses)
    jobs = [job for job in jobs if fits[job.name]]
    assume(jobs)
    return presses, jobs, {job.name: job for job in jobs}, fits


@pytest.mark.long
@settings(max_examples=10)
@given(st.integers(0, 10**6), st.integers(1, 5))
def test_what_is_proved_of_the_least_power_no_other_plan_beats(seed, jobs):
    presses, jobs, named, fits = _placeable(seed, jobs)
    plan = plan_day(presses, jobs, "power", 20.0)
    assume(plan.is_proved)
    least = power_kwh(presses, named, plan.runs)
    for objective in ("makespan", "lateness", "changes"):
        other = plan_day(presses, jobs, objective, 1.0)
        assert least <= power_kwh(presses, named, other.runs) + 1e-3
    assert least >= least_kwh(presses, jobs, fits) - 1e-9


@settings(max_examples=10)
@given(st.integers(0, 10**6))
def test_however_short_the_search_it_takes_no_more_than_an_order_of_least_change(seed):
    presses, jobs, named, fits = _placeable(seed, 5)
    order = least_day(presses, jobs, fits).of_least_change()[1]
    day = SequencedDay({press.name: press for press in presses}, named, order)
    of_least_change = power_kwh(presses, named, best_settings(day, "power"))
    plan = plan_day(presses, jobs, "power", 0.1)
    assert power_kwh(presses, named, plan.runs) <= of_least_change + 1e-3
