"""The map: evidence, moments and draws against independent computations."""

from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import multivariate_normal

from tempermark.core.metrology.map import field_prior as prior
from tempermark.core.metrology.map.field import fit_field
from tempermark.core.metrology.map.field_members import MOST_POINTS, Observations, thinned

SIZE = (400.0, 500.0)
ASKED = np.array([[30.0, 40.0], [200.0, 250.0], [390.0, 495.0], [111.0, 333.0]])


def grid(columns=4, rows=4, width=400.0, height=500.0):
    x, y = np.meshgrid(np.linspace(25, width - 25, columns), np.linspace(25, height - 25, rows))
    return np.column_stack([x.ravel(), y.ravel()])


def platen(rng, place):
    corner = -6 * np.exp(-((place - [25, 475]) ** 2).sum(axis=1) / 2 / 90**2)
    return 1.5 + 0.004 * place[:, 0] + corner + rng.normal(0, 0.6, len(place))


def joint(place, rest, noise_c, fault=None):
    """Prior mean and covariance of readings at places, written out in full."""
    size = np.array(SIZE)
    shape = prior.basis(place, size, rest.margin_reach_mm)
    scaled = shape * prior.BASIS_SPREAD
    smooth = rest.amplitude_c**2 * prior.matern(place, place, rest.length_mm)
    covariance = smooth + scaled @ scaled.T
    if fault is not None:
        course = prior.local_faults(*SIZE).shape(place)[:, fault]
        covariance = covariance + prior.FAULT_SPREAD_C**2 * np.outer(course, course)
    return shape @ prior.BASIS_MEAN, covariance + noise_c**2 * np.eye(len(place))


@pytest.fixture(scope="module")
def fitted():
    rng = np.random.default_rng(1)
    place = grid()
    deviation = platen(rng, place)
    return place, deviation, fit_field(place, deviation, 0.8, SIZE)


def test_matern_is_the_textbook_s():
    """Rasmussen & Williams 2006, eq. 4.17, with a length for each axis."""
    a, b = np.array([[10.0, 20.0]]), np.array([[70.0, 140.0]])
    r = np.hypot(60 / 100, 120 / 300)
    exact = (1 + 5**0.5 * r + 5 / 3 * r**2) * np.exp(-(5**0.5) * r)
    assert prior.matern(a, b, (100.0, 300.0))[0, 0] == pytest.approx(exact)


@pytest.mark.parametrize("faults_of", [prior.local_faults, prior.close_faults])
@pytest.mark.parametrize("size", [SIZE, (60.0, 2000.0)])
def test_beliefs_and_faults_are_chances(faults_of, size):
    assert sum(r.chance for r in prior.smooth_rests()) == pytest.approx(1)
    faults = faults_of(*size)
    chance = faults.chance
    assert chance.sum() == pytest.approx(prior.BAND_CHANCE + prior.SPOT_CHANCE)
    course = faults.shape(ASKED)
    assert course.shape == (len(ASKED), len(chance))
    assert ((course >= 0) & (course <= 1)).all()
    for fault in (0, len(faults.x_mm), len(chance) - 1):
        assert faults.one(fault, ASKED) == pytest.approx(course[:, fault])


def test_places_of_faults_lie_closer_where_several_surveys_tell_them():
    """As close as half their course is wide, so that the one between two is like either."""
    for of, apart in ((prior.local_faults, 45.0), (prior.close_faults, 30.0)):
        assert np.diff(of(*SIZE).x_mm).max() <= apart
    close = prior.close_faults(*SIZE)
    half_way = np.array([[close.x_mm[:2].mean(), 100.0]])
    assert close.one(0, half_way)[0] > 0.9
    # A platen of two metres does not take minutes.
    assert len(prior.close_faults(2000.0, 2000.0).chance) < 400


def test_weights_are_bayes_theorem_written_out(fitted):
    place, deviation, field = fitted
    chance = field.faults.chance
    faults = [None, 0, len(field.faults.x_mm), len(chance) - 1]
    evidence, weight = [], []
    for member, fault in product(field.members, faults):
        mean, covariance = joint(place, member.rest, member.rest.noise_factor * 0.8, fault)
        before = 1 - chance.sum() if fault is None else chance[fault]
        likelihood = multivariate_normal(mean, covariance).pdf(deviation)
        evidence.append(likelihood * before * member.rest.chance)
        weight.append(member.weight if fault is None else member.fault_weight[fault])
    ratio = np.array(weight) / np.array(evidence)
    assert ratio == pytest.approx(np.full(len(ratio), ratio[0]), rel=1e-6)


