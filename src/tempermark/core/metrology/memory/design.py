"""The next few places at once: a set of readings that together leave least of what may be new.

The best single place is not the first of the best few. A reading's worth does not hang on what it
will show, only on where it is, as long as nothing is new: so a set can be chosen ahead, by exchange
of one place after another (Fedorov 1972), for as few places as are enough.
"""

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

from tempermark.core.metrology.map.verdict import reachable
from tempermark.core.metrology.memory.kept import Belief, Kept
from tempermark.core.metrology.memory.recall import LARGE_C, Recalled

SWEEPS = 3
# What is lower by less is the same, rounded.
BETTER = 1 - 1e-5
# A place that leaves so much more is about as good for telling a change.
ABOUT_AS_GOOD = 1.1


@dataclass(frozen=True)
class Candidates:
    """Places (m, 2) in mm that may be read next, and their numbers (m,) in the lattice, under the
    likeliest belief given today's readings: covariance (m, m) in K² of readings there, each
    change's course (m, J), its strength's mean and variance (J,) in K and K², and the chance (J,)
    that it has happened and is large.
    """

    number: np.ndarray
    place_mm: np.ndarray
    covariance: np.ndarray
    course: np.ndarray
    mean_c: np.ndarray
    variance: np.ndarray
    chance: np.ndarray

    def left(self, information: np.ndarray) -> np.ndarray:
        """The chance (...) that is expected to be left where nothing is new, after readings that
        tell so much (..., J), in 1/K², of each change.
        """
        variance, moved, chance = (
            of.astype(np.float32)
            for of in (self.variance, self.mean_c**2 / self.variance - 1, self.chance)
        )
        ratio = variance * information.astype(np.float32)
        log_left = -0.5 * (np.log1p(ratio) + moved * ratio / (1 + ratio))
        return np.asarray(np.exp(log_left) @ chance, float)

    def worth(self, new_chance: float) -> float:
        """By how much the best of all places is expected to lower the chance of something large, as
        a share of how often something new happens.
        """
        return float(self.chance.sum() - _left_with(self, []).min()) / new_chance


def candidates(found: Recalled) -> Candidates:
    """Where may be read next."""
    part = found.parts[int(found.weight.sum(axis=1).argmax())]
    kept, belief = found.kept, part.belief
    at = np.flatnonzero(reachable(kept.place_mm, kept.size_mm, found.place_mm))
    gun = belief.gun_cross[at]
    factor = belief.factor[at]
    own = factor @ factor.T + gun[:, None] + gun[None, :] + belief.gun_var
    own[np.arange(len(at)), np.arange(len(at))] += (belief.rest.noise_factor * found.noise_c) ** 2
    course = found.course[at]
    if len(found.place_mm):
        cross = part.cross[at] + _gun_with(kept, belief, found.place_mm) + belief.gun_var
        own = own - cross @ part.inverse @ cross.T
        course = course - cross @ part.gain
    spread = np.sqrt(part.strength_variance)
    large = ndtr((-LARGE_C - part.strength_c) / spread) + ndtr((part.strength_c - LARGE_C) / spread)
    chance = found.weight[:, 1:].sum(axis=0) * large
    # Seven digits are plenty for a plan, and most of its time goes through this table.
    single = course.astype(np.float32)
    return Candidates(
        at, kept.place_mm[at], own, single, part.strength_c, part.strength_variance, chance
    )


def _gun_with(kept: Kept, belief: Belief, place_mm: np.ndarray) -> np.ndarray:
    """Covariance (n,) in K² of the gun's error with the element at today's places."""
    past = kept.past
    seen = kept.element.with_past(belief.rest, belief.fault, place_mm)
    gun_seen = kept.common_c * past.common_c * past.of_gun(kept.gun)
    return np.asarray(-(seen @ belief.inverse @ gun_seen))


def best_set(of: Candidates, count: int) -> tuple[np.ndarray, float]:
    """So many places (numbers of candidates) that together leave least, and the chance left."""
    chosen: list[int] = []
    for _ in range(count):
        chosen.append(int(_left_with(of, chosen).argmin()))
    return _exchanged(of, chosen)


def _exchanged(of: Candidates, first: list[int]) -> tuple[np.ndarray, float]:
    """A set made better, one place for another, until no exchange helps; and the chance left."""
    chosen = list(first)
    best = float(_left_with(of, chosen[:-1])[chosen[-1]])
    for _ in range(SWEEPS):
        before = best
        for slot in range(len(chosen)):
            left = _left_with(of, chosen[:slot] + chosen[slot + 1 :])
            number = int(left.argmin())
            if left[number] < BETTER * best:
                chosen[slot], best = number, float(left[number])
        if best > 0.999 * before:
            break
    return np.array(chosen), best


def _left_with(of: Candidates, others: list[int]) -> np.ndarray:
    """The chance (m,) left after readings at others and at each candidate."""
    own, course = of.covariance.diagonal(), of.course
    information = np.zeros(course.shape[1], np.float32)
    if others:
        inner = np.linalg.inv(of.covariance[np.ix_(others, others)])
        cross = of.covariance[:, others]
        gain = inner @ course[others]
        information = (course[others] * gain).sum(axis=0).astype(np.float32)
        own = own - (cross @ inner * cross).sum(axis=1)
        course = course - cross.astype(np.float32) @ gain.astype(np.float32)
    fresh = course**2 / np.maximum(own, 1e-9).astype(np.float32)[:, None]
    left = of.left(information + fresh)
    left[others] = np.inf
    return left


def next_of_set(of: Candidates, most: int, verdict_gain: np.ndarray) -> tuple[float, float]:
    """The place in mm to read next: of the best set of `most` readings the one that tells most; of
    places about as good there, the one with the most to gain (m,) for the verdict, unitless.
    """
    chosen, left = best_set(of, max(most, 1))
    first = int(_left_with(of, [])[chosen].argmin())
    others = [int(number) for number in np.delete(chosen, first)]
    about = _left_with(of, others) <= ABOUT_AS_GOOD * left
    best = np.argmax(np.where(about, verdict_gain[of.number], -np.inf))
    x, y = of.place_mm[best]
    return float(x), float(y)
