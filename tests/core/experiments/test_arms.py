"""Arms: least squares over blocks against exact cases, intervals that hold as often as they say."""

import numpy as np
import pytest

from tempermark.core.experiments.arms import EYE_SD, ScoredArm, compare_arms


def rows(table):
    return [
        ScoredArm(arm, block, s) for arm, scores in table.items() for block, s in enumerate(scores)
    ]


def test_one_arm_compares_with_nothing():
    assert compare_arms([ScoredArm("A", 1, 4), ScoredArm("A", 2, 5)]) is None


def test_means_and_difference_of_whole_blocks_are_plain_means():
    found = compare_arms(rows({"A": [5, 4, 5], "B": [3, 3, 4]}))
    assert [m.arm for m in found.means] == ["A", "B"]
    assert [m.mean for m in found.means] == pytest.approx([14 / 3, 10 / 3])
    assert found.differences[0].difference == pytest.approx(4 / 3)


def test_a_block_that_is_worse_for_all_does_not_blur_the_difference():
    """Both arms fall by two steps in the last block: their difference is as sure as without."""
    even = compare_arms(rows({"A": [5, 5, 5], "B": [4, 4, 4]})).differences[0]
    drifting = compare_arms(rows({"A": [5, 5, 3], "B": [4, 4, 2]})).differences[0]
    assert drifting.difference == pytest.approx(even.difference)
    assert drifting.high - drifting.low == pytest.approx(even.high - even.low)


def test_scores_that_agree_are_no_surer_than_an_eye():
    found = compare_arms(rows({"A": [5, 5], "B": [4, 4]})).differences[0]
    assert found.high - found.low > EYE_SD
    assert found.chance < 1


def test_ninety_per_cent_of_intervals_hold_the_true_difference():
    rng = np.random.default_rng(8)
    held = 0
    for _ in range(300):
        blocks = rng.normal(0, 1, 4)
        table = {
            arm: [mean + b + rng.normal(0, 0.6) for b in blocks]
            for arm, mean in (("A", 4.0), ("B", 3.2))
        }
        one = compare_arms(rows(table)).differences[0]
        true = 0.8 if one.better == "A" else -0.8
        held += one.low <= true <= one.high
    assert 0.85 <= held / 300 <= 0.97
