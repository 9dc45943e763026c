"""A belief of kept.py after today's readings: jointly normal with them, so that its evidence is
exact; a change of unknown strength adds one rank to it, as a local fault does in map/field.py.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.linalg import solve_triangular

from tempermark.core.metrology.map.field_members import stable_cholesky
from tempermark.core.metrology.memory.hidden import HiddenFaults
from tempermark.core.metrology.memory.kept import Belief, Kept
from tempermark.core.metrology.memory.today import at_rest


@dataclass(frozen=True, eq=False)
class WeighedFaults:
    """The faults hidden beside a belief after today's n readings: log evidences (F,), mean (F,) in
    K and variance (F,), squares of K, of their strengths; `gain` (n, F) carries their course to the
    readings.
    """

    before: HiddenFaults
    log_weight: np.ndarray
    strength_c: np.ndarray
    variance: np.ndarray
    gain: np.ndarray


@dataclass(frozen=True)
class WeighedBelief:
    """A belief after today's n readings: their covariance `own` (n, n) before them, their place in
    `seen` (n, N) of the past's, log evidences (1 + J,).

    What the lattice needs of it is worked out for likely beliefs only: `cross` (m, n) is the
    readings' covariance with the lattice, `whitened` (r, n) the same with what the lattice's factor
    carries, `left` (n, n) the factor of what the lattice leaves open of them.
    """

    belief: Belief
    kept: Kept
    place_mm: np.ndarray
    log_weight: np.ndarray
    seen: np.ndarray
    own: np.ndarray
    inverse: np.ndarray
    missed: np.ndarray
    strength_c: np.ndarray
    strength_variance: np.ndarray
    gain: np.ndarray
    hidden: WeighedFaults | None

    @cached_property
    def cross(self) -> np.ndarray:
        """Covariance (m, n) in K² of the lattice with today's readings."""
        kept, belief = self.kept, self.belief
        if not len(self.missed):
            return np.empty((len(kept.place_mm), 0))
        found = kept.element.covariance(belief.rest, belief.fault, kept.place_mm, self.place_mm)
        return np.asarray(found - belief.half @ self.seen.T + belief.gun_cross[:, None])

    @cached_property
    def whitened(self) -> np.ndarray:
        """Covariance (r, n) in K of what the lattice's factor carries with today's readings."""
        factor, pivot = self.belief.factor, self.belief.pivot
        found = solve_triangular(factor[pivot], self.cross[pivot], lower=True, check_finite=False)
        return np.asarray(found)

    @cached_property
    def left(self) -> np.ndarray:
        """Factor (n, n) in K of what the lattice leaves open of today's readings."""
        return stable_cholesky(self.own - self.whitened.T @ self.whitened)


def unread(kept: Kept, belief: Belief) -> WeighedBelief:
    """A belief before today's first reading."""
    count = len(kept.changes.spread_c)
    nothing = np.zeros((0, 0))
    return WeighedBelief(
        belief,
        kept,
        np.zeros((0, 2)),
        np.full(1 + count, belief.log_weight),
        np.zeros((0, len(belief.solved))),
        nothing,
        nothing,
        np.zeros(0),
        kept.changes.mean_c,
        kept.changes.spread_c**2,
        np.zeros((0, count)),
        _unread_faults(belief.hidden) if belief.hidden else None,
    )


def weigh(
    kept: Kept, belief: Belief, place_mm: np.ndarray, deviation_c: np.ndarray, noise_c: np.ndarray
) -> WeighedBelief:
    """A belief after today's readings at (n, 2) mm of deviations (n,) in K with the noise (n,) in
    K of each; n may be 0.
    """
    count, changes = len(deviation_c), kept.changes
    if count == 0:
        return unread(kept, belief)
    seen = kept.element.with_past(belief.rest, belief.fault, place_mm)
    half = seen @ belief.inverse
    gun_seen = kept.common_c * kept.past.common_c * kept.past.of_gun(kept.gun)
    # The gun's error with the element at today's places, given the past.
    gun = -half @ gun_seen
    own = kept.element.covariance(belief.rest, belief.fault, place_mm, place_mm)
    own = own - half @ seen.T + gun[:, None] + gun[None, :] + belief.gun_var
    # The rest's own noise factor belongs to its belief.
    own[np.arange(count), np.arange(count)] += (belief.rest.noise_factor * noise_c) ** 2
    expected = at_rest(belief.rest, kept.size_mm, place_mm) + seen @ belief.solved
    missed = deviation_c - expected - belief.gun_mean_c
    inverse = np.linalg.inv(own)
    log = -0.5 * (missed @ inverse @ missed + np.linalg.slogdet(own)[1]) + belief.log_weight
    hidden = None
    if belief.hidden:
        beyond = belief.hidden.course(kept.size_mm, place_mm, half)
        beyond = beyond - (gun_seen @ belief.inverse) @ belief.hidden.past_course
        of = belief.hidden
        gained, *strengths = _one_rank_more(of.mean_c, of.variance, beyond, inverse, missed)
        hidden = WeighedFaults(of, log - belief.log_weight + of.log_weight + gained, *strengths)
    gained, strength, variance, gain = _one_rank_more(
        changes.mean_c, changes.spread_c**2, changes.course(place_mm), inverse, missed
    )
    return WeighedBelief(
        belief,
        kept,
        place_mm,
        np.append(log, log + gained),
        seen,
        own,
        inverse,
        missed,
        strength,
        variance,
        gain,
        hidden,
    )


def _unread_faults(before: HiddenFaults) -> WeighedFaults:
    nothing = np.zeros((0, len(before.number)))
    return WeighedFaults(before, before.log_weight, before.mean_c, before.variance, nothing)


def _one_rank_more(
    mean_c: np.ndarray,
    variance: np.ndarray,
    course: np.ndarray,
    inverse: np.ndarray,
    missed: np.ndarray,
) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """For courses (n, J) of a strength that nobody knows, of mean and variance (J,): by how much
    each explains better in log evidence what n readings missed; mean and variance (J,) of its
    strength after them; and what carries its course to them (n, J).
    """
    gain = inverse @ course
    precision = 1 / variance + (course * gain).sum(axis=0)
    strength = (gain.T @ missed + mean_c / variance) / precision
    log = 0.5 * (strength**2 * precision - np.log(precision * variance) - mean_c**2 / variance)
    return log, strength, 1 / precision, gain
