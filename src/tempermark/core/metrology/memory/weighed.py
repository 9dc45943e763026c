"""A belief of kept.py after today's readings: jointly normal with them, so that its evidence is
exact; a change of unknown strength adds one rank to it, as a local fault does in map/field.py.

Most of that hangs on where is read alone and not on what a reading shows (`SeenBelief`), so that it
can be there before the reading is.
"""

from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from scipy.linalg import solve_triangular

from tempermark.core.metrology.map.field_members import stable_cholesky
from tempermark.core.metrology.memory.hidden import HiddenFaults
from tempermark.core.metrology.memory.kept import MOST_BELIEFS, Belief, Kept
from tempermark.core.metrology.memory.today import at_rest

# Those of the surveys that are being read, each before its last reading and after it.
MOST_SEEN = 4 * MOST_BELIEFS


@dataclass(frozen=True, eq=False)
class Courses:
    """J courses at n readings, each of a strength that nobody knows: mean (J,) in K and variance
    (J,), squares of K, before them; `gain` (n, J) carries its course to them; precision (J,) of its
    strength after them, in 1/K².
    """

    mean_c: np.ndarray
    variance: np.ndarray
    gain: np.ndarray
    precision: np.ndarray

    def after(self, missed: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """By how much each explains better in log evidence (J,) what n readings missed, K; and the
        mean (J,) in K of its strength after them.
        """
        precision, variance = self.precision, self.variance
        strength = (self.gain.T @ missed + self.mean_c / variance) / precision
        log = 0.5 * strength**2 * precision - 0.5 * np.log(precision * variance)
        return log - 0.5 * self.mean_c**2 / variance, strength


@dataclass(frozen=True, eq=False)
class SeenBelief:
    """A belief at n places that are read today, whatever is read there: the readings' covariance
    `own` (n, n) in K², their place in `seen` (n, N) of the past's, what they are expected to show
    (n,) in K, and the courses of changes and of the faults hidden beside the belief.

    What the lattice needs of it is worked out for likely beliefs only: `cross` (m, n) is the
    readings' covariance with the lattice, `whitened` (r, n) the same with what the lattice's factor
    carries, `left` (n, n) the factor of what the lattice leaves open of them.
    """

    kept: Kept
    belief: Belief
    place_mm: np.ndarray
    seen: np.ndarray
    own: np.ndarray
    inverse: np.ndarray
    log_det: float
    expected_c: np.ndarray
    changes: Courses
    hidden: Courses | None

    @cached_property
    def cross(self) -> np.ndarray:
        """Covariance (m, n) in K² of the lattice with today's readings."""
        kept, belief = self.kept, self.belief
        if not len(self.place_mm):
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

    def prepare(self) -> None:
        """Work out what the lattice needs of it."""
        _ = self.left


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


@dataclass(frozen=True, eq=False)
class WeighedBelief:
    """A belief after today's n readings, which `missed` (n,) in K what was expected of them: log
    evidences (1 + J,), and the mean (J,) in K of each change's strength.
    """

    at: SeenBelief
    missed: np.ndarray
    log_weight: np.ndarray
    strength_c: np.ndarray
    hidden: WeighedFaults | None

    @property
    def belief(self) -> Belief:
        """What it is a belief in."""
        return self.at.belief

    @property
    def seen(self) -> np.ndarray:
        """Covariance (n, N) in K² of today's readings with the past's."""
        return self.at.seen

    @property
    def inverse(self) -> np.ndarray:
        """The inverse (n, n) in 1/K² of the covariance of today's readings."""
        return self.at.inverse

    @property
    def gain(self) -> np.ndarray:
        """What carries each change's course to today's readings (n, J), in 1/K²."""
        return self.at.changes.gain

    @property
    def strength_variance(self) -> np.ndarray:
        """The variance (J,), squares of K, of each change's strength."""
        return 1 / self.at.changes.precision

    @property
    def cross(self) -> np.ndarray:
        """Covariance (m, n) in K² of the lattice with today's readings."""
        return self.at.cross


def weigh(
    kept: Kept, number: int, place_mm: np.ndarray, deviation_c: np.ndarray, noise_c: np.ndarray
) -> WeighedBelief:
    """The belief of a number after today's readings at (n, 2) mm of deviations (n,) in K with the
    noise (n,) in K of each; n may be 0.
    """
    at = seen_at(kept, number, place_mm, noise_c)
    missed = deviation_c - at.expected_c
    log = -0.5 * (missed @ at.inverse @ missed + at.log_det) + at.belief.log_weight
    gained, strength = at.changes.after(missed)
    hidden, before = None, at.belief.hidden
    if at.hidden and before:
        explained, of_fault = at.hidden.after(missed)
        log_weight = log - at.belief.log_weight + before.log_weight + explained
        hidden = WeighedFaults(
            before, log_weight, of_fault, 1 / at.hidden.precision, at.hidden.gain
        )
    return WeighedBelief(at, missed, np.append(log, log + gained), strength, hidden)


def seen_at(kept: Kept, number: int, place_mm: np.ndarray, noise_c: np.ndarray) -> SeenBelief:
    """The belief of a number at today's places (n, 2) in mm, read with the noise (n,) in K; what
    was computed for the same ones before.
    """
    places, noise = (np.ascontiguousarray(one, float) for one in (place_mm, noise_c))
    return _seen(kept, number, places.tobytes(), noise.tobytes())


@lru_cache(maxsize=MOST_SEEN)
def _seen(kept: Kept, number: int, places: bytes, noises: bytes) -> SeenBelief:
    belief = kept.beliefs[number]
    if not places:
        return _unread(kept, belief)
    place_mm, noise_c = np.frombuffer(places).reshape(-1, 2), np.frombuffer(noises)
    seen = kept.element.with_past(belief.rest, belief.fault, place_mm)
    half = seen @ belief.inverse
    gun_seen = kept.common_c * kept.past.common_c * kept.past.of_gun(kept.gun)
    # The gun's error with the element at today's places, given the past.
    gun = -half @ gun_seen
    own = kept.element.covariance(belief.rest, belief.fault, place_mm, place_mm)
    own = own - half @ seen.T + gun[:, None] + gun[None, :] + belief.gun_var
    # The rest's own noise factor belongs to its belief.
    own[np.diag_indices(len(own))] += (belief.rest.noise_factor * noise_c) ** 2
    expected = at_rest(belief.rest, kept.size_mm, place_mm) + seen @ belief.solved
    inverse, of, hidden = np.linalg.inv(own), belief.hidden, None
    if of:
        beyond = of.course(kept.size_mm, place_mm, half)
        beyond = beyond - (gun_seen @ belief.inverse) @ of.past_course
        hidden = _courses(of.mean_c, of.variance, beyond, inverse)
    changes = kept.changes
    return SeenBelief(
        kept,
        belief,
        place_mm,
        seen,
        own,
        inverse,
        float(np.linalg.slogdet(own)[1]),
        expected + belief.gun_mean_c,
        _courses(changes.mean_c, changes.spread_c**2, changes.course(place_mm), inverse),
        hidden,
    )


def _unread(kept: Kept, belief: Belief) -> SeenBelief:
    """A belief before today's first reading."""
    nothing, of, changes = np.zeros((0, 0)), belief.hidden, kept.changes
    none = np.zeros((0, len(belief.solved)))
    return SeenBelief(
        kept,
        belief,
        np.zeros((0, 2)),
        none,
        nothing,
        nothing,
        0.0,
        np.zeros(0),
        _courses(changes.mean_c, changes.spread_c**2, np.zeros((0, len(changes.mean_c))), nothing),
        _courses(of.mean_c, of.variance, np.zeros((0, len(of.mean_c))), nothing) if of else None,
    )


def _courses(
    mean_c: np.ndarray, variance: np.ndarray, course: np.ndarray, inverse: np.ndarray
) -> Courses:
    """Courses (n, J) at readings with the inverse (n, n) of their covariance."""
    gain = inverse @ course
    return Courses(mean_c, variance, gain, 1 / variance + (course * gain).sum(axis=0))
