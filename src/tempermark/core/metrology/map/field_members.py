"""Members of the field: what one belief makes of the readings, and its joint draws."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.linalg import lapack, solve_triangular

from tempermark.core.metrology.map import field_prior as prior

# Above this many readings neighbours are averaged; a bin is then small against 50 mm.
MOST_POINTS = 300


@dataclass(frozen=True)
class Observations:
    """Places (n, 2) in mm, deviations (n,) in K and how many readings each stands for."""

    place_mm: np.ndarray
    deviation_c: np.ndarray
    count: np.ndarray


@dataclass(frozen=True)
class Member:
    """One belief about the smooth rest, conditioned on the readings.

    `weight` without a fault, `fault_weight` (J,) with each; strengths given each fault are
    normal with `strength_c` (J,) and `strength_variance` (J,).
    """

    rest: prior.SmoothRest
    weight: float
    fault_weight: np.ndarray
    strength_c: np.ndarray
    strength_variance: np.ndarray
    inverse: np.ndarray
    weights: np.ndarray
    fault_weights: np.ndarray

    @property
    def share(self) -> float:
        """Weight 0–1 of a member, with and without a fault."""
        return self.weight + float(self.fault_weight.sum())


@dataclass(frozen=True)
class _Kriging:
    """The smooth rest at readings given the places: weights (n, m), and the factor (n, n) of
    what the places leave open.
    """

    kriging: np.ndarray
    factor: np.ndarray


@dataclass(frozen=True)
class _SmoothPrior:
    """Places (m, 2) with the lower factor (m, m) of their correlation at one length."""

    place_mm: np.ndarray
    length_mm: tuple[float, float]
    factor: np.ndarray

    def weights(self, seen_mm: np.ndarray) -> _Kriging:
        """For readings at (n, 2)."""
        cross = prior.matern(self.place_mm, seen_mm, self.length_mm)
        half = solve_triangular(self.factor, cross, lower=True)
        own = prior.matern(seen_mm, seen_mm, self.length_mm)
        return _Kriging(
            solve_triangular(self.factor, half, lower=True, trans=1).T,
            stable_cholesky(own - half.T @ half + DUST * np.eye(len(seen_mm))),
        )


# So many samples of the smooth rest are drawn once for a platen's lattice and taken from again.
PATHS, PATHS_SEED = 1000, 1887


# Rounding in the smooth rest's correlations; its square root is below 0.001 K.
DUST = 1e-8


def prepare_draws(place_mm: np.ndarray) -> None:
    """Do once, ahead of the first draws at places (m, 2), what all draws there share."""
    for length_mm in prior.LENGTHS_MM:
        _paths(place_mm.tobytes(), length_mm, PATHS)


@lru_cache(maxsize=24)
def _paths(places: bytes, length_mm: tuple[float, float], count: int) -> np.ndarray:
    """Samples (count, m) of the smooth rest of amplitude 1; which of them serve is drawn anew."""
    factor = _smooth_prior(places, length_mm).factor
    rng = np.random.default_rng(PATHS_SEED)
    return np.asarray(rng.standard_normal((count, len(factor))) @ factor.T)


@lru_cache(maxsize=24)
def _smooth_prior(places: bytes, length_mm: tuple[float, float]) -> _SmoothPrior:
    """Kept for places asked again: a platen's lattice is the same after every reading."""
    place_mm = np.frombuffer(places).reshape(-1, 2)
    whole = prior.matern(place_mm, place_mm, length_mm)
    return _SmoothPrior(place_mm, length_mm, stable_cholesky(whole))


def _with_faults(
    base: np.ndarray,
    member: Member,
    picked: np.ndarray,
    cross: np.ndarray,
    course: np.ndarray,
    rng: np.random.Generator,
) -> np.ndarray:
    """Draws of the smooth field with each picked fault added at a drawn strength."""
    fault = np.repeat(np.arange(len(picked)), picked) - 1
    has = fault >= 0
    which = fault[has]
    spread = np.sqrt(member.strength_variance[which])
    strength = member.strength_c[which] + spread * rng.standard_normal(len(which))
    used, back = np.unique(which, return_inverse=True)
    change = course[:, used] - cross @ member.fault_weights[:, used]
    base[has] += strength[:, None] * change.T[back]
    return base


def thinned(seen: Observations) -> Observations:
    """Neighbours averaged into cells until at most `MOST_POINTS` places remain."""
    if len(seen.count) <= MOST_POINTS:
        return seen
    low = seen.place_mm.min(axis=0)
    extent = np.maximum(seen.place_mm.max(axis=0) - low, 1e-9)
    per_axis = int(MOST_POINTS**0.5)
    cell = np.minimum((seen.place_mm - low) / extent * per_axis, per_axis - 1).astype(int)
    _, owner = np.unique(cell[:, 0] * per_axis + cell[:, 1], return_inverse=True)
    count = np.bincount(owner, weights=seen.count)
    average = [
        np.bincount(owner, weights=column * seen.count) / count
        for column in (*seen.place_mm.T, seen.deviation_c)
    ]
    return Observations(np.column_stack(average[:2]), average[2], count)


def inverse_and_log_det(covariance: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Inverses (k, n, n) of covariances (k, n, n), and the logarithms (k,) of their determinants,
    by their factors: half the work of an inverse that knows of no symmetry. Raises LinAlgError for
    one that is none.
    """
    inverse, log_det = np.empty_like(covariance), np.empty(len(covariance))
    for number, one in enumerate(covariance):
        # The transpose of a symmetric one is itself, in the order that the routine wants.
        factor, failed = lapack.dpotrf(one.T, lower=1)
        if failed:
            raise np.linalg.LinAlgError("A covariance is not positive definite.")
        log_det[number] = 2 * np.log(factor.diagonal()).sum()
        half, _ = lapack.dpotri(factor, lower=1, overwrite_c=1)
        # It gives the lower triangle; above it is left what was there.
        below = np.tril(half, -1)
        inverse[number] = below + below.T + np.diag(half.diagonal())
    return inverse, log_det


def lean_factor(covariance: np.ndarray, least: float) -> tuple[np.ndarray, np.ndarray]:
    """A factor (m, r) of a covariance (m, m) of a smooth field, and the r places whose rows of it
    are a lower triangle, as numbers (r,): as few as leave a variance of `least` at most at any
    place, in the covariance's own unit. By Cholesky's way with pivots (Higham 2009).
    """
    factor, pivot, rank, _ = lapack.dpstrf(covariance, tol=least, lower=1)
    order = pivot - 1
    found = np.empty((len(covariance), rank))
    found[order] = np.tril(factor[:, :rank])
    return found, order[:rank]


def stable_cholesky(covariance: np.ndarray) -> np.ndarray:
    """Lower factor (m, m), with the least jitter that makes rounding harmless."""
    size = float(np.trace(covariance)) / len(covariance)
    for jitter in (1e-10, 1e-8, 1e-6, 1e-4):
        moved = np.array(covariance, order="F")
        moved[np.diag_indices(len(moved))] += jitter * max(size, 1e-6)
        factor, failed = lapack.dpotrf(moved, lower=1, clean=1, overwrite_a=1)
        if not failed:
            return np.asarray(factor)
    values, vectors = np.linalg.eigh(covariance)
    return np.asarray(vectors * np.sqrt(np.maximum(values, 0.0)))
