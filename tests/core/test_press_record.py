"""A press at the bench: closings added up, the time it lay open, taps that make no press."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tempermark.core.errors import InputError
from tempermark.core.pressing.press_record import ClosedSpan, press_record
from tempermark.core.recipes.cycle import ONCE_FOR_A_JOB, cycle_steps, steps_afterwards
from tempermark.core.recipes.shipped import shipped_recipes


def test_two_hundred_seconds_on_a_ninety_second_timer():
    found = press_record([ClosedSpan(0, 90), ClosedSpan(97, 187), ClosedSpan(192, 212)])
    assert (found.dwell_s, found.closings, found.open_s) == (200, 3, 12)
    assert found.began_s == 0


def test_closings_that_overlap_are_one():
    """Two tablets logged the same closing."""
    found = press_record([ClosedSpan(10, 60), ClosedSpan(12, 61)])
    assert (found.dwell_s, found.closings, found.open_s) == (51, 1, 0)


@pytest.mark.parametrize(
    "closings", [[], [ClosedSpan(5, 5.1)], [ClosedSpan(9, 4)], [ClosedSpan(0, 1e6)]]
)
def test_what_is_no_press_is_refused(closings):
    with pytest.raises(InputError, match="not a press"):
        press_record(closings)


@given(st.lists(st.tuples(st.floats(0, 500), st.floats(1, 100)), min_size=1, max_size=6))
def test_closed_and_open_make_the_whole(spans):
    closings = [ClosedSpan(at, at + long) for at, long in spans]
    found = press_record(closings)
    whole = max(c.opened_s for c in closings) - min(c.closed_s for c in closings)
    assert found.dwell_s + found.open_s == pytest.approx(whole)
    assert 1 <= found.closings <= len(closings)


def test_every_recipe_s_cycle_has_its_main_press_and_nothing_twice():
    for sheet in shipped_recipes():
        steps = cycle_steps(sheet)
        numbers = [n for n, _ in steps]
        assert sheet.main in [step for _, step in steps], sheet.code
        assert numbers == sorted(set(numbers))
        assert not {step.kind for _, step in steps} & set(ONCE_FOR_A_JOB)
        assert not set(numbers) & {n for n, _ in steps_afterwards(sheet)}
