"""The map: gradient, optimum and posterior against independent computations."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize
from scipy.stats import multivariate_normal

from tempermark.core.metrology import field as f
from tempermark.core.metrology.quasi_newton import minimise


def grid(columns=5, rows=5, width=400.0, height=500.0):
    x, y = np.meshgrid(np.linspace(25, width - 25, columns), np.linspace(25, height - 25, rows))
    return np.column_stack([x.ravel(), y.ravel()])


def platen(rng, place):
    corner = -6 * np.exp(-((place - [25, 475]) ** 2).sum(axis=1) / 2 / 90**2)
    return 1.5 + 0.004 * place[:, 0] + corner + rng.normal(0, 0.6, len(place))


def objective_of(place, deviation):
    seen = f.Observations(place, deviation, np.ones(len(place)))
    squared = f._distances(place, place)
    plane = f._plane_kernel(place, place, place.mean(axis=0))
    median = np.log(0.8)
    return lambda q: f._negative_log_posterior(q, seen, squared, plane, median)


@pytest.mark.parametrize("seed", range(3))
def test_gradient_is_the_derivative(seed):
    rng = np.random.default_rng(seed)
    place = grid()
    objective = objective_of(place, platen(rng, place))
    at = np.log([120.0, 210.0, 2.0, 0.7]) + rng.normal(0, 0.2, 4)
    step = 1e-4 * np.eye(4)
    numeric = [(objective(at + s)[0] - objective(at - s)[0]) / 2e-4 for s in step]
    assert objective(at)[1] == pytest.approx(numeric, rel=1e-4, abs=1e-4)


def test_likelihood_is_that_of_the_normal_distribution():
    rng = np.random.default_rng(1)
    place = grid(3, 4)
    deviation = platen(rng, place)
    objective = objective_of(place, deviation)
    two = [np.log([120.0, 210.0, 2.0, 0.7]), np.log([200.0, 90.0, 4.0, 1.1])]

    def exact(q):
        length, amplitude, noise = np.exp(q[:2]), np.exp(q[2]), np.exp(q[3])
        r2 = ((place[:, None] - place[None]) ** 2 / length**2).sum(axis=2)
        r = np.sqrt(5 * r2)
        kernel = amplitude**2 * (1 + r + 5 / 3 * r2) * np.exp(-r) + noise**2 * np.eye(len(place))
        centred = (place - place.mean(axis=0)) / 100
        kernel += f.LEVEL_SPREAD_C**2 + f.SLOPE_SPREAD_C_PER_100MM**2 * centred @ centred.T
        prior = (q - np.array([np.log(150), np.log(150), np.log(2.5), np.log(0.8)])) / np.array(
            [0.6, 0.6, 0.7, 0.35]
        )
        return -multivariate_normal(cov=kernel).logpdf(deviation) + 0.5 * prior @ prior

    assert objective(two[0])[0] - objective(two[1])[0] == pytest.approx(
        exact(two[0]) - exact(two[1])
    )


@pytest.mark.parametrize("seed", range(4))
def test_optimum_is_no_worse_than_scipy_s(seed):
    rng = np.random.default_rng(seed)
    place = grid()
    objective = objective_of(place, platen(rng, place))
    start = np.log([150.0, 150.0, 2.5, 0.8])
    lower, upper = f._lower(np.log(0.8)), f._upper(np.log(0.8))
    ours = objective(minimise(objective, start, lower, upper))[0]
    theirs = minimize(objective, start, jac=True, bounds=list(zip(lower, upper, strict=True))).fun
    assert ours <= theirs + 1e-3


@settings(max_examples=20, deadline=None)
@given(st.floats(-8, 8), st.floats(-2, 2), st.floats(-2, 2))
def test_a_plane_is_found_everywhere(level, across, along):
    place = grid(4, 4)
    deviation = level + across * place[:, 0] / 100 + along * place[:, 1] / 100
    fitted = f.fit_field(place, deviation, 0.3)
    corners = np.array([[0.0, 0.0], [400.0, 500.0]])
    exact = level + across * corners[:, 0] / 100 + along * corners[:, 1] / 100
    assert fitted.mean(corners) == pytest.approx(exact, abs=0.25)


def test_draws_have_the_stated_mean_and_covariance():
    rng = np.random.default_rng(2)
    place = grid()
    fitted = f.fit_field(place, platen(rng, place), 0.6)
    asked = grid(4, 4)
    draws = fitted.draws(asked, 20_000, np.random.default_rng(3))
    assert draws.mean(axis=0) == pytest.approx(fitted.mean(asked), abs=0.03)
    assert np.cov(draws.T) == pytest.approx(fitted.covariance(asked), abs=0.04)
    assert fitted.standard_deviation(asked) == pytest.approx(
        np.sqrt(np.diag(fitted.covariance(asked)))
    )


def test_thinning_keeps_counts_and_the_mean():
    rng = np.random.default_rng(0)
    place = rng.uniform(0, 400, (5000, 2))
    seen = f.thinned(f.Observations(place, place[:, 0] / 100, np.ones(5000)))
    assert len(seen.count) <= f.MOST_POINTS
    assert seen.count.sum() == 5000
    assert seen.deviation_c @ seen.count / 5000 == pytest.approx((place[:, 0] / 100).mean())
