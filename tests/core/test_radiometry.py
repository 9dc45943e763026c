"""Planck-band inversion against the handbook's figures and an independent integral."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad

from tempermark.core.errors import InputError
from tempermark.core.metrology.reading.radiometry import (
    band_radiance,
    temperature_of_radiance,
    true_surface_temperature,
)


def planck(wavelength, kelvin):
    h, c, k = 6.62607015e-34, 299792458.0, 1.380649e-23
    return 2 * h * c**2 / wavelength**5 / np.expm1(h * c / (wavelength * k * kelvin))


@pytest.mark.parametrize("celsius", [-40.0, 22.0, 180.0, 600.0])
def test_band_radiance_is_the_integral_of_planck_s_law(celsius):
    exact = quad(planck, 8e-6, 14e-6, args=(celsius + 273.15,), epsrel=1e-12)[0]
    assert band_radiance(np.array(celsius)) == pytest.approx(exact, rel=1e-9)


@pytest.mark.parametrize(
    ("shown", "setting", "emissivity", "true"),
    [(150.0, 1.0, 0.90, 160.24), (60.0, 0.95, 0.10, 237.3)],
)
def test_handbook_figures(shown, setting, emissivity, true):
    found = true_surface_temperature(np.array(shown), setting, emissivity, 22.0)
    assert found == pytest.approx(true, abs=0.05)


@given(st.floats(-40, 580))
def test_inversion_returns_the_temperature(celsius):
    assert temperature_of_radiance(band_radiance(np.array(celsius))) == pytest.approx(
        celsius, abs=1e-6
    )


@given(st.floats(60, 400), st.floats(0.5, 1.0), st.floats(0.5, 1.0))
def test_equal_emissivities_change_nothing_and_lower_ones_raise(shown, setting, emissivity):
    found = true_surface_temperature(np.array(shown), setting, emissivity, 22.0)
    assert (
        np.sign(np.round(found - shown, 6)) == np.sign(np.round(setting - emissivity, 6))
        or abs(found - shown) < 1e-3
    )


def test_a_figure_no_surface_could_give_is_refused():
    with pytest.raises(InputError, match="No surface"):
        true_surface_temperature(np.array(-50.0), 0.95, 0.05, 60.0)
