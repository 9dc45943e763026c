"""Plans: each rung once, blocks whole, order random but the same for the same form."""

from collections import Counter

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tempermark.core.errors import InputError
from tempermark.core.experiments.plans import BOTH, DOWN, comparison, factorial, ladder


def values(plan, name="dwell_s"):
    return [press.levels[name] for press in plan.presses]


def test_a_ladder_goes_up_down_or_from_the_middle():
    assert values(ladder("dwell_s", 20, 60, 5)) == [20, 30, 40, 50, 60]
    assert values(ladder("dwell_s", 20, 60, 5, DOWN)) == [60, 50, 40, 30, 20]
    assert values(ladder("dwell_s", 20, 60, 5, BOTH)) == [40, 30, 50, 20, 60]


def test_a_scrap_that_is_uncovered_step_by_step_is_one_blank():
    assert ladder("dwell_s", 10, 40, 4).blanks == 4
    assert ladder("dwell_s", 10, 40, 4, one_scrap=True).blanks == 1
    assert ladder("dwell_s", 10, 40, 4, one_scrap=True, repeats=2).blanks == 2


@pytest.mark.parametrize(
    ("build", "path"),
    [
        (lambda: ladder("dwell_s", 10, 40, 1), "rungs"),
        (lambda: ladder("dwell_s", 40, 40, 5), "high"),
        (lambda: ladder("dwell_s", 10, 40, 20, repeats=4), "repeats"),
        (lambda: comparison("arms", ["A"], 2, np.random.default_rng(1)), "arms"),
        (lambda: comparison("arms", ["A", "a "], 2, np.random.default_rng(1)), "arms"),
    ],
)
def test_a_plan_that_teaches_nothing_is_refused_by_its_field(build, path):
    with pytest.raises(InputError) as refused:
        build()
    assert refused.value.problems[0].path == path


@given(st.integers(2, 5), st.integers(1, 4), st.integers(0, 2**31))
def test_each_block_has_every_arm_once(arms, repeats, seed):
    names = [f"arm {n}" for n in range(arms)]
    plan = comparison("arms", names, repeats, np.random.default_rng(seed))
    for block in range(1, repeats + 1):
        here = [p.levels["arms"] for p in plan.presses if p.block == block]
        assert sorted(here) == names
    assert len({p.scrap for p in plan.presses}) == arms * repeats


def test_the_order_within_blocks_is_random():
    orders = Counter(
        tuple(
            p.levels["arms"] for p in comparison("arms", "AB", 1, np.random.default_rng(n)).presses
        )
        for n in range(200)
    )
    assert set(orders) == {("A", "B"), ("B", "A")}
    assert min(orders.values()) > 70


def test_a_factorial_has_every_combination():
    plan = factorial({"set_c": [190, 200], "dwell_s": [40, 50, 60]}, 2, np.random.default_rng(3))
    cells = Counter((p.levels["set_c"], p.levels["dwell_s"]) for p in plan.presses)
    assert len(cells) == 6
    assert set(cells.values()) == {2}
