"""Wash trials: survival against counts done by hand, fading against curves of known rate."""

import numpy as np
import pytest

from tempermark.core.experiments.wash import (
    WashedPiece,
    compare_fading,
    fade_curve,
    survival,
)


def test_survival_is_the_product_limit():
    """Four pieces: one fails at 5, one is taken out after 5, one fails at 10, one holds."""
    steps = survival([WashedPiece(5, 5), WashedPiece(5), WashedPiece(10, 10), WashedPiece(10)])
    assert [(s.washes, s.at_risk) for s in steps] == [(0, 4), (5, 4), (10, 2)]
    assert [s.share for s in steps] == pytest.approx([1, 3 / 4, 3 / 8])
    for step in steps[1:]:
        assert 0 <= step.low < step.share < step.high <= 1


def test_all_failed_leaves_none_and_says_how_sure():
    last = survival([WashedPiece(2, 2), WashedPiece(2, 2)])[-1]
    assert last.share == 0
    assert last.low == 0
    assert 0 < last.high < 1


def test_nothing_washed_is_no_curve():
    assert survival([]) == []
    assert fade_curve([0, 0], [0.9, 0.95], 10) is None


@pytest.mark.parametrize("rate", [0.0, 0.05, 0.2])
def test_a_known_rate_is_found(rate):
    rng = np.random.default_rng(4)
    washes = np.repeat([0, 1, 2, 5, 10, 20], 4)
    density = 0.95 * np.exp(-rate * np.sqrt(washes)) + rng.normal(0, 0.05, len(washes))
    found = fade_curve(washes, density, 20)
    low, middle, high = found.rate
    assert low <= rate <= high
    assert middle == pytest.approx(rate, abs=0.03)
    assert (np.diff(found.density[:, 1]) <= 1e-9).all()


def test_the_arm_that_keeps_more_is_named_with_its_chance():
    washes = [0, 1, 2, 5, 10]
    arms = {
        "A": (washes, [0.95, 0.94, 0.93, 0.91, 0.9]),
        "B": (washes, [0.95, 0.85, 0.8, 0.7, 0.6]),
    }
    found = compare_fading(arms, 10)[0]
    assert (found.better, found.worse) == ("A", "B")
    assert found.low < found.difference < found.high
    assert found.chance > 0.95


def test_arms_that_fade_alike_are_not_told_apart():
    washes = [0, 1, 2, 5, 10]
    same = [0.95, 0.9, 0.87, 0.82, 0.75]
    found = compare_fading({"A": (washes, same), "B": (washes, same)}, 10)[0]
    assert found.chance == pytest.approx(0.5, abs=0.02)
