"""The platen's temperature everywhere, from readings: a weighed set of Gaussian processes.

Source: handbook 3, "Map"; Rasmussen & Williams 2006, ch. 2 and 5. For each belief about the
smooth rest the readings are jointly normal, so evidence and prediction are exact; a local
fault of unknown strength adds one rank to that (matrix determinant lemma). What is not known
about the platen's unevenness is thus carried into every probability instead of being
fixed at its likeliest value, which a few readings cannot know.
Lengths in mm, temperatures as deviations in K.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from tempermark.core.metrology.map import field_prior as prior
from tempermark.core.metrology.map.field_members import (
    PATHS,
    Member,
    Observations,
    _Kriging,
    _paths,
    _smooth_prior,
    _with_faults,
    inverse_and_log_det,
    thinned,
)
from tempermark.core.metrology.map.field_prior import LocalFaults, SmoothRest

# The likeliest beliefs are kept, this many at most and none below this share of the first.
MOST_MEMBERS, LEAST_SHARE = 12, 0.02
# Beliefs are conditioned together while their covariances hold at most so many figures.
MOST_JOINT = 200_000


@dataclass(frozen=True)
class Field:
    """The posterior; predicts mean, spread and joint draws anywhere on the platen."""

    seen: Observations
    size_mm: np.ndarray
    repeatability_c: float
    faults: prior.LocalFaults
    members: tuple[Member, ...]

    @cached_property
    def noise_c(self) -> float:
        """Expected standard deviation of one reading, K."""
        return float(
            sum(m.share * m.rest.noise_factor for m in self.members) * self.repeatability_c
        )

    @cached_property
    def fault_probability(self) -> float:
        """Chance 0–1 that the platen has a local fault."""
        return float(sum(m.fault_weight.sum() for m in self.members))

    def mean(self, place_mm: np.ndarray) -> np.ndarray:
        """Expected deviation (m,) in K at places (m, 2) in mm."""
        return self._moments(place_mm)[0]

    def standard_deviation(self, place_mm: np.ndarray) -> np.ndarray:
        """Standard deviation (m,) in K of the deviation at places (m, 2) in mm."""
        return np.asarray(np.sqrt(self._moments(place_mm)[1]))

    def moments(self, place_mm: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Mean and standard deviation, (m,) each in K, at the price of one."""
        mean, variance = self._moments(place_mm)
        return mean, np.sqrt(variance)

    def _moments(self, place_mm: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Mixture moments without forming a fault's change (m, J) at every place."""
        first, second = np.zeros(len(place_mm)), np.zeros(len(place_mm))
        course = self.faults.shape(place_mm)
        squared = course**2
        for member, cross, own, at_rest in self._at(place_mm):
            mean = cross @ member.weights + at_rest
            variance = own - ((cross @ member.inverse) * cross).sum(axis=1)
            # Σ w·strength·(course − cross·fault_weights)
            pull = member.fault_weight * member.strength_c
            shift = course @ pull - cross @ (member.fault_weights @ pull)
            # Σ w·(strength² + its variance)·(course − cross·fault_weights)²
            size = member.fault_weight * (member.strength_variance + member.strength_c**2)
            scaled = member.fault_weights * size
            spread = squared @ size - 2 * (cross * (course @ scaled.T)).sum(axis=1)
            spread += ((cross @ (scaled @ member.fault_weights.T)) * cross).sum(axis=1)
            first += member.share * mean + shift
            second += member.share * (variance + mean**2) + 2 * mean * shift + spread
        return first, np.maximum(second - first**2, 1e-10)

    def _at(self, place_mm: np.ndarray) -> Iterator[Any]:
        """Each member with its prior at places: cross covariance (m, n), own variance, mean."""
        alike = {rest.length_mm for rest in (m.rest for m in self.members)}
        here = {a: prior.matern(place_mm, self.seen.place_mm, a) for a in alike}
        reaches = {m.rest.margin_reach_mm for m in self.members}
        shapes = {r: prior.basis(place_mm, self.size_mm, r) for r in reaches}
        seen = {r: prior.basis(self.seen.place_mm, self.size_mm, r) for r in reaches}
        for member in self.members:
            rest = member.rest
            shape = shapes[rest.margin_reach_mm]
            scaled = shape * prior.BASIS_SPREAD**2
            cross = rest.amplitude_c**2 * here[rest.length_mm]
            cross = cross + scaled @ seen[rest.margin_reach_mm].T
            own = rest.amplitude_c**2 + (scaled * shape).sum(axis=1)
            yield member, cross, own, shape @ prior.BASIS_MEAN

    def draws(self, place_mm: np.ndarray, count: int, rng: np.random.Generator) -> np.ndarray:
        """Joint samples (count, m) of the field in K at places (m, 2).

        By conditioning whole prior samples (Matheron's rule; Wilson et al. 2020): a sample of
        the prior and of the readings' noise, plus what the readings say of its miss. Exact; the
        costly part, samples of the smooth rest, belongs to the places alone and is kept.
        """
        chances = [np.append(m.weight, m.fault_weight) for m in self.members]
        pick = rng.multinomial(count, np.concatenate(chances) / np.concatenate(chances).sum())
        course = self.faults.shape(place_mm)
        lengths = {m.rest.length_mm for m in self.members}
        smooth = {a: _smooth_prior(place_mm.tobytes(), a) for a in lengths}
        kriging = {a: smooth[a].weights(self.seen.place_mm) for a in lengths}
        samples, start = [], 0
        for member, cross, _, at_rest in self._at(place_mm):
            picked = pick[start : start + 1 + len(member.fault_weight)]
            start += len(picked)
            if picked.sum():
                weights = kriging[member.rest.length_mm]
                here, seen = self._prior_samples(member, place_mm, weights, picked.sum(), rng)
                missed = self.seen.deviation_c - seen
                base = here + at_rest + missed @ (member.inverse @ cross.T)
                samples.append(_with_faults(base, member, picked, cross, course, rng))
        return np.vstack(samples)

    def _prior_samples(
        self,
        member: Member,
        place_mm: np.ndarray,
        weights: "_Kriging",
        count: int,
        rng: np.random.Generator,
    ) -> tuple[np.ndarray, np.ndarray]:
        """Samples before any reading: (count, m) at places without the margins' mean, and
        (count, n) of the readings with their noise and that mean.
        """
        rest, seen_mm = member.rest, self.seen.place_mm
        unit = _paths(place_mm.tobytes(), rest.length_mm, max(count, PATHS))
        unit = unit[rng.permutation(len(unit))[:count]]
        unit_seen = unit @ weights.kriging.T
        unit_seen += rng.standard_normal((count, len(seen_mm))) @ weights.factor.T
        slopes = rng.standard_normal((count, len(prior.BASIS_MEAN))) * prior.BASIS_SPREAD
        basis_here = prior.basis(place_mm, self.size_mm, rest.margin_reach_mm)
        basis_seen = prior.basis(seen_mm, self.size_mm, rest.margin_reach_mm)
        noise_c = rest.noise_factor * self.repeatability_c / np.sqrt(self.seen.count)
        noise = rng.standard_normal((count, len(seen_mm))) * noise_c
        here = rest.amplitude_c * unit + slopes @ basis_here.T
        seen = rest.amplitude_c * unit_seen + (slopes + prior.BASIS_MEAN) @ basis_seen.T
        return here, seen + noise


def fit_field(
    place_mm: np.ndarray,
    deviation_c: np.ndarray,
    repeatability_c: float,
    size_mm: tuple[float, float],
    noise_c: np.ndarray | None = None,
) -> Field:
    """The field behind readings at (n, 2) mm of deviations (n,) in K on a platen of a size.

    `repeatability_c` is one reading's noise as the technician states it; half as much again
    is weighed too. `noise_c` (n,): readings with a noise of their own (bounded ones).
    """
    count = np.ones(len(deviation_c))
    if noise_c is not None:
        count = (max(repeatability_c, prior.NOISE_FLOOR_C) / noise_c) ** 2
    seen = thinned(Observations(place_mm, deviation_c, count))
    size = np.array(size_mm, float)
    repeatability = max(repeatability_c, prior.NOISE_FLOOR_C)
    faults = prior.local_faults(*size_mm)
    result = condition_all(seen, repeatability, faults, size)
    log_evidence = np.array([evidence.max() for _, evidence in result])
    scale = log_evidence.max()
    totals = np.array([np.exp(evidence - scale).sum() for _, evidence in result])
    least = max(LEAST_SHARE * totals.max(), np.sort(totals)[-MOST_MEMBERS])
    kept = totals >= least
    whole = totals[kept].sum()
    members = tuple(
        _member(parts, np.exp(evidence - scale) / whole)
        for (parts, evidence), keep in zip(result, kept, strict=True)
        if keep
    )
    return Field(seen, size, repeatability, faults, members)


def condition_all(
    seen: Observations,
    repeatability_c: float,
    faults: LocalFaults,
    size: np.ndarray,
    shared: np.ndarray | None = None,
) -> list[tuple[tuple[Any, ...], np.ndarray]]:
    """Every belief's posterior pieces with its log evidences, several beliefs at a time. `shared`
    (n, n) in K²: what the readings differ from the element by together, beside their own noise.
    """
    rests, course = prior.smooth_rests(), faults.shape(seen.place_mm)
    smooth = {a: prior.matern(seen.place_mm, seen.place_mm, a) for a in prior.LENGTHS_MM}
    shapes = {r: prior.basis(seen.place_mm, size, r) for r in prior.MARGIN_REACH_MM}
    joint = max(1, MOST_JOINT // len(seen.count) ** 2)
    result = []
    for first in range(0, len(rests), joint):
        some = rests[first : first + joint]
        result += _condition(seen, repeatability_c, some, faults, course, smooth, shapes, shared)
    return result


def _condition(
    seen: Observations,
    repeatability_c: float,
    rests: tuple[SmoothRest, ...],
    faults: LocalFaults,
    course: np.ndarray,
    smooth: dict[tuple[float, float], np.ndarray],
    shapes: dict[float, np.ndarray],
    shared: np.ndarray | None,
) -> list[tuple[tuple[Any, ...], np.ndarray]]:
    """Posterior pieces of beliefs, and their log evidences (1 + J,): no fault, each fault."""
    scaled = {r: shape * prior.BASIS_SPREAD for r, shape in shapes.items()}
    linear = {r: part @ part.T for r, part in scaled.items()}
    at_rest = {r: shape @ prior.BASIS_MEAN for r, shape in shapes.items()}
    covariance = np.array(
        [r.amplitude_c**2 * smooth[r.length_mm] + linear[r.margin_reach_mm] for r in rests]
    )
    noise = np.array([(r.noise_factor * repeatability_c) ** 2 / seen.count for r in rests])
    at = np.arange(len(seen.count))
    covariance[:, at, at] += noise
    if shared is not None:
        covariance += shared
    inverse, log_det = inverse_and_log_det(covariance)
    residual = seen.deviation_c - np.array([at_rest[r.margin_reach_mm] for r in rests])
    weights = (inverse @ residual[..., None])[..., 0]
    log_no_fault = -0.5 * ((residual * weights).sum(axis=1) + log_det)
    fault_weights = inverse @ course
    precision = 1 / prior.FAULT_SPREAD_C**2 + (course * fault_weights).sum(axis=1)
    variance = 1 / precision
    strength = variance * (weights @ course)
    log_faults = 0.5 * strength**2 * precision + 0.5 * np.log(variance / prior.FAULT_SPREAD_C**2)
    log_chance = np.log(np.append(1 - faults.chance.sum(), faults.chance))
    result = []
    for i, rest in enumerate(rests):
        evidence = np.append(0.0, log_faults[i]) + log_no_fault[i] + np.log(rest.chance)
        parts = (rest, strength[i], variance[i], inverse[i], weights[i], fault_weights[i])
        result.append((parts, evidence + log_chance))
    return result


def _member(
    parts: tuple[SmoothRest, np.ndarray, np.ndarray, np.ndarray, np.ndarray, np.ndarray],
    weight: np.ndarray,
) -> Member:
    rest, strength, variance, inverse, weights, fault_weights = parts
    return Member(
        rest, float(weight[0]), weight[1:], strength, variance, inverse, weights, fault_weights
    )
