"""Today's readings against what was known: is the element as before, and what is it like now.

For each belief of kept.py today's readings are jointly normal, so that their evidence is exact; a
change of unknown strength adds one rank to it, as a local fault does in map/field.py. Beside them
stands the hypothesis that all is new, which is the map of today's readings alone.
"""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from scipy.linalg import solve_triangular
from scipy.special import ndtr

from tempermark.core.metrology.map import field_prior as prior
from tempermark.core.metrology.map import verdict as decide
from tempermark.core.metrology.map.field import Field, condition_all, fit_field
from tempermark.core.metrology.map.field_members import Observations, stable_cholesky
from tempermark.core.metrology.memory.kept import Belief, Kept
from tempermark.core.metrology.memory.looks import FoundChanges, chance_before
from tempermark.core.metrology.memory.today import at_rest

# A new element's level lies within so much; the map's own prior leaves it quite free.
NEW_LEVEL_C = 8.0
# Less likely than this, the map of today's readings alone is not drawn from.
LEAST_ALL_NEW = 0.004
FEWEST_FOR_ALL_NEW = 4
# A belief less likely than this has no say in where to read.
LEAST_WEIGHT = 0.02
# What has changed by so much spoils prints.
LARGE_C = 4.5


@dataclass(frozen=True)
class _Updated:
    """A belief after today's n readings: their covariance `own` (n, n) before them, their place in
    `seen` (n, N) of the past's, log evidences (1 + J,).

    What the lattice needs of it is worked out for likely beliefs only: `cross` (m, n) is the
    readings' covariance with the lattice, `whitened` the same in units of the lattice's factor,
    `left` (n, n) the factor of what the lattice leaves open of them.
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
        """The same (m, n) in units of the lattice's factor, K."""
        return np.asarray(solve_triangular(self.belief.factor, self.cross, lower=True))

    @cached_property
    def left(self) -> np.ndarray:
        """Factor (n, n) in K of what the lattice leaves open of today's readings."""
        return stable_cholesky(self.own - self.whitened.T @ self.whitened)