def test_dropped_beliefs_are_the_least_likely(fitted):
    place, deviation, field = fitted
    kept = {m.rest for m in field.members}
    evidence = {}
    for rest in prior.smooth_rests():
        mean, covariance = joint(place, rest, rest.noise_factor * 0.8)
        evidence[rest] = multivariate_normal(mean, covariance).logpdf(deviation)
        evidence[rest] += np.log(rest.chance)
    best_dropped = max(v for r, v in evidence.items() if r not in kept)
    assert sorted(evidence.values())[-1] == max(evidence[r] for r in kept)
    assert best_dropped < max(evidence.values())
    assert sum(m.share for m in field.members) == pytest.approx(1)


def written_out(fitted, asked):
    """Mean (m,) and covariance (m, m) of the mixture: the joint normal of readings and places
    conditioned for every member and fault.
    """
    place, deviation, field = fitted
    both = np.vstack([place, asked])
    n, first, second = len(place), 0.0, 0.0
    for member in field.members:
        for fault in [None, *range(len(member.fault_weight))]:
            weight = member.weight if fault is None else member.fault_weight[fault]
            mean, covariance = joint(both, member.rest, 0.0, fault)
            seen = covariance[:n, :n] + (member.rest.noise_factor * 0.8) ** 2 * np.eye(n)
            gain = covariance[n:, :n] @ np.linalg.inv(seen)
            told = mean[n:] + gain @ (deviation - mean[:n])
            inner = covariance[n:, n:] - gain @ covariance[:n, n:]
            first, second = first + weight * told, second + weight * (inner + np.outer(told, told))
    return first, second - np.outer(first, first)


def test_moments_are_those_of_the_mixture_written_out(fitted):
    exact, covariance = written_out(fitted, ASKED)
    mean, spread = fitted[2].moments(ASKED)
    assert mean == pytest.approx(exact, abs=1e-4)
    assert spread == pytest.approx(np.sqrt(np.diag(covariance)), abs=1e-3)


def test_draws_have_the_stated_moments(fitted):
    _, _, field = fitted
    draws = field.draws(ASKED, 40_000, np.random.default_rng(3))
    assert draws.mean(axis=0) == pytest.approx(field.mean(ASKED), abs=0.05)
    assert draws.std(axis=0) == pytest.approx(field.standard_deviation(ASKED), rel=0.03)


def test_draws_go_together_as_the_mixture_does(fitted):
    """Neighbours, a place that was read, and one in a corner nobody read."""
    asked = np.vstack([grid()[5], grid()[5] + [12, 0], [200.0, 250.0], [398.0, 2.0], [370, 20]])
    _, covariance = written_out(fitted, asked)
    draws = fitted[2].draws(asked, 60_000, np.random.default_rng(4))
    spread = np.sqrt(np.diag(covariance))
    found = np.cov(draws.T) / np.outer(spread, spread)
    assert found == pytest.approx(covariance / np.outer(spread, spread), abs=0.03)


def test_a_band_that_was_read_is_found_and_followed():
    place = grid(5, 5)
    dead = -7 * np.exp(-0.5 * ((place[:, 1] - 250) / 22) ** 2)
    rng = np.random.default_rng(2)
    field = fit_field(place, dead + rng.normal(0, 0.4, 25), 0.5, SIZE)
    assert field.fault_probability > 0.9
    along = np.array([[x, 250.0] for x in (60.0, 150.0, 330.0)])
    assert (field.mean(along) < -4.5).all()
    assert np.abs(field.mean(along + np.array([0, 60]))).max() < 2.5


def test_margins_are_believed_cooler_before_they_are_read():
    inner = np.array([[x, y] for x in (120, 200, 280) for y in (150, 250, 350)], float)
    field = fit_field(inner, np.zeros(9), 0.5, SIZE)
    rim, middle = field.mean(np.array([[1.0, 250.0], [200.0, 250.0]]))
    assert rim < -1 < middle
    spread = field.standard_deviation(np.array([[1.0, 250.0], [200.0, 250.0]]))
    assert spread[0] > 2 * spread[1]


@settings(max_examples=20)
@given(st.floats(-40, 40), st.integers(0, 5))
def test_moving_every_reading_moves_the_map(shift, seed):
    rng = np.random.default_rng(seed)
    place = grid()
    deviation = platen(rng, place)
    still = fit_field(place, deviation, 0.8, SIZE)
    moved = fit_field(place, deviation + shift, 0.8, SIZE)
    # The level's prior is wide, not flat: it holds back by (0.8/100)² of the shift.
    assert moved.mean(ASKED) == pytest.approx(still.mean(ASKED) + shift, abs=0.02)


def test_thinning_keeps_counts_and_the_mean():
    rng = np.random.default_rng(0)
    place = rng.uniform(0, 400, (5000, 2))
    value = rng.normal(0, 1, 5000)
    few = thinned(Observations(place, value, np.ones(5000)))
    assert len(few.count) <= MOST_POINTS
    assert few.count.sum() == 5000
    assert few.count @ few.deviation_c / 5000 == pytest.approx(value.mean())
