"""The platen's temperature as a Gaussian process: Matérn 5/2 over a plane trend.

Source: handbook 3, "Map". Per-axis length scales, amplitude and noise by maximum
posterior likelihood (Rasmussen & Williams 2006, ch. 5, eq. 5.9 for the gradient). The
plane enters as a linear kernel with a wide prior, so its uncertainty is carried along.
Lengths here are in mm, temperatures as deviations in K.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from tempermark.core.metrology.quasi_newton import minimise

SQRT5 = 5**0.5
LENGTH_RANGE_MM = (50.0, 400.0)
# Prior medians and spreads (natural log): margins and heater bands of ordinary platens.
LENGTH_PRIOR = (np.log(150.0), 0.6)
AMPLITUDE_PRIOR = (np.log(2.5), 0.7)
NOISE_PRIOR_SPREAD = 0.35
NOISE_FLOOR_C = 0.02
# Prior standard deviations of the plane: its level and its fall per 100 mm.
LEVEL_SPREAD_C = 100.0
SLOPE_SPREAD_C_PER_100MM = 3.0
# Above this many readings neighbours are averaged; a bin is then small against 50 mm.
MOST_POINTS = 300


@dataclass(frozen=True)
class Observations:
    """Places (n, 2) in mm, deviations (n,) in K and how many readings each stands for."""

    place_mm: np.ndarray
    deviation_c: np.ndarray
    count: np.ndarray


@dataclass(frozen=True)
class Field:
    """A fitted process; predicts mean and covariance anywhere on the platen."""

    seen: Observations
    length_mm: np.ndarray
    amplitude_c: float
    noise_c: float
    centre_mm: np.ndarray

    @cached_property
    def _inverse(self) -> np.ndarray:
        noise = np.diag(self.noise_c**2 / self.seen.count)
        return np.linalg.inv(self._prior(self.seen.place_mm, self.seen.place_mm) + noise)

    @cached_property
    def _weights(self) -> np.ndarray:
        return self._inverse @ self.seen.deviation_c

    def _prior(self, a: np.ndarray, b: np.ndarray) -> np.ndarray:
        smooth = self.amplitude_c**2 * _matern(_distances(a, b) @ (1 / self.length_mm**2))
        return smooth + _plane_kernel(a, b, self.centre_mm)

    def mean(self, place_mm: np.ndarray) -> np.ndarray:
        """Expected deviation (m,) in K at places (m, 2) in mm."""
        return self._prior(place_mm, self.seen.place_mm) @ self._weights

    def standard_deviation(self, place_mm: np.ndarray) -> np.ndarray:
        """Standard deviation (m,) in K of the deviation at places (m, 2) in mm."""
        cross = self._prior(place_mm, self.seen.place_mm)
        spread = (place_mm - self.centre_mm) / 100.0
        own = (
            self.amplitude_c**2
            + LEVEL_SPREAD_C**2
            + SLOPE_SPREAD_C_PER_100MM**2 * (spread**2).sum(axis=1)
        )
        explained = ((cross @ self._inverse) * cross).sum(axis=1)
        return np.sqrt(np.maximum(own - explained, 1e-12))

    def covariance(self, place_mm: np.ndarray) -> np.ndarray:
        """Joint posterior covariance (m, m) in K²."""
        cross = self._prior(place_mm, self.seen.place_mm)
        return self._prior(place_mm, place_mm) - cross @ self._inverse @ cross.T

    def draws(self, place_mm: np.ndarray, count: int, rng: np.random.Generator) -> np.ndarray:
        """Joint samples (count, m) of the field in K at places (m, 2)."""
        factor = _stable_cholesky(self.covariance(place_mm))
        normal = rng.standard_normal((count, len(place_mm)))
        return self.mean(place_mm) + normal @ factor.T


def fit_field(place_mm: np.ndarray, deviation_c: np.ndarray, repeatability_c: float) -> Field:
    """The most probable field behind readings at (n, 2) mm of deviations (n,) in K.

    `repeatability_c` is the prior median of one reading's noise. Needs at least four
    readings not on one line for a map that means anything; the caller sees to that.
    """
    seen = thinned(Observations(place_mm, deviation_c, np.ones(len(deviation_c))))
    squared = _distances(seen.place_mm, seen.place_mm)
    centre = seen.place_mm.mean(axis=0)
    plane = _plane_kernel(seen.place_mm, seen.place_mm, centre)
    noise_median = np.log(max(repeatability_c, NOISE_FLOOR_C))
    start = np.array([LENGTH_PRIOR[0], LENGTH_PRIOR[0], AMPLITUDE_PRIOR[0], noise_median])

    def objective(log_params):
        return _negative_log_posterior(log_params, seen, squared, plane, noise_median)

    best = minimise(objective, start, lower=_lower(noise_median), upper=_upper(noise_median))
    return Field(seen, np.exp(best[:2]), float(np.exp(best[2])), float(np.exp(best[3])), centre)


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


def _lower(noise_median):
    return np.log([LENGTH_RANGE_MM[0], LENGTH_RANGE_MM[0], 0.05, np.exp(noise_median) / 4])


def _upper(noise_median):
    return np.log([LENGTH_RANGE_MM[1], LENGTH_RANGE_MM[1], 40.0, np.exp(noise_median) * 8])


def _distances(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Squared separations per axis, (n, m, 2) in mm²."""
    return (a[:, None, :] - b[None, :, :]) ** 2


