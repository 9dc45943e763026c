"""Where to read next on an element that is known, and when the readings are enough.

Together where they best tell *unchanged* from *new*, then where they decide the verdict. Measured
by `./tempermark bench adaptive` on imagined histories.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from tempermark.core.metrology.map import verdict as decide
from tempermark.core.metrology.map.adaptive import FAIL_STOPS_UP_TO, FEWEST_FOR_PASS
from tempermark.core.metrology.map.outlook import extremes, is_known_closely
from tempermark.core.metrology.map.verdict import Draws
from tempermark.core.metrology.memory.design import candidates, next_of_set
from tempermark.core.metrology.memory.kept import Kept
from tempermark.core.metrology.memory.naming import leading
from tempermark.core.metrology.memory.recall import Recalled, recall

# So sure that nothing has happened, or that something has, the question is settled; and of the
# chance that something large happens between two surveys no more than this share may be left.
SURE_SAME, LARGE_LEFT, SURE_NEW = 0.85, 0.12, 0.9
# Another reading is worth its time while it is expected to take so large a share of that chance.
WORTH_READING = 0.06
FEWEST_IF_SAME = 3
# One figure that is far off may be a slip of the gun or of the hand: others beside it tell.
FEWEST_IF_NEW = 3
# Looking after every reading finds lucky moments: a pass is stopped at only when clearer.
PASS_STOPS_FROM = 0.97
# Where nothing has happened and the verdict stays open, so many are enough once the tolerance that
# is kept can be said and another is worth no more than this: a sixth moves the verdict's chance by
# 0.02 on average.
ENOUGH_AT_LIMIT, WORTH_AT_LIMIT = 5, 0.05
# Else more than this tells little.
MOST_IF_SAME = 6
# Beyond this the question stays open: a whole survey answers it.
MOST_IF_KNOWN = 10


@dataclass(frozen=True)
class Standing:
    """Where a survey of a known element stands after some readings."""

    recalled: Recalled
    draws: Draws
    within: np.ndarray
    next_mm: tuple[float, float] | None

    @property
    def probability_within(self) -> float:
        """That all of the element is within its tolerance, 0–1."""
        return float(self.within.mean())


def look_on(
    kept: Kept,
    place_mm: np.ndarray,
    deviation_c: np.ndarray,
    tolerance_c: float,
    repeatability_c: float,
    rng: np.random.Generator,
    sd_c: np.ndarray | None = None,
) -> Standing:
    """What today's readings say so far, and where to read on; nowhere once they are enough."""
    found = recall(kept, place_mm, deviation_c, repeatability_c, sd_c)
    draws = found.draws(decide.DRAWS, rng)
    within = decide.all_within(draws, 0.0, tolerance_c)
    place = None
    of = candidates(found) if found.unchanged > 0.5 else None
    worth = of.worth(kept.rates.new_chance) if of else 0.0
    chances = found.unchanged, found.large_left, worth, float(within.mean())
    closely = is_known_closely(extremes(draws))
    if not is_enough(*chances, len(deviation_c), leading(found).is_named, closely):
        if of and (len(deviation_c) < MOST_IF_SAME or worth > WORTH_READING):
            gain = decide.verdict_gain(draws, within, found.noise_c)
            place = next_of_set(of, MOST_IF_SAME - len(deviation_c), gain)
        else:
            place = _next(found, draws, within)
    return Standing(found, draws, within, place)


def is_same(unchanged: float, large_left: float) -> bool:
    """Whether it is settled that nothing has happened, by chances 0–1."""
    return unchanged >= SURE_SAME and large_left <= LARGE_LEFT


def is_enough(
    unchanged: float,
    large_left: float,
    worth: float,
    probability_within: float,
    count: int,
    is_named: bool,
    closely: bool,
) -> bool:
    """Whether this many readings are enough: what has happened is settled and has a name, and the
    verdict is settled too as far as more readings can settle it, or the tolerance that is kept is
    known closely; by chances 0–1, and by the share 0–1 of the chance of a large change that another
    reading is worth.
    """
    if count >= MOST_IF_KNOWN:
        return True
    verdict = decide.classify(probability_within)
    is_sure = not FAIL_STOPS_UP_TO < probability_within < PASS_STOPS_FROM
    if is_same(unchanged, large_left):
        at_limit = closely and count >= ENOUGH_AT_LIMIT and worth <= WORTH_AT_LIMIT
        is_settled = is_sure or at_limit or count >= MOST_IF_SAME
        return is_settled and count >= FEWEST_IF_SAME and worth <= WORTH_READING
    if unchanged > 0.5 and large_left <= LARGE_LEFT and is_sure:
        # Something small may have happened, less than drift is: it changes nothing for the verdict.
        return count >= MOST_IF_SAME
    if unchanged > 1 - SURE_NEW or not is_named:
        return False
    return is_sure and count >= (FEWEST_IF_NEW if verdict == "fail" else FEWEST_FOR_PASS)


def _next(found: Recalled, draws: Draws, within: np.ndarray) -> tuple[float, float]:
    """Where to read on once the readings that are planned together are over."""
    size, read = found.kept.size_mm, found.place_mm
    if found.unchanged > 1 - SURE_NEW and not is_same(found.unchanged, found.large_left):
        return decide.best_place(found.tells_new(), draws.place_mm, size, read)
    if found.unchanged <= 1 - SURE_NEW and not leading(found).is_named:
        # Where what may have happened differs most.
        return decide.best_place(draws.deviation_c.var(axis=0), draws.place_mm, size, read)
    return decide.next_place(draws, within, found.noise_c, *size, read)


def survey_known(
    kept: Kept,
    read: Callable[[np.ndarray], np.ndarray],
    tolerance_c: float,
    repeatability_c: float,
    rng: np.random.Generator,
) -> Standing:
    """Walk a survey of a known element with `read`, which gives deviations (n,) in K at places
    (n, 2) in mm. For simulations; at the bench the technician is `read`.
    """
    place, value = np.zeros((0, 2)), np.zeros(0)
    while True:
        standing = look_on(kept, place, value, tolerance_c, repeatability_c, rng)
        if standing.next_mm is None:
            return standing
        at = np.array([standing.next_mm])
        place, value = np.vstack([place, at]), np.append(value, read(at))
