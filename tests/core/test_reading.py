"""One spot: decay back to the opening and its budget, against scipy and by perturbation."""

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.optimize import curve_fit

from tempermark.core.metrology.reading.opening import at_opening
from tempermark.core.metrology.reading.reading import (
    InstrumentProperties,
    SpotReadings,
    true_reading,
)


@given(st.floats(100, 250), st.floats(15, 300), st.floats(10, 35), st.integers(2, 6))
def test_an_exact_decay_is_drawn_back_exactly(opening_c, tau_s, ambient_c, count):
    seconds = np.linspace(1.0, 9.0, count)
    values = ambient_c + (opening_c - ambient_c) * np.exp(-seconds / tau_s)
    found = at_opening(values, seconds, ambient_c)
    assert found.temperature_c == pytest.approx(opening_c, abs=1e-5)
    assert found.time_constant_s == pytest.approx(tau_s, rel=1e-5)


def test_noisy_decay_agrees_with_scipy_s_least_squares():
    rng = np.random.default_rng(4)
    seconds = np.array([1.0, 2.5, 4.0, 6.0, 9.0])
    values = 22 + 170 * np.exp(-seconds / 60) + rng.normal(0, 0.5, 5)
    best, covariance = curve_fit(
        lambda t, level, tau: 22 + level * np.exp(-t / tau), seconds, values, p0=(160, 50)
    )
    found = at_opening(values, seconds, 22.0)
    assert found.temperature_c == pytest.approx(22 + best[0], abs=1e-4)
    assert found.fit_standard_uncertainty_c == pytest.approx(covariance[0, 0] ** 0.5, rel=1e-3)


@pytest.mark.parametrize(
    ("values", "seconds"),
    [
        ([180.0], [3.0]),
        ([180.0, 178.0], [2.0, 2.0]),
        ([178.0, 180.0], [1.0, 4.0]),
        ([21.0, 20.0], [1.0, 4.0]),
    ],
)
def test_what_cannot_be_extrapolated_is_averaged_and_said(values, seconds):
    spot = SpotReadings(InstrumentProperties("contact"), np.array(values), np.array(seconds), 22.0)
    result = true_reading(spot)
    assert result.true_c == pytest.approx(np.mean(values))
    assert result.time_constant_s is None
    assert result.notes


def budget_spot(**changes):
    base = {
        "instrument": InstrumentProperties("infrared", -0.4, 1.5, 0.95),
        "value_c": np.array([182.0, 178.9]),
        "seconds": np.array([2.0, 6.0]),
        "ambient_c": 22.0,
        "surface_emissivity": 0.9,
        "surface_emissivity_uncertainty": 0.03,
        "repeatability_c": 0.5,
    }
    return SpotReadings(**{**base, **changes})


@pytest.mark.long
def test_budget_agrees_with_monte_carlo():
    rng = np.random.default_rng(7)
    spread = {"instrument": [], "emissivity": [], "repeatability": []}
    for _ in range(700):
        shift, emissivity, noise = rng.normal(0, 0.75), rng.normal(0.9, 0.03), rng.normal(0, 0.5, 2)
        plain = np.array([182.0, 178.9])
        spread["instrument"].append(true_reading(budget_spot(value_c=plain + shift)).true_c)
        spread["emissivity"].append(true_reading(budget_spot(surface_emissivity=emissivity)).true_c)
        spread["repeatability"].append(true_reading(budget_spot(value_c=plain + noise)).true_c)
    components = true_reading(budget_spot()).components
    for name, values in spread.items():
        assert components[name] == pytest.approx(np.std(values), rel=0.12), name


@given(st.floats(0, 3), st.floats(0, 3))
def test_more_instrument_uncertainty_never_narrows(a, b):
    assume(a < b)
    narrow, wide = (
        true_reading(budget_spot(instrument=InstrumentProperties("infrared", 0, u, 0.95)))
        for u in (a, b)
    )
    assert narrow.expanded_uncertainty_c <= wide.expanded_uncertainty_c


def test_bright_metal_is_met_with_a_warning_and_a_wide_interval():
    result = true_reading(budget_spot(surface_emissivity=0.12))
    assert any("bright" in note.lower() for note in result.notes)
    assert result.expanded_uncertainty_c > 50