def _matern(squared: np.ndarray) -> np.ndarray:
    r = np.sqrt(squared)
    return (1 + SQRT5 * r + 5 / 3 * squared) * np.exp(-SQRT5 * r)


def _plane_kernel(a, b, centre_mm):
    left, right = (a - centre_mm) / 100.0, (b - centre_mm) / 100.0
    return LEVEL_SPREAD_C**2 + SLOPE_SPREAD_C_PER_100MM**2 * (left @ right.T)


def _negative_log_posterior(log_params, seen, squared, plane, noise_median):
    """Value and gradient with respect to log lengths, log amplitude, log noise."""
    inverse_squares = np.exp(-2 * log_params[:2])
    variance, noise_variance = np.exp(2 * log_params[2:])
    scaled = squared @ inverse_squares
    r = np.sqrt(scaled)
    fall = np.exp(-SQRT5 * r)
    smooth = variance * (1 + SQRT5 * r + 5 / 3 * scaled) * fall
    noise = noise_variance / seen.count
    covariance = smooth + plane
    covariance[np.diag_indices_from(covariance)] += noise
    inverse = np.linalg.inv(covariance)
    weights = inverse @ seen.deviation_c
    log_determinant = np.linalg.slogdet(covariance)[1]
    value = 0.5 * seen.deviation_c @ weights + 0.5 * log_determinant
    # dL/dθ = −½ tr((αα' − K⁻¹) dK/dθ)
    sensitivity = inverse - np.outer(weights, weights)
    # dk/d(log l_i) = σ² 5/3 (1 + √5 r) e^(−√5 r) d_i²/l_i²
    common = variance * 5 / 3 * (1 + SQRT5 * r) * fall * sensitivity
    by_length = np.tensordot(common, squared, axes=2) * inverse_squares
    gradient = 0.5 * np.array(
        [
            *by_length,
            2 * np.vdot(sensitivity, smooth),
            2 * np.diag(sensitivity) @ noise,
        ]
    )
    return _with_priors(value, gradient, log_params, noise_median)


def _with_priors(value, gradient, log_params, noise_median):
    medians = np.array([LENGTH_PRIOR[0], LENGTH_PRIOR[0], AMPLITUDE_PRIOR[0], noise_median])
    spreads = np.array([LENGTH_PRIOR[1], LENGTH_PRIOR[1], AMPLITUDE_PRIOR[1], NOISE_PRIOR_SPREAD])
    standard = (log_params - medians) / spreads
    return value + 0.5 * standard @ standard, gradient + standard / spreads


def _stable_cholesky(covariance: np.ndarray) -> np.ndarray:
    """Lower factor; the diagonal lifted a little where rounding made it indefinite."""
    scale = float(np.mean(np.diag(covariance))) or 1.0
    for lift in (1e-10, 1e-8, 1e-6, 1e-4):
        try:
            return np.linalg.cholesky(covariance + lift * scale * np.eye(len(covariance)))
        except np.linalg.LinAlgError:
            continue
    values, vectors = np.linalg.eigh(covariance)
    return vectors * np.sqrt(np.maximum(values, 0.0))
