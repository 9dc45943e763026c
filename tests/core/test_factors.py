"""Inverses and factors of covariances, against numpy's own."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tempermark.core.metrology.map import field_prior as prior
from tempermark.core.metrology.map.field_members import (
    inverse_and_log_det,
    lean_factor,
    stable_cholesky,
)
from tempermark.core.metrology.map.verdict import lattice

seeds = st.integers(0, 2**32 - 1)


def covariances(seed, count, size):
    root = np.random.default_rng(seed).standard_normal((count, size, size + 2))
    return root @ root.transpose(0, 2, 1)


def smooth(length_mm):
    place = lattice(400.0, 500.0)
    return 4.0 * prior.matern(place, place, (length_mm, length_mm))


@given(seeds, st.integers(1, 4), st.integers(1, 12))
def test_an_inverse_and_the_logarithm_of_the_determinant_are_numpy_s(seed, count, size):
    covariance = covariances(seed, count, size)
    before = covariance.copy()
    inverse, log_det = inverse_and_log_det(covariance)
    assert (covariance == before).all()
    assert (inverse == inverse.transpose(0, 2, 1)).all()
    same = inverse @ covariance
    assert np.abs(same - np.eye(size)).max() < 1e-6 * np.linalg.cond(covariance).max()
    assert log_det == pytest.approx(np.linalg.slogdet(covariance)[1], abs=1e-6)


def test_what_is_no_covariance_has_no_inverse():
    with pytest.raises(np.linalg.LinAlgError, match="not positive definite"):
        inverse_and_log_det(np.array([np.eye(3), np.diag([1.0, -1.0, 1.0])]))


@pytest.mark.parametrize("length_mm", [50.0, 130.0, 400.0])
@pytest.mark.parametrize("least", [1e-1, 1e-3])
def test_a_lean_factor_leaves_out_no_more_than_it_may(length_mm, least):
    covariance = smooth(length_mm)
    factor, pivot = lean_factor(covariance, least)
    left = covariance - factor @ factor.T
    assert left.diagonal().max() <= least * (1 + 1e-9)
    # What is left out is a covariance too: of the very places that it rests on nothing.
    assert np.linalg.eigvalsh(left).min() > -1e-9
    assert np.abs(left[pivot]).max() < 1e-9
    triangle = factor[pivot]
    assert (triangle == np.tril(triangle)).all()
    assert factor.shape == (len(covariance), len(pivot))


def test_the_smoother_a_field_the_leaner_its_factor():
    ranks = [len(lean_factor(smooth(length_mm), 1e-2)[1]) for length_mm in (60.0, 130.0, 400.0)]
    assert ranks == sorted(ranks, reverse=True)
    assert ranks[-1] < len(lattice(400.0, 500.0)) / 4


def test_a_factor_of_what_rounding_has_made_no_covariance_is_near_it():
    line = np.outer(np.arange(6.0), np.arange(6.0))
    factor = stable_cholesky(line - 1e-12 * np.eye(6))
    assert (factor == np.tril(factor)).all()
    assert factor @ factor.T == pytest.approx(line, abs=1e-3)
