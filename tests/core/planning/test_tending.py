"""Runs tended by the people who are there: pauses, hours, and no more presses at a time than hands
can serve; held against a room that is loaded piece by piece.
"""

import itertools
import random
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tempermark.core.planning.duty import DutySpan, Hands
from tempermark.core.planning.fits import fitting
from tempermark.core.planning.search.solve import plan_day
from tempermark.core.planning.tending import MOST_BUSY, share_of
from tests.core.planning.days import random_day

ONE_PERSON = Hands((DutySpan(0.0, 600.0, 1),))
WITH_LUNCH = Hands(
    (DutySpan(0, 30, 0), DutySpan(30, 60, 1), DutySpan(60, 90, 0), DutySpan(90, 400, 1))
)


def alike(presses, jobs, handling_s):
    """A day whose jobs all run at one setting for 20 loads of a minute each."""
    presses, rows = random_day(1, jobs, presses)
    presses = [replace(p, start_c=190.0, pressure="medium", height_mm=500) for p in presses]
    return presses, [
        replace(
            row,
            low_c=185.0,
            high_c=195.0,
            pressure="medium",
            quantity=20,
            per_load=1,
            dwell_s=60.0 - handling_s,
            handling_s=handling_s,
            press_kinds=None,
        )
        for row in rows
    ]


def assert_hands_are_there(plan, jobs, hands):
    shares = {job.name: share_of(job) for job in jobs}
    lengths = {job.name: job.run_min for job in jobs}
    for run in plan.runs:
        assert run.start_min >= hands.opens_min - 1e-6
        assert not any(p.from_min <= run.start_min < p.to_min for p in hands.pauses)
        assert run.end_min == pytest.approx(hands.ended(run.start_min, lengths[run.job]), abs=1e-6)
    for at in {run.start_min for run in plan.runs} | {span.from_min for span in hands.spans}:
        busy = [r for r in plan.runs if r.start_min <= at + 1e-6 and r.end_min > at + 1e-4]
        assert sum(shares[r.job] for r in busy) <= hands.people_at(at) * MOST_BUSY + 0.01


def test_one_person_tends_two_presses_while_dwells_run():
    presses, jobs = alike(2, 2, handling_s=20.0)
    assert plan_day(presses, jobs, seconds=5.0, hands=ONE_PERSON).makespan_min == pytest.approx(20)


def test_loads_that_keep_a_person_busy_run_one_press_after_the_other():
    presses, jobs = alike(2, 2, handling_s=45.0)
    plan = plan_day(presses, jobs, seconds=5.0, hands=ONE_PERSON)
    assert plan.is_proved
    assert plan.makespan_min == pytest.approx(40, abs=0.01)
    two = Hands((DutySpan(0.0, 600.0, 2),))
    assert plan_day(presses, jobs, seconds=5.0, hands=two).makespan_min == pytest.approx(20)


def test_runs_pause_while_nobody_is_there_and_begin_when_the_first_comes():
    presses, jobs = alike(1, 2, handling_s=45.0)
    plan = plan_day(presses, jobs, seconds=5.0, hands=WITH_LUNCH)
    assert [run.start_min for run in plan.runs] == pytest.approx([30, 50])
    assert [run.end_min for run in plan.runs] == pytest.approx([50, 100])


def test_a_plan_goes_on_past_the_hours():
    hands = Hands((DutySpan(0.0, 10.0, 1), DutySpan(10.0, 1440.0, 0)))
    presses, jobs = alike(1, 1, handling_s=20.0)
    assert plan_day(presses, jobs, seconds=5.0, hands=hands).makespan_min == pytest.approx(20)
    assert hands.closes_min == 10.0


def test_past_the_hours_only_those_who_were_there_last_stay():
    presses, jobs = alike(2, 2, handling_s=45.0)
    hands = Hands((DutySpan(0.0, 5.0, 2), DutySpan(5.0, 6.0, 1)))
    plan = plan_day(presses, jobs, seconds=5.0, hands=hands)
    assert plan.makespan_min == pytest.approx(40, abs=0.01)
    assert plan.is_proved


@settings(max_examples=12)
@given(
    st.integers(0, 10**6),
    st.integers(1, 7),
    st.lists(st.tuples(st.integers(5, 60), st.integers(0, 2)), min_size=1, max_size=5),
    st.sampled_from(("makespan", "lateness", "changes")),
)
def test_no_plan_wants_hands_that_are_not_there(seed, jobs, lengths, objective):
    lengths.append((60, 1))
    ends = list(itertools.accumulate(minutes for minutes, _ in lengths))
    spans = zip([0, *ends], ends, (people for _, people in lengths), strict=False)
    hands = Hands(tuple(DutySpan(*span) for span in spans))
    presses, jobs = random_day(seed, jobs, 2, due=True)
    fits = fitting(jobs, presses)
    plan = plan_day(presses, jobs, objective, 1.0, hands=hands)
    placed = [job for job in jobs if fits[job.name]]
    assert len(plan.runs) == len(placed)
    assert_hands_are_there(plan, placed, hands)
    free = plan_day(presses, jobs, objective, 1.0)
    if free.is_proved and objective == "makespan":
        assert plan.makespan_min >= free.makespan_min - 1e-3


def loaded_by_hand(cycles_s, loads, people):
    """Seconds after which each press is done, loaded by whoever is free first."""
    ready, left, free = [0.0] * len(cycles_s), list(loads), [0.0] * people
    while any(left):
        press = min((n for n, more in enumerate(left) if more), key=lambda n: ready[n])
        person = min(range(people), key=free.__getitem__)
        dwell_s, handling_s = cycles_s[press]
        free[person] = max(ready[press], free[person]) + handling_s
        ready[press] = free[person] + dwell_s
        left[press] -= 1
    return ready


def test_presses_tended_up_to_the_limit_lose_a_tenth_of_their_time_at_most_in_the_mean():
    rng, lost = random.Random(5), []
    while len(lost) < 400:
        people = rng.randint(1, 2)
        count = rng.randint(2, 2 * people + 1)
        cycles_s = [(rng.uniform(10, 90), rng.uniform(12, 45)) for _ in range(count)]
        if sum(hand / (dwell + hand) for dwell, hand in cycles_s) > people * MOST_BUSY:
            continue
        loads = [rng.randint(5, 40) for _ in cycles_s]
        done = loaded_by_hand(cycles_s, loads, people)
        alone = [sum(cycle) * many for cycle, many in zip(cycles_s, loads, strict=True)]
        lost.append(max(done) / max(alone) - 1)
    assert sum(lost) / len(lost) < 0.1