@dataclass(frozen=True)
class Recalled:
    """The element today: weights of beliefs and changes (b, 1 + J), the first of each for no
    change, and of all being new; their sum is 1.
    """

    kept: Kept
    place_mm: np.ndarray
    deviation_c: np.ndarray
    noise_c: float
    weight: np.ndarray
    all_new: float
    parts: tuple[_Updated, ...]
    course: np.ndarray

    @property
    def fault_probability(self) -> float:
        """Chance 0–1 that the element has a local fault, lasting or new."""
        lasting = [part.belief.fault is not None for part in self.parts]
        new = float(self.weight[:, 1:].sum())
        return new + float(self.weight[lasting, 0].sum())

    @property
    def unchanged(self) -> float:
        """The chance that nothing new has happened."""
        return float(self.weight[:, 0].sum())

    @property
    def large(self) -> float:
        """The chance that something large has happened: a change of `LARGE_C` or more, or all."""
        found = self.all_new
        for part, weight in zip(self.parts, self.weight, strict=True):
            spread = np.sqrt(part.strength_variance)
            beyond = ndtr((-LARGE_C - part.strength_c) / spread)
            beyond += ndtr((part.strength_c - LARGE_C) / spread)
            found += float(weight[1:] @ beyond)
        return found

    @property
    def large_left(self) -> float:
        """That chance as a share of how often something happens between two surveys."""
        return self.large / self.kept.rates.new_chance

    @property
    def change(self) -> FoundChanges:
        """What may have changed, with its chances."""
        return FoundChanges(self.weight[:, 1:].sum(axis=0), self.all_new)

    @property
    def strength_c(self) -> np.ndarray:
        """Expected strength (J,) in K of each change, where it is one."""
        weight = self.weight[:, 1:]
        mean = np.array([part.strength_c for part in self.parts])
        return np.asarray((weight * mean).sum(axis=0) / np.maximum(weight.sum(axis=0), 1e-300))

    @cached_property
    def new_field(self) -> Field | None:
        """The map of today's readings alone, where that may be all there is to know."""
        if self.all_new < LEAST_ALL_NEW:
            return None
        return fit_field(self.place_mm, self.deviation_c, self.noise_c, self.kept.size_mm)

    def slim(self) -> "Recalled":
        """The same without what only draws in K need: a tenth of the memory."""
        none = np.zeros((0, 0))
        beliefs = tuple(replace(part.belief, factor=none, half=none) for part in self.parts)
        kept = replace(self.kept, beliefs=beliefs)
        pairs = zip(self.parts, beliefs, strict=True)
        parts = tuple(replace(part, belief=belief, kept=kept) for part, belief in pairs)
        return replace(self, kept=kept, parts=parts)

    def moments(self, place_mm: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Mean and standard deviation, (m,) each in K, of the true deviation at places (m, 2)."""
        kept, past = self.kept, self.kept.past
        course = kept.changes.course(place_mm)
        gun_seen = kept.common_c * past.common_c * past.of_gun(kept.gun)
        first, second = np.zeros(len(place_mm)), np.zeros(len(place_mm))
        for part, weight in zip(self.parts, self.weight, strict=True):
            belief = part.belief
            base = belief.rest, belief.fault
            seen = kept.element.with_past(*base, place_mm)
            half = seen @ belief.inverse
            mean = at_rest(belief.rest, kept.size_mm, place_mm) + seen @ belief.solved
            variance = kept.element.variance(*base, place_mm) - (half * seen).sum(axis=1)
            lift = course
            if len(part.missed):
                today = kept.element.with_past(*base, self.place_mm)
                cross = kept.element.covariance(*base, place_mm, self.place_mm) - half @ today.T
                cross = cross - (half @ gun_seen)[:, None]
                solved = cross @ part.inverse
                mean = mean + solved @ part.missed
                variance = variance - (solved * cross).sum(axis=1)
                lift = course - cross @ part.gain
            share, changed = weight.sum(), weight[1:]
            pull = lift @ (changed * part.strength_c)
            spread = lift**2 @ (changed * (part.strength_c**2 + part.strength_variance))
            first += share * mean + pull
            second += share * (np.maximum(variance, 0.0) + mean**2) + 2 * mean * pull + spread
        if self.new_field is not None:
            mean, spread = self.new_field.moments(place_mm)
            first += self.all_new * mean
            second += self.all_new * (mean**2 + spread**2 + kept.common_c**2)
        whole = self.weight.sum() + (self.all_new if self.new_field is not None else 0.0)
        first, second = first / whole, second / whole
        return first, np.sqrt(np.maximum(second - first**2, 1e-10))

    def draws(self, count: int, rng: np.random.Generator) -> decide.Draws:
        """Joint samples (count, m) of the element in K on the lattice."""
        flat = self.weight.ravel()
        new_field = self.new_field
        chance = np.append(flat, self.all_new if new_field is not None else 0.0)
        picked = rng.multinomial(count, chance / chance.sum())
        samples = []
        by_belief = picked[:-1].reshape(self.weight.shape)
        for part, wanted in zip(self.parts, by_belief, strict=True):
            if wanted.sum():
                samples.append(self._of_belief(part, wanted, rng))
        if picked[-1] and new_field is not None:
            fresh = new_field.draws(self.kept.place_mm, int(picked[-1]), rng)
            shift = self.kept.common_c * rng.standard_normal((int(picked[-1]), 1))
            samples.append(fresh + shift)
        return decide.Draws(self.kept.place_mm, np.vstack(samples))

    def _of_belief(
        self, part: _Updated, wanted: np.ndarray, rng: np.random.Generator
    ) -> np.ndarray:
        count, belief = int(wanted.sum()), part.belief
        # Matheron's rule: a sample of before, and what the readings say of its miss.
        # Draws need no more than seven digits, and most of their time is this product.
        unit = rng.standard_normal((count, len(belief.factor)), np.float32)
        found = belief.mean_c + unit @ belief.factor_single.T
        if len(part.missed):
            seen = unit @ part.whitened
            seen += rng.standard_normal((count, len(part.missed))) @ part.left.T
            found += (part.missed - seen) @ (part.inverse @ part.cross.T)
        state = np.repeat(np.arange(len(wanted)), wanted) - 1
        changed = state >= 0
        which = state[changed]
        spread = np.sqrt(part.strength_variance[which])
        strength = part.strength_c[which] + spread * rng.standard_normal(len(which))
        lift = self.course[:, which] - part.cross @ part.gain[:, which]
        found[changed] += strength[:, None] * lift.T
        return np.asarray(found)

    def tells_new(self) -> np.ndarray:
        """How much of the chance of a change one reading at each place (m,) of the lattice is
        expected to settle where nothing has changed: of each change the share that the Bayes
        factor against it leaves, on average in its logarithm.
        """
        found = np.zeros(len(self.kept.place_mm))
        for part, weight in zip(self.parts, self.weight, strict=True):
            if weight.sum() < LEAST_WEIGHT:
                continue
            solved = part.cross @ part.inverse
            own = part.belief.variance - (solved * part.cross).sum(axis=1)
            usual = np.maximum(own, 0.0) + (part.belief.rest.noise_factor * self.noise_c) ** 2
            lift = self.course - part.cross @ part.gain
            ratio = lift**2 * part.strength_variance / usual[:, None]
            moved = (lift * part.strength_c) ** 2 / usual[:, None]
            log_left = -0.5 * (np.log1p(ratio) - ratio / (1 + ratio) + moved / (1 + ratio))
            found += (1 - np.exp(log_left)) @ weight[1:]
        return found


def recall(
    kept: Kept,
    place_mm: np.ndarray,
    deviation_c: np.ndarray,
    repeatability_c: float,
    sd_c: np.ndarray | None = None,
) -> Recalled:
    """The element after today's readings at (n, 2) mm of deviations (n,) in K, each with the noise
    `repeatability_c` or one of its own (n,); n may be 0.
    """
    repeatability = max(repeatability_c, prior.NOISE_FLOOR_C)
    noise = np.full(len(deviation_c), repeatability) if sd_c is None else sd_c
    chance = chance_before(kept.rates.new_chance, kept.changes.chance, kept.past.looks[0].change)
    seen_course = kept.changes.course(place_mm) if len(place_mm) else None
    parts = [
        _update(kept, belief, place_mm, deviation_c, noise, seen_course) for belief in kept.beliefs
    ]
    log_weight = np.array([part.log_weight for part in parts]) + np.log(chance[:-1])
    log_new = np.log(max(chance[-1], 1e-12))
    prior_mass = np.logaddexp.reduce([b.log_weight for b in kept.beliefs])
    log_new += prior_mass + _log_alone(kept, place_mm, deviation_c, repeatability, noise)
    top = max(float(log_weight.max()), float(log_new))
    weight, new = np.exp(log_weight - top), float(np.exp(log_new - top))
    whole = weight.sum() + new
    course = kept.changes.course(kept.place_mm)
    return Recalled(
        kept,
        place_mm,
        deviation_c,
        repeatability,
        weight / whole,
        new / whole,
        tuple(parts),
        course,
    )


def _update(
    kept: Kept,
    belief: Belief,
    place_mm: np.ndarray,
    deviation_c: np.ndarray,
    noise_c: np.ndarray,
    course: np.ndarray | None,
) -> _Updated:
    count, changes = len(deviation_c), kept.changes
    spread = changes.spread_c
    if count == 0 or course is None:
        log = np.full(1 + len(spread), belief.log_weight)
        nothing = np.zeros((0, 0))
        none = np.zeros((0, len(spread)))
        return _Updated(
            belief,
            kept,
            place_mm,
            log,
            nothing,
            nothing,
            nothing,
            np.zeros(0),
            changes.mean_c,
            spread**2,
            none,
        )
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
    weighed = inverse @ missed
    log = -0.5 * (missed @ weighed + np.linalg.slogdet(own)[1]) + belief.log_weight
    gain = inverse @ course
    precision = 1 / spread**2 + (course * gain).sum(axis=0)
    strength = (course.T @ weighed + changes.mean_c / spread**2) / precision
    log_changes = log + 0.5 * strength**2 * precision - 0.5 * np.log(precision * spread**2)
    log_changes -= 0.5 * (changes.mean_c / spread) ** 2
    return _Updated(
        belief,
        kept,
        place_mm,
        np.append(log, log_changes),
        seen,
        own,
        inverse,
        missed,
        strength,
        1 / precision,
        gain,
    )


def _log_alone(
    kept: Kept,
    place_mm: np.ndarray,
    deviation_c: np.ndarray,
    repeatability_c: float,
    noise_c: np.ndarray,
) -> float:
    """Log evidence of today's readings where all is new."""
    if len(deviation_c) < FEWEST_FOR_ALL_NEW:
        return -np.inf
    seen = Observations(place_mm, deviation_c, (repeatability_c / noise_c) ** 2)
    faults = prior.local_faults(*kept.size_mm)
    shared = np.full((len(deviation_c),) * 2, kept.common_c**2)
    size = np.array(kept.size_mm, float)
    result = condition_all(seen, repeatability_c, faults, size, shared)
    evidence = np.logaddexp.reduce(np.concatenate([found for _, found in result]))
    return float(evidence + np.log(prior.LEVEL_SPREAD_C / NEW_LEVEL_C))
