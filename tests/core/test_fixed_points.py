"""Ice and boiling points against published values; correction tables by hand."""

import numpy as np
import pytest

from tempermark.core.errors import InputError
from tempermark.core.metrology.reading.fixed_points import (
    boiling_point_c,
    checked,
    correction_table,
    pressure_at_kpa,
)


@pytest.mark.parametrize(
    ("pressure_kpa", "boils_c"),
    # CRC Handbook, "Vapor pressure of water": 101.325, 70.117, 84.53 and 90.0 kPa.
    [(101.325, 100.0), (70.117, 90.0), (84.53, 95.0), (90.0, 96.71)],
)
def test_boiling_points(pressure_kpa, boils_c):
    assert boiling_point_c(pressure_kpa) == pytest.approx(boils_c, abs=0.1)


@pytest.mark.parametrize(("altitude", "kpa"), [(0, 101.325), (1000, 89.875), (3000, 70.109)])
def test_standard_atmosphere(altitude, kpa):
    """ISO 2533, table of pressures."""
    assert pressure_at_kpa(altitude) == pytest.approx(kpa, rel=2e-4)


def test_two_points_give_a_line_between_and_the_nearest_beyond():
    table = checked(0.8, 97.5, boiling_point_c(90.0))
    assert table.at(np.array([0.8])) == pytest.approx(-0.8)
    middle = (0.8 + 97.5) / 2
    expected = (-0.8 + boiling_point_c(90.0) - 97.5) / 2
    assert table.at(np.array([middle]))[0] == pytest.approx(expected)
    assert table.at(np.array([195.0]))[0] == pytest.approx(boiling_point_c(90.0) - 97.5)
    assert table.covers(50.0)
    assert not table.covers(195.0)


@pytest.mark.parametrize(("ice", "boil"), [(None, None), (25.0, None), (0.2, 60.0)])
def test_what_cannot_be_a_correction_is_refused(ice, boil):
    with pytest.raises(InputError, match=r"read again|Give the reading"):
        checked(ice, boil, 100.0)


def test_tables_are_ordered_and_have_no_row_twice():
    table = correction_table([(200.0, -1.5), (100.0, -0.5)])
    assert table.at(np.array([150.0])) == pytest.approx(-1.0)
    with pytest.raises(InputError, match="is twice in"):
        correction_table([(100.0, 1.0), (100.0, 2.0)])
