"""Open verdicts: what would decide them, and the tolerance that is kept."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tempermark.core.metrology.map.outlook import (
    STEPS,
    Act,
    Extremes,
    _decided,
    extremes,
    is_known_closely,
    outlook,
)
from tempermark.core.metrology.map.verdict import Draws
from tests.support.looks import TOLERANCE, grid


def lattice_draws(own_c, common_c, count=4000, seed=1):
    """Draws of an element whose warmest place is at `own_c` ± 0.2 K, and that one error moves."""
    rng = np.random.default_rng(seed)
    place = grid()
    deviation = np.zeros((count, len(place)))
    deviation[:, 7] = own_c + 0.2 * rng.standard_normal(count)
    deviation = deviation + common_c * rng.standard_normal((count, 1))
    # As places of one line: between equal neighbours the warmest place is the highest of it.
    return extremes(Draws(place, deviation, (1, len(place))))


def test_what_readings_share_is_decided_by_one_act():
    acts = [Act("contact", 3.0, 0.2), Act("second", 10.0, 1.0)]
    found = outlook(lattice_draws(4.5, 1.4), 1.4, TOLERANCE, acts)
    assert found.act is acts[0]
    assert found.decides > 0.5


@given(st.integers(0, 10_000), st.floats(0.0, 2.0), st.floats(0.0, 1.0))
@settings(deadline=None, max_examples=40)
def test_how_often_an_act_decides_is_what_a_plain_count_gives(seed, common, share):
    rng = np.random.default_rng(seed)
    low, high = -rng.uniform(2, 7, 200), rng.uniform(2, 7, 200)
    grid = np.linspace(-3, 3, STEPS)
    weight = np.exp(-0.5 * grid**2) / np.exp(-0.5 * grid**2).sum()
    leaves = share * common
    found = np.sqrt(common**2 - leaves**2)
    plain = 0.0
    for step, chance in zip(grid, weight, strict=True):
        moved = found * step + leaves * grid[None, :]
        inside = (high[:, None] + moved <= TOLERANCE) & (low[:, None] + moved >= -TOLERANCE)
        within = inside.mean(axis=0) @ weight
        plain += chance * (within >= 0.95 or within <= 0.05)
    expected = plain if found > 0 else 0.0
    assert _decided(high, low, common, leaves, TOLERANCE) == pytest.approx(expected, abs=1e-9)


@pytest.mark.parametrize(("width_c", "said"), [(5.5, True), (5.6, False)])
def test_the_tolerance_that_is_kept_is_said_where_nine_draws_of_ten_are_close(width_c, said):
    worst = np.linspace(3.0, 3.0 + width_c, 1001)
    assert is_known_closely(Extremes(np.zeros(1001), -worst, np.zeros(1001))) is said


def test_an_edge_at_the_tolerance_is_told_with_what_it_keeps():
    found = outlook(lattice_draws(5.0, 0.1), 0.1, TOLERANCE, [Act("contact", 3.0, 0.05)])
    assert found.act is None
    assert found.is_limit
    assert found.keeps_c == pytest.approx(5.0 + 1.645 * 0.22, abs=0.05)
