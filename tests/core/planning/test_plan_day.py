"""Plans keep the rules, and are the best there are: held against trying everything."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tempermark.core.planning.day import AfterJob, change_between
from tempermark.core.planning.first_come import as_they_came
from tempermark.core.planning.fits import fitting
from tempermark.core.planning.search.solve import plan_day
from tests.core.planning.days import (
    least_lateness,
    least_makespan,
    random_day,
)

SECONDS = 20.0


def assert_keeps_the_rules(plan, presses, jobs):
    named = {job.name: job for job in jobs}
    assert {run.job for run in plan.runs} | {job for job, _ in plan.unplaced} == set(named)
    assert len(plan.runs) + len(plan.unplaced) == len(jobs)
    ends = {run.job: run.end_min for run in plan.runs}
    for press in presses:
        set_c, before, free = press.start_c, None, press.free_from_min
        for run in plan.on(press.name):
            job = named[run.job]
            assert job.low_c <= run.set_c <= job.high_c
            change = change_between(press, before, set_c, job, run.set_c)
            assert run.change_min == pytest.approx(change, abs=1e-6)
            waits = [ends[wait.job] + wait.minutes for wait in job.after]
            begins = max([free + change, job.release_min, *waits])
            assert run.start_min == pytest.approx(begins, abs=1e-6)
            assert run.end_min == pytest.approx(run.start_min + job.run_min, abs=1e-6)
            set_c, before, free = run.set_c, job, run.end_min
    assert plan.makespan_min == pytest.approx(max(ends.values(), default=0.0))
    assert plan.lower_bound_min <= plan.makespan_min + 1e-9


@pytest.mark.parametrize("seed", range(12))
def test_no_way_of_doing_the_day_ends_sooner(seed):
    presses, jobs = random_day(seed, jobs=3 + seed % 5)
    fits = fitting(jobs, presses)
    jobs = [job for job in jobs if fits[job.name]]
    plan = plan_day(presses, jobs, "makespan", SECONDS)
    assert_keeps_the_rules(plan, presses, jobs)
    assert plan.is_proved
    assert plan.makespan_min == pytest.approx(least_makespan(presses, jobs, fits), abs=1e-3)
    assert plan.lower_bound_min == pytest.approx(plan.makespan_min)


@pytest.mark.parametrize("seed", range(8))
def test_no_way_of_doing_the_day_is_less_late(seed):
    presses, jobs = random_day(100 + seed, jobs=3 + seed % 3, due=True)
    fits = fitting(jobs, presses)
    wide = seed % 2
    jobs = [replace(job, high_c=job.low_c + 2 * wide) for job in jobs if fits[job.name]]
    plan = plan_day(presses, jobs, "lateness", SECONDS)
    assert plan.is_proved
    best = least_lateness(presses, jobs, fits)
    if wide:
        # Between whole degrees it may be less late still.
        assert plan.lateness_min <= best + 1e-3
    else:
        assert plan.lateness_min == pytest.approx(best, abs=1e-3)


@settings(max_examples=15)
@given(
    st.integers(0, 10**6),
    st.integers(1, 12),
    st.integers(1, 3),
    st.sampled_from(("makespan", "lateness")),
)
def test_every_plan_keeps_the_rules(seed, jobs, presses, objective):
    presses, jobs = random_day(seed, jobs, presses, due=True)
    plan = plan_day(presses, jobs, objective, 1.0)
    assert_keeps_the_rules(plan, presses, jobs)
    came = as_they_came(jobs, presses)
    if came and objective == "makespan":
        assert plan.makespan_min <= max(run.end_min for run in came) + 1e-6


def test_steps_wait_for_each_other_and_for_their_drying():
    presses, jobs = random_day(3, jobs=4)
    jobs = [replace(job, width_mm=100, height_mm=100, press_kinds=None) for job in jobs]
    coat, cure, print_it, other = jobs
    jobs = [
        coat,
        replace(cure, after=(AfterJob(coat.name, 45.0),)),
        replace(print_it, after=(AfterJob(cure.name, 20.0),)),
        replace(other, release_min=30.0),
    ]
    plan = plan_day(presses, jobs, "makespan", SECONDS)
    assert_keeps_the_rules(plan, presses, jobs)
    assert plan.is_proved


def test_what_cannot_be_planned_is_named_and_the_rest_is_planned():
    presses, jobs = random_day(5, jobs=5)
    fine, huge, kind, one, other = (
        replace(job, width_mm=100, height_mm=100, press_kinds=None) for job in jobs
    )
    huge = replace(huge, width_mm=900)
    kind = replace(kind, press_kinds=frozenset({"iron"}))
    one = replace(one, after=(AfterJob(other.name),))
    other = replace(other, after=(AfterJob(one.name),))
    plan = plan_day(presses, [fine, huge, kind, one, other], "makespan", SECONDS)
    assert [run.job for run in plan.runs] == [fine.name]
    reasons = dict(plan.unplaced)
    assert reasons[huge.name] == "no press fits: larger than every press"
    assert reasons[kind.name] == "no press fits: no press of its kind"
    assert "wait for each other in a circle" in reasons[one.name]


def test_what_waits_for_what_cannot_be_planned_is_named_too():
    presses, jobs = random_day(5, jobs=2)
    huge = replace(jobs[0], width_mm=900)
    after = replace(jobs[1], width_mm=100, height_mm=100, press_kinds=None, after=(AfterJob("J0"),))
    plan = plan_day(presses, [huge, after], "makespan", SECONDS)
    assert not plan.runs
    assert plan.is_proved
    assert dict(plan.unplaced)["J1"] == "waits for J0, which is not planned"


def test_a_job_that_is_under_way_comes_first_on_its_press():
    presses, jobs = random_day(9, jobs=6)
    jobs = [replace(job, width_mm=100, height_mm=100, press_kinds=None) for job in jobs]
    jobs[4] = replace(jobs[4], behind="", presses=frozenset({"P1"}))
    plan = plan_day(presses, jobs, "makespan", SECONDS)
    assert plan.on("P1")[0].job == "J4"
    assert_keeps_the_rules(plan, presses, jobs)


def test_a_search_that_nobody_wants_any_more_ends_with_its_best():
    presses, jobs = random_day(1, jobs=40, presses=4)
    told = []

    def watch(progress):
        told.append(progress)
        return len(told) < 3

    plan = plan_day(presses, jobs, "makespan", 60.0, watch)
    assert_keeps_the_rules(plan, presses, jobs)
    assert len(told) == 3
    assert told[-1].best_min >= told[-1].bound_min > 0


@pytest.mark.parametrize("seed", range(4))
def test_fewest_minutes_of_change_are_fewer_than_any_other_plan_s(seed):
    presses, jobs = random_day(40 + seed, jobs=6)
    plans = {
        objective: plan_day(presses, jobs, objective, SECONDS)
        for objective in ("changes", "makespan")
    }
    changes = {name: sum(run.change_min for run in plan.runs) for name, plan in plans.items()}
    assert_keeps_the_rules(replace(plans["changes"], lower_bound_min=0.0), presses, jobs)
    assert plans["changes"].is_proved
    assert changes["changes"] <= changes["makespan"] + 1e-6
    assert plans["changes"].lower_bound_min == pytest.approx(changes["changes"], abs=1e-3)


def test_goals_that_hold_to_the_last_digit_are_no_contradiction():
    """One that the linear programme once called infeasible after its first goal."""
    presses, jobs = random_day(149444, 9, 1, due=True)
    assert_keeps_the_rules(plan_day(presses, jobs, "makespan", 2.0), presses, jobs)
