"""The highest between lines: against surfaces whose vertex is known."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tempermark.core.metrology.map.field_prior import FAULT_WIDTH_MM
from tempermark.core.metrology.map.peaks import highest
from tempermark.core.metrology.map.usable import Rectangle
from tempermark.core.metrology.map.verdict import (
    LINES,
    Draws,
    all_within,
    lattice,
    probability_inside,
)

SIZE = (400.0, 500.0)
PLACE = lattice(*SIZE)
inside_a_platen = st.floats(40.0, 360.0), st.floats(40.0, 460.0)


@given(*inside_a_platen, st.floats(0.5, 4.0), st.floats(0.5, 4.0))
def test_a_paraboloid_s_vertex_is_exact(x_mm, y_mm, bend_x, bend_y):
    away = ((PLACE - [x_mm, y_mm]) / 100.0) ** 2
    found = highest((7.0 - away @ [bend_x, bend_y])[None], LINES)
    assert found[0] == pytest.approx(7.0, abs=1e-6)


@given(*inside_a_platen)
def test_a_spot_s_peak_is_missed_by_less_than_its_places_miss_it(x_mm, y_mm):
    away = ((PLACE - [x_mm, y_mm]) ** 2).sum(axis=1)
    spot = 6.0 * np.exp(-0.5 * away / FAULT_WIDTH_MM**2)
    found = highest(spot[None], LINES)[0]
    assert spot.max() - 1e-9 <= found <= 6.0 + 0.02
    assert 6.0 - found < 0.55 * (6.0 - spot.max()) + 0.02


@given(st.integers(0, 2**31), st.sampled_from([(1, 1), (1, 6), (5, 1), (2, 2), (7, 4)]))
def test_never_lower_than_a_place_nor_far_above_it(seed, lines):
    value = np.random.default_rng(seed).normal(0.0, 3.0, (20, lines[0] * lines[1]))
    found, top = highest(value, lines), value.max(axis=1)
    spread = value.max(axis=1) - value.min(axis=1)
    assert (found >= top).all()
    # A vertex lies within half a step: no more than a quarter of the bend's drop each way.
    assert (found <= top + spread / 2).all()


def test_a_slope_to_the_rim_has_its_highest_there():
    value = (PLACE @ [0.01, -0.02])[None]
    assert highest(value, LINES)[0] == pytest.approx(value.max())
    assert highest(np.full((3, 270), 2.5), LINES) == pytest.approx(np.full(3, 2.5))


def test_a_band_between_two_lines_is_beyond_the_tolerance():
    step = SIZE[0] / (LINES[0] - 1)
    band = -5.3 * np.exp(-0.5 * ((PLACE[:, 0] - 7.5 * step) / FAULT_WIDTH_MM) ** 2)
    draws = Draws(PLACE, band[None])
    assert band.min() > -5.0 > draws.low_c[0] > -5.3
    assert not all_within(draws, 0.0, 5.0)[0]
    assert all_within(draws, 0.2, 5.0)[0]
    # Of a part of the platen the same; beside the band all is well.
    assert probability_inside(draws, Rectangle(100.0, 100.0, 200.0, 300.0), 0.0, 5.0) == 0.0
    assert probability_inside(draws, Rectangle(300.0, 100.0, 90.0, 300.0), 0.0, 5.0) == 1.0
