"""Today's readings against what was known: is the element as before, and what is it like now.

Each belief of kept.py is weighed by them (weighed.py), without and with each of the changes and of
the faults that may be hidden. Beside them stands the hypothesis that all is new, which is the map
of today's readings alone.
"""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from scipy.special import ndtr

from tempermark.core.metrology.map import field_prior as prior
from tempermark.core.metrology.map import verdict as decide
from tempermark.core.metrology.map.field import Field, condition_all, fit_field
from tempermark.core.metrology.map.field_members import Observations
from tempermark.core.metrology.memory.kept import Kept
from tempermark.core.metrology.memory.looks import FoundChanges, chance_before
from tempermark.core.metrology.memory.today import at_rest
from tempermark.core.metrology.memory.weighed import WeighedBelief, seen_at, weigh

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
class Recalled:
    """The element today: weights of beliefs and changes (b, 1 + J), the first of each for no
    change, of the faults hidden beside each belief (F,), and of all being new; their sum is 1.
    """

    kept: Kept
    place_mm: np.ndarray
    deviation_c: np.ndarray
    noise_c: float
    weight: np.ndarray
    hidden: tuple[np.ndarray, ...]
    all_new: float
    parts: tuple[WeighedBelief, ...]
    course: np.ndarray

    @property
    def fault_probability(self) -> float:
        """Chance 0–1 that the element has a local fault, lasting or new."""
        lasting = [part.belief.fault is not None for part in self.parts]
        new = float(self.weight[:, 1:].sum())
        return new + float(self.weight[lasting, 0].sum()) + self._hidden

    @property
    def unchanged(self) -> float:
        """The chance that nothing new has happened."""
        return float(self.weight[:, 0].sum()) + self._hidden

    @property
    def _hidden(self) -> float:
        """The chance that there is one of the hidden faults."""
        return float(sum(found.sum() for found in self.hidden))

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
        parts = tuple(
            replace(part, at=replace(part.at, belief=belief, kept=kept))
            for part, belief in zip(self.parts, beliefs, strict=True)
        )
        return replace(self, kept=kept, parts=parts)

    def moments(self, place_mm: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Mean and standard deviation, (m,) each in K, of the true deviation at places (m, 2)."""
        kept, past = self.kept, self.kept.past
        course = kept.changes.course(place_mm)
        gun_seen = kept.common_c * past.common_c * past.of_gun(kept.gun)
        first, second = np.zeros(len(place_mm)), np.zeros(len(place_mm))
        for part, weight, faults in zip(self.parts, self.weight, self.hidden, strict=True):
            belief = part.belief
            base = belief.rest, belief.fault
            seen = kept.element.with_past(*base, place_mm)
            half = seen @ belief.inverse
            mean = at_rest(belief.rest, kept.size_mm, place_mm) + seen @ belief.solved
            variance = kept.element.variance(*base, place_mm) - (half * seen).sum(axis=1)
            cross = kept.element.covariance(*base, place_mm, self.place_mm) - half @ part.seen.T
            cross = cross - (half @ gun_seen)[:, None]
            solved = cross @ part.inverse
            mean = mean + solved @ part.missed
            variance = variance - (solved * cross).sum(axis=1)
            lift = course - cross @ part.gain
            share, changed = weight.sum() + faults.sum(), weight[1:]
            pull = lift @ (changed * part.strength_c)
            spread = lift**2 @ (changed * (part.strength_c**2 + part.strength_variance))
            if part.hidden:
                of = part.hidden
                hidden = of.before.course(kept.size_mm, place_mm, half) - cross @ of.gain
                pull = pull + hidden @ (faults * of.strength_c)
                spread = spread + hidden**2 @ (faults * (of.strength_c**2 + of.variance))
            first += share * mean + pull
            second += share * (np.maximum(variance, 0.0) + mean**2) + 2 * mean * pull + spread
        if self.new_field is not None:
            mean, spread = self.new_field.moments(place_mm)
            first += self.all_new * mean
            second += self.all_new * (mean**2 + spread**2 + kept.common_c**2)
        whole = self.weight.sum() + self._hidden
        whole += self.all_new if self.new_field is not None else 0.0
        first, second = first / whole, second / whole
        return first, np.sqrt(np.maximum(second - first**2, 1e-10))

    def draws(self, count: int, rng: np.random.Generator) -> decide.Draws:
        """Joint samples (count, m) of the element in K on the lattice."""
        new_field = self.new_field
        each = [
            np.append(row, faults) for row, faults in zip(self.weight, self.hidden, strict=True)
        ]
        last = self.all_new if new_field is not None else 0.0
        chance = np.append(np.concatenate(each), last)
        picked = rng.multinomial(count, chance / chance.sum())
        samples = []
        ends = np.cumsum([len(one) for one in each])
        for part, wanted in zip(self.parts, np.split(picked[:-1], ends[:-1]), strict=True):
            if wanted.sum():
                samples.append(self._of_belief(part, wanted, rng))
        if picked[-1] and new_field is not None:
            fresh = new_field.draws(self.kept.place_mm, int(picked[-1]), rng)
            shift = self.kept.common_c * rng.standard_normal((int(picked[-1]), 1))
            samples.append(fresh + shift)
        return decide.Draws(self.kept.place_mm, np.vstack(samples))

    def _of_belief(
        self, part: WeighedBelief, wanted: np.ndarray, rng: np.random.Generator
    ) -> np.ndarray:
        count, belief = int(wanted.sum()), part.belief
        mean, factor = belief.mean_c, belief.factor
        unit = rng.standard_normal((count, factor.shape[1]), np.float32)
        found = np.zeros((count, len(factor)), np.float32)
        if len(part.missed):
            # Matheron's rule: a sample of before, and what the readings say of its miss.
            solved = part.inverse @ part.cross.T
            mean, factor = mean + part.missed @ solved, factor - (part.at.whitened @ solved).T
            left = rng.standard_normal((count, len(part.missed)), np.float32)
            found -= left @ _single(part.at.left.T @ solved)
        # Draws need no more than seven digits, and most of their time is this product.
        found += unit @ _single(factor).T
        found += _single(mean)
        state = np.repeat(np.arange(len(wanted)), wanted)
        ends = self.weight.shape[1]
        new, faulty = (state > 0) & (state < ends), state >= ends
        which, back = np.unique(state[new] - 1, return_inverse=True)
        lift = self.course[:, which] - part.cross @ part.gain[:, which]
        strength = _drawn(part.strength_c[which], part.strength_variance[which], back, rng)
        found[new] += strength * _single(lift.T)[back]
        if part.hidden and faulty.any():
            of, place_mm = part.hidden, self.kept.place_mm
            which, back = np.unique(state[faulty] - ends, return_inverse=True)
            lift = of.before.course(self.kept.size_mm, place_mm, belief.half, which)
            lift = lift - part.cross @ of.gain[:, which]
            strength = _drawn(of.strength_c[which], of.variance[which], back, rng)
            found[faulty] += strength * _single(lift.T)[back]
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


def prepare_reading(
    kept: Kept, place_mm: np.ndarray, next_mm: np.ndarray, repeatability_c: float
) -> None:
    """Do ahead of a reading at `next_mm` (2,) what does not hang on what it will show, after those
    at (n, 2) mm with the noise `repeatability_c` in K: nobody waits for that then.
    """
    places = np.vstack([place_mm, next_mm])
    noise = np.full(len(places), max(repeatability_c, prior.NOISE_FLOOR_C))
    for number in range(len(kept.beliefs)):
        seen_at(kept, number, places, noise).prepare()


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
    parts = [
        weigh(kept, number, place_mm, deviation_c, noise) for number in range(len(kept.beliefs))
    ]
    log_weight = np.array([part.log_weight for part in parts]) + np.log(chance[:-1])
    # A change beside a hidden fault is weighed as one without it.
    log_weight[:, 1:] += [[b.log_with_hidden - b.log_weight] for b in kept.beliefs]
    log_new = np.log(max(chance[-1], 1e-12))
    prior_mass = np.logaddexp.reduce([b.log_with_hidden for b in kept.beliefs])
    log_new += prior_mass + _log_alone(kept, place_mm, deviation_c, repeatability, noise)
    top = max(float(log_weight.max()), float(log_new))
    weight, new = np.exp(log_weight - top), float(np.exp(log_new - top))
    faults = [
        np.exp(part.hidden.log_weight + np.log(chance[0]) - top) if part.hidden else np.zeros(0)
        for part in parts
    ]
    whole = weight.sum() + new + sum(found.sum() for found in faults)
    course = kept.changes.course(kept.place_mm)
    return Recalled(
        kept,
        place_mm,
        deviation_c,
        repeatability,
        weight / whole,
        tuple(found / whole for found in faults),
        new / whole,
        tuple(parts),
        course,
    )


def _drawn(
    mean: np.ndarray, variance: np.ndarray, which: np.ndarray, rng: np.random.Generator
) -> np.ndarray:
    """Normal draws (n, 1) in K, each by the mean in K and the variance, squares of K, that `which`
    (n,) names of (k,) and (k,).
    """
    found = mean[which] + np.sqrt(variance)[which] * rng.standard_normal(len(which))
    return _single(found[:, None])


def _single(value: np.ndarray) -> np.ndarray:
    """The same (…) in K in single precision."""
    return value.astype(np.float32)


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
