"""Bounded readings against exact answers: one reading in closed form, many by Gibbs sampling."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.special import ndtr, ndtri
from scipy.stats import truncnorm

from tempermark.core.errors import InputError
from tempermark.core.metrology.map.censored import believed, resolve
from tempermark.core.metrology.survey import TemperatureSurvey, bounded_survey, temperature_survey
from tempermark.core.units import ReadingBounds, read_bounds

SIZE = (400.0, 500.0)
GRID = np.array([[x, y] for x in (25.0, 200.0, 375.0) for y in (25.0, 250.0, 475.0)])
NOISE, TARGET = 0.8, 195.0


def gibbs(place, low, high, sweeps=6000):
    """Means and deviations of the field by sampling the noisy figures inside their bounds."""
    rng = np.random.default_rng(1)
    mean, covariance = believed(place, np.array(SIZE))
    inverse = np.linalg.inv(covariance + NOISE**2 * np.eye(len(mean)))
    gain = covariance @ inverse
    y = np.where(np.isinf(low), high - 1, np.where(np.isinf(high), low + 1, (low + high) / 2))
    y, low, high = y - TARGET, low - TARGET, high - TARGET
    kept = []
    for sweep in range(sweeps):
        for i in range(len(y)):
            spread = inverse[i, i] ** -0.5
            centre = y[i] - (inverse[i] @ (y - mean)) * spread**2
            a, b = ndtr((low[i] - centre) / spread), ndtr((high[i] - centre) / spread)
            y[i] = centre + spread * ndtri(a + rng.random() * (b - a))
        if sweep > 200:
            kept.append(y.copy())
    field = mean + (np.array(kept) - mean) @ gain.T
    variance = field.var(axis=0) + np.diag(covariance - gain @ covariance)
    return TARGET + field.mean(axis=0), np.sqrt(variance)


def test_many_bounds_agree_with_sampling():
    low = np.array([182, 188, 182, 188, 193, 188, 182, 193, -np.inf])
    high = np.array([188, 193, 188, 193, 199, 193, 188, np.inf, 182])
    told = resolve(GRID, low, high, TARGET, NOISE, SIZE)
    value, spread = gibbs(GRID, low, high)
    assert told.value_c == pytest.approx(value, abs=0.08)
    assert told.value_sd_c == pytest.approx(spread, rel=0.06)


@pytest.mark.parametrize(
    ("low", "high"), [(190, 200), (190, np.inf), (-np.inf, 190), (260, 265), (100, 105)]
)
def test_one_bound_is_the_truncated_normal(low, high):
    """One place: field f and figure y = f + e are normal; y lies within the bounds."""
    place = GRID[4:5]
    mean, covariance = believed(place, np.array(SIZE))
    prior_mean, variance = TARGET + mean[0], covariance[0, 0]
    spread = np.sqrt(variance + NOISE**2)
    cut = truncnorm((low - prior_mean) / spread, (high - prior_mean) / spread, prior_mean, spread)
    gain = variance / spread**2
    told = resolve(place, np.array([low]), np.array([high]), TARGET, NOISE, SIZE)
    assert told.value_c[0] == pytest.approx(prior_mean + gain * (cut.mean() - prior_mean), abs=1e-3)
    exact = np.sqrt(gain**2 * cut.var() + variance * (1 - gain))
    assert told.value_sd_c[0] == pytest.approx(exact, rel=1e-3)


def test_exact_readings_pass_through():
    value = np.linspace(188, 197, 9)
    told = resolve(GRID, value, value, TARGET, NOISE, SIZE)
    assert told.seen_c == pytest.approx(value)
    assert told.seen_sd_c == pytest.approx(NOISE)


@settings(max_examples=25)
@given(st.floats(0.02, 3.0), st.integers(0, 8))
def test_a_narrow_interval_is_nearly_the_reading_itself(width, where):
    value = np.linspace(190, 197, 9)
    low, high = value.copy(), value.copy()
    low[where] -= width / 2
    high[where] += width / 2
    plain = resolve(GRID, value, value, TARGET, NOISE, SIZE)
    bounded = resolve(GRID, low, high, TARGET, NOISE, SIZE)
    assert bounded.value_c == pytest.approx(plain.value_c, abs=0.02 + width * 0.15)
    assert (bounded.value_sd_c >= plain.value_sd_c - 1e-6).all()


@settings(max_examples=25)
@given(st.integers(0, 8), st.floats(1, 20))
def test_raising_a_lower_bound_never_lowers_the_place(where, by):
    low, high = np.full(9, 180.0), np.full(9, 200.0)
    before = resolve(GRID, low, high, TARGET, NOISE, SIZE).value_c[where]
    raised = low.copy()
    raised[where] = min(180 + by, 199)
    assert resolve(GRID, raised, high, TARGET, NOISE, SIZE).value_c[where] >= before - 1e-6


def survey_of(value):
    return TemperatureSurvey(*SIZE, 195.0, 195.0, 5.0, GRID, value, NOISE, 0.3)


def test_the_map_of_strips_is_vaguer_than_that_of_figures_and_covers_the_truth():
    truth = 190 - 0.004 * (GRID[:, 0] - 200) + np.random.default_rng(2).normal(0, 0.3, 9)
    fields = np.array([171, 177, 182, 188, 193, 199, 204.0])
    at = np.searchsorted(fields, truth)
    changed, spread = bounded_survey(survey_of(truth), fields[at - 1], fields[at])
    rough = temperature_survey(changed, np.random.default_rng(1))
    fine = temperature_survey(survey_of(truth), np.random.default_rng(1))
    assert rough.map.deviation_sd_c.mean() > fine.map.deviation_sd_c.mean()
    assert (np.abs(changed.value_c - truth) < 3 * spread).all()
    assert rough.mean_c == pytest.approx(truth.mean(), abs=2.5)


@pytest.mark.parametrize(
    ("text", "low", "high"),
    [
        ("190-200", 190, 200),
        ("190 – 200 c", 190, 200),
        ("374f to 392f", 190, 200),
        (">=190", 190, np.inf),
        ("At least 190", 190, np.inf),
        ("190+", 190, np.inf),
        ("≥ 374 f", 190, np.inf),
        ("below 200", -np.inf, 200),
        ("< 200", -np.inf, 200),
        ("193", 193, 199),
        ("204", 204, np.inf),
    ],
)
def test_strips_as_people_type_them(text, low, high):
    assert read_bounds(text, "c", (182, 193, 199, 204)) == ReadingBounds(
        pytest.approx(low), pytest.approx(high)
    )


@pytest.mark.parametrize("text", ["", "x", "200-190", "below", "190-190", "at least"])
def test_what_is_no_bound_is_refused(text):
    with pytest.raises(InputError):
        read_bounds(text, "c")
