"""Readings that only bound the temperature: "at least 190", "below 200".

Indicator strips turn for good once a field's temperature was reached, so a strip says between which
two fields the place was. Such a reading is interval-censored: its likelihood is the chance that
the noisy temperature lies in the interval, which is no normal one. Expectation propagation
(Rasmussen & Williams 2006, ch. 3.6; Minka 2001) finds for each the normal observation, value
and variance, that does to the map what the interval does; all interval likelihoods are
log-concave, so it settles. The map then takes them like readings of their own noise.
"""

from dataclasses import dataclass

import numpy as np
from scipy.linalg import lapack
from scipy.special import log_ndtr

from tempermark.core.metrology.map import field_prior as prior

SWEEPS, SETTLED_K = 60, 1e-6
DAMPING = 0.8
# An observation vaguer than this tells nothing and would only cost digits.
VAGUEST_K = 1e3


@dataclass(frozen=True)
class ResolvedReadings:
    """What bounded readings come to.

    `seen_c` (n,) and `seen_sd_c` (n,): the normal observations for the map. `value_c`, `value_sd_c`
    (n,): the temperature at each place once all readings are known, for figures and tables.
    """

    seen_c: np.ndarray
    seen_sd_c: np.ndarray
    value_c: np.ndarray
    value_sd_c: np.ndarray


def resolve(
    place_mm: np.ndarray,
    low_c: np.ndarray,
    high_c: np.ndarray,
    target_c: float,
    repeatability_c: float,
    size_mm: tuple[float, float],
) -> ResolvedReadings:
    """Readings at (n, 2) mm that bound the temperature to [low, high) (n,) in °C.

    −inf and inf leave a side open; equal bounds are an exact reading. `repeatability_c` is the
    standard deviation of a place's own noise, `target_c` where the platen is believed to be,
    within 100 K.
    """
    noise = max(repeatability_c, prior.NOISE_FLOOR_C)
    mean, covariance = believed(place_mm, np.array(size_mm, float))
    found = bounded_normal(mean, covariance, low_c - target_c, high_c - target_c, noise)
    return ResolvedReadings(
        seen_c=target_c + found.seen,
        seen_sd_c=1 / np.sqrt(found.precision),
        value_c=target_c + found.mean,
        value_sd_c=np.sqrt(found.variance),
    )


@dataclass(frozen=True)
class BoundedNormal:
    """A normal vector known by bounds: `seen` (n,) with `precision` (n,) are the observations that
    say the same, `mean` and `variance` (n,) what is then known of each of its parts; `log_chance`
    () the natural logarithm of the chance of all bounds together. Of several vectors (..., n).
    """

    seen: np.ndarray
    precision: np.ndarray
    mean: np.ndarray
    variance: np.ndarray
    log_chance: np.ndarray


def bounded_normal(
    mean: np.ndarray,
    covariance: np.ndarray,
    low: np.ndarray,
    high: np.ndarray,
    noise: float | np.ndarray,
    settled: float = SETTLED_K,
) -> BoundedNormal:
    """Expectation propagation for parts (n,) of a normal vector seen to lie in [low, high).

    `mean` (..., n) and `covariance` (..., n, n) before, of one vector or of several that the same
    was seen of; `noise` the standard deviation between a part and what was seen of it, a number or
    (n,). Equal bounds are an exact figure. Any one unit, that of `settled` too: it ends once no
    mean or spread moves by more.
    """
    exact = high - low <= 0
    middle = np.where(exact, low, 0.0)
    # Natural parameters of each place's observation: precision, and precision × value.
    precision = np.where(exact, 1 / np.asarray(noise) ** 2, 1e-8) + np.zeros_like(mean)
    weighted = precision * middle
    before = np.full((2, *mean.shape), np.inf)
    for _ in range(SWEEPS):
        there_mean, there_variance = _posterior(mean, covariance, precision, weighted)
        now = np.array([there_mean, np.sqrt(there_variance)])
        if np.abs(now - before).max() < settled:
            break
        before = now
        fresh = _sites(there_mean, there_variance, precision, weighted, low, high, noise)
        precision = np.where(exact, precision, precision + DAMPING * (fresh[0] - precision))
        weighted = np.where(exact, weighted, weighted + DAMPING * (fresh[1] - weighted))
    there_mean, there_variance = _posterior(mean, covariance, precision, weighted)
    precision = np.maximum(precision, 1 / VAGUEST_K**2)
    log_chance = _log_chance(mean, covariance, precision, weighted, low, high, noise)
    return BoundedNormal(weighted / precision, precision, there_mean, there_variance, log_chance)


