"""What no plan can beat: sets of jobs against every order at every whole degree, whole days against
the plans that are found.
"""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tempermark.core.planning.day import AfterJob
from tempermark.core.planning.fits import fitting
from tempermark.core.planning.search.bounds import loose_bounds
from tempermark.core.planning.search.least import least_day
from tempermark.core.planning.search.loads import MOST_SET_JOBS, set_loads
from tempermark.core.planning.search.solve import plan_day
from tests.core.planning.days import least_minutes, random_day


@pytest.mark.parametrize("seed", range(10))
def test_every_set_of_jobs_takes_as_long_as_its_best_order(seed):
    presses, jobs = random_day(300 + seed, jobs=5)
    for press in presses:
        loads = set_loads(press, jobs, [True] * len(jobs))
        known = least_minutes(press, jobs)
        found = dict(enumerate(loads.minutes))
        assert found == pytest.approx({bits: known[bits] for bits in found}, abs=1e-6)
        every = len(loads.minutes) - 1
        assert sorted(loads.order(every)) == list(range(len(jobs)))


def test_a_set_with_a_job_that_does_not_fit_is_never_done():
    presses, jobs = random_day(7, jobs=3)
    loads = set_loads(presses[0], jobs, [True, False, True])
    assert np.isinf(loads.minutes[[0b010, 0b011, 0b110, 0b111]]).all()
    assert np.isfinite(loads.minutes[[0b000, 0b001, 0b100, 0b101]]).all()


@pytest.mark.long
@settings(max_examples=20)
@given(st.integers(0, 10**6), st.integers(2, 9), st.integers(1, 3), st.booleans())
def test_no_plan_is_below_what_is_least(seed, jobs, presses, released):
    presses, jobs = random_day(seed, jobs, presses, due=True)
    fits = fitting(jobs, presses)
    jobs = [replace(j, release_min=20.0 * (n % 3) * released) for n, j in enumerate(jobs)]
    jobs = [job for job in jobs if fits[job.name]]
    if not jobs:
        return
    least, loose = least_day(presses, jobs, fits), loose_bounds(jobs, presses, fits)
    for objective in ("makespan", "lateness", "changes"):
        plan = plan_day(presses, jobs, objective, 1.0)
        come_to = {
            "makespan": plan.makespan_min,
            "late": plan.lateness_min,
            "changes": sum(run.change_min for run in plan.runs),
        }
        for goal, amount in come_to.items():
            assert loose[goal] <= amount + 1e-6
            assert least is None or least.bounds[goal] <= amount + 1e-6


def test_fewest_changes_end_as_early_as_they_can():
    presses, jobs = random_day(11, jobs=8)
    fits = fitting(jobs, presses)
    jobs = [job for job in jobs if fits[job.name]]
    least = least_day(presses, jobs, fits)
    plan = plan_day(presses, jobs, "changes", 20.0)
    assert plan.is_proved
    assert sum(run.change_min for run in plan.runs) == pytest.approx(least.change_min, abs=1e-3)
    assert plan.makespan_min == pytest.approx(least.of_least_change()[0], abs=1e-3)


def test_days_of_many_jobs_have_no_sets():
    presses, jobs = random_day(1, jobs=MOST_SET_JOBS + 1)
    assert least_day(presses, jobs, fitting(jobs, presses)) is None


def test_changes_that_waits_make_longer_are_proved_only_when_no_plan_ends_sooner():
    """The least change of all is not to be had here: what its plans take bounds nothing then."""
    presses, jobs = random_day(21, jobs=5)
    fits = fitting(jobs, presses)
    jobs = [job for job in jobs if fits[job.name]]
    least = least_day(presses, jobs, fits)
    order = least.of_least_change()[1]
    first = next(names for names in order.values() if len(names) > 1)
    # The last of that order goes first.
    waits = (AfterJob(first[-1], 0.0),)
    jobs = [replace(j, after=waits) if j.name in first[:-1] else j for j in jobs]
    plan = plan_day(presses, jobs, "changes", 20.0)
    again = plan_day(presses, jobs, "makespan", 20.0)
    assert plan.is_proved
    assert sum(run.change_min for run in plan.runs) >= least.change_min - 1e-6
    assert plan.makespan_min >= again.makespan_min - 1e-3