def believed(place_mm: np.ndarray, size_mm: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Mean (n,) in K and covariance (n, n) in K² of a platen before any reading, over all
    beliefs.
    """
    mean, second = np.zeros(len(place_mm)), np.zeros((len(place_mm),) * 2)
    for rest in prior.smooth_rests():
        shape = prior.basis(place_mm, size_mm, rest.margin_reach_mm)
        own, scaled = shape @ prior.BASIS_MEAN, shape * prior.BASIS_SPREAD
        smooth = rest.amplitude_c**2 * prior.matern(place_mm, place_mm, rest.length_mm)
        mean = mean + rest.chance * own
        second = second + rest.chance * (smooth + scaled @ scaled.T + np.outer(own, own))
    faults = prior.local_faults(*size_mm)
    course = faults.shape(place_mm)
    second = second + prior.FAULT_SPREAD_C**2 * (course * faults.chance) @ course.T
    return mean, second - np.outer(mean, mean)


def _posterior(
    mean: np.ndarray, covariance: np.ndarray, precision: np.ndarray, weighted: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """Marginal means and variances (n,) given normal observations (R&W eq. 3.66, stable form)."""
    factor, root = _whitening(covariance, precision)
    half = _solved(factor, root[..., :, None] * covariance)
    own = np.diagonal(covariance, axis1=-2, axis2=-1)
    variance = np.maximum(own - (half**2).sum(axis=-2), 1e-10)
    pull = (weighted - precision * mean)[..., None]
    moved = covariance @ pull - np.swapaxes(half, -1, -2) @ (half @ pull)
    return mean + moved[..., 0], variance


def _whitening(covariance: np.ndarray, precision: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Cholesky factor of I + √T K √T (R&W eq. 3.66), and √T (..., n)."""
    root = np.sqrt(precision)
    scaled = root[..., :, None] * covariance * root[..., None, :]
    return np.linalg.cholesky(np.eye(covariance.shape[-1]) + scaled), root


def _solved(factor: np.ndarray, right: np.ndarray) -> np.ndarray:
    """What solves lower triangles (..., n, n) for `right` (..., n, m): less than half of the work
    that a solution takes which knows of no triangle.
    """
    found = np.empty_like(right)
    for at in np.ndindex(factor.shape[:-2]):
        found[at], _ = lapack.dtrtrs(factor[at], right[at], lower=1)
    return found


def _log_chance(
    mean: np.ndarray,
    covariance: np.ndarray,
    precision: np.ndarray,
    weighted: np.ndarray,
    low: np.ndarray,
    high: np.ndarray,
    noise: float | np.ndarray,
) -> np.ndarray:
    """The logarithm of the chance of all bounds (R&W eq. 3.65 and 3.73, arranged so that a vague
    observation costs no digits); of an exact figure its density, without 1/√(2π).
    """
    there_mean, there_variance = _posterior(mean, covariance, precision, weighted)
    cavity_precision = np.maximum(1 / there_variance - precision, 1e-12)
    cavity_mean = (there_mean / there_variance - weighted) / cavity_precision
    spread = np.sqrt(1 / cavity_precision + np.asarray(noise) ** 2)
    exact = high - low <= 0
    with np.errstate(invalid="ignore"):
        off = np.where(exact, (low - cavity_mean) / spread, 0.0)
    inside = _log_between((low - cavity_mean) / spread, (high - cavity_mean) / spread)
    each = np.where(exact, -0.5 * off**2 - np.log(spread), inside)
    value = weighted / precision
    ratio = precision / cavity_precision
    each = each + 0.5 * np.log1p(ratio)
    each = each + 0.5 * precision * (cavity_mean - value) ** 2 / (1 + ratio)
    factor, root = _whitening(covariance, precision)
    whitened = _solved(factor, (root * (value - mean))[..., None])[..., 0]
    halved = np.log(np.diagonal(factor, axis1=-2, axis2=-1)) + 0.5 * whitened**2
    return np.asarray((each - halved).sum(axis=-1))


def _log_between(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """log(Φ(b) − Φ(a)), by the side where Φ keeps its digits."""
    turn = a > 0
    left, right = np.where(turn, -b, a), np.where(turn, -a, b)
    gone = np.minimum(log_ndtr(left) - log_ndtr(right), -1e-15)
    return np.asarray(log_ndtr(right) + np.log1p(-np.exp(gone)))


def _sites(
    mean: np.ndarray,
    variance: np.ndarray,
    precision: np.ndarray,
    weighted: np.ndarray,
    low: np.ndarray,
    high: np.ndarray,
    noise: float | np.ndarray,
) -> tuple[np.ndarray, np.ndarray]:
    """Each place's observation anew, from what the others say of it (the cavity)."""
    cavity_precision = np.maximum(1 / variance - precision, 1e-12)
    cavity_mean = (mean / variance - weighted) / cavity_precision
    spread = np.sqrt(1 / cavity_precision + noise**2)
    first, second = _slopes((low - cavity_mean) / spread, (high - cavity_mean) / spread)
    # d log Z / d mean and −d² log Z / d mean²; Gaussian matching gives the site's parameters.
    slope, bend = first / spread, second / spread**2
    site = bend / np.maximum(1 - bend / cavity_precision, 1e-12)
    site = np.maximum(site, 0.0)
    value = cavity_mean + np.divide(slope, bend, out=np.zeros_like(bend), where=bend > 1e-14)
    return site, site * value


def _slopes(a: np.ndarray, b: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """−d log Z and −d² log Z for Z = Φ(b) − Φ(a), as functions of a shift of the mean by one.

    Far in a tail the interval is turned to the side where Φ keeps its digits.
    """
    turn = a > 0
    left, right = np.where(turn, -b, a), np.where(turn, -a, b)
    log_z = _log_between(a, b)
    at_left = np.exp(-0.5 * np.where(np.isinf(left), 0, left) ** 2 - log_z)
    at_right = np.exp(-0.5 * np.where(np.isinf(right), 0, right) ** 2 - log_z)
    root = np.sqrt(2 * np.pi)
    at_left = np.where(np.isinf(left), 0.0, at_left / root)
    at_right = np.where(np.isinf(right), 0.0, at_right / root)
    first = at_left - at_right
    inner = np.where(np.isinf(right), 0, right) * at_right
    inner = inner - np.where(np.isinf(left), 0, left) * at_left
    second = first**2 + inner
    return np.where(turn, -first, first), second
