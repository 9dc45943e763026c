"""One survey as the memory takes it, and how far what was measured moves in the time between.

Lengths in mm, temperatures in K, times in days before today.
"""

from dataclasses import dataclass, field

import numpy as np

from tempermark.core.metrology.map import field_prior as prior

DAYS_PER_MONTH = 30.44
# Further back than this many looks nothing is read: the newest tell the shape.
MOST_LOOKS = 5


@dataclass(frozen=True)
class FoundChanges:
    """What a survey or a pressure map found to be new: the chance of each of its changes (J,), and
    that all of it was new. `since` are the shares 0–1 of how many maps earlier a change came that
    only this one found: the first that it came with this one.
    """

    chance: np.ndarray
    all_new: float
    since: tuple[float, ...] = (1.0,)

    @property
    def any(self) -> float:
        """The chance that anything had happened."""
        return float(self.chance.sum()) + self.all_new


# From this chance on a change that a look found parts the looks before it from those after.
PARTS_FROM = 0.5


def chance_before(new: float, share: np.ndarray, newest: FoundChanges | None) -> np.ndarray:
    """The chances (1 + J + 1,) before the first reading that nothing is new, of each change, whose
    `share` (J,) of all that happens is given, and that all is; `new`: that anything happens.
    What the newest look could not rule out may still be there: places that it did not read are
    looked at first.
    """
    found = np.concatenate([[1 - new], new * share, [new * (1 - share.sum())]])
    if newest is None or newest.any >= PARTS_FROM:
        return found
    left = np.append(newest.chance, newest.all_new)
    found[1:] = found[1:] * (1 - newest.any) + (1 - new) * left
    found[0] *= 1 - newest.any
    return np.asarray(found / found.sum())


@dataclass(frozen=True)
class Look:
    """A survey's readings: places (n, 2) in mm, deviations (n,) in K from what today's target asks
    of the dial of then; how long ago; what read it, and the standard error in K that all its
    readings share. `sd_c` (n,) where readings have a noise of their own. `change` is what was new
    then, None for nothing that was looked for.
    """

    place_mm: np.ndarray
    deviation_c: np.ndarray
    days_ago: float
    repeatability_c: float
    gun: str = ""
    common_c: float = 0.0
    sd_c: np.ndarray | None = None
    change: FoundChanges | None = None


@dataclass(frozen=True)
class Rates:
    """How an element moves: standard deviations of its level (K), its fall (K per 100 mm) and its
    shape (K) over a month, each growing with the root of the time; and the chance that between two
    surveys something new happens.

    Before a press has taught its own (learning.py), those of presses of its kind; the defaults are
    the handbook's: a level that wanders half a kelvin in a month, a shape that stays for years.

    `kind_level_c` (K) and `kind_fall_c_per_100mm` (K per 100 mm) are standard deviations too: how
    far levels and falls of the presses of its kind lie from none. `rest_chance` (A,), 0–1, says how
    uneven they are: the chance of each size of the smooth rest (`AMPLITUDES_C`). The defaults are
    those of a map that knows no other press.
    """

    level_c: float = 0.6
    fall_c_per_100mm: float = 0.06
    shape_c: float = 0.06
    new_chance: float = 0.12
    kind_level_c: float = prior.LEVEL_SPREAD_C
    kind_fall_c_per_100mm: float = prior.SLOPE_SPREAD_C_PER_100MM
    rest_chance: tuple[float, ...] = tuple(chance for _, chance in prior.AMPLITUDES_C)

    def log_share(self, rest: prior.SmoothRest) -> float:
        """By how much likelier a belief about the smooth rest is among presses of its kind than to
        a map that knows no other press: the logarithm of a ratio, unitless.
        """
        ratios = zip(self.rest_chance, prior.AMPLITUDES_C, strict=True)
        share = {amplitude_c: now / before for now, (amplitude_c, before) in ratios}
        return float(np.log(share[rest.amplitude_c]))

    def known_of_kind(
        self, size_mm: tuple[float, float], a_mm: np.ndarray, b_mm: np.ndarray
    ) -> np.ndarray:
        """What the presses of its kind take from the covariance (n, m) in K² of an element of a
        size in mm between places (n, 2) and (m, 2) in mm, as a negative one.
        """
        middle = np.array(size_mm, float) / 2
        level, fall = self._taken
        return np.asarray(level + fall * ((a_mm - middle) / 100) @ ((b_mm - middle) / 100).T)

    def known_of_kind_at(self, size_mm: tuple[float, float], place_mm: np.ndarray) -> np.ndarray:
        """The same (n,) in K² of each of places (n, 2) in mm with itself."""
        level, fall = self._taken
        away = (place_mm - np.array(size_mm, float) / 2) / 100
        return np.asarray(level + fall * (away**2).sum(axis=1))

    @property
    def _taken(self) -> tuple[float, float]:
        """Of the variances of the level (K²) and of the fall (K² per 100 mm squared)."""
        level = self.kind_level_c**2 - prior.LEVEL_SPREAD_C**2
        return level, self.kind_fall_c_per_100mm**2 - prior.SLOPE_SPREAD_C_PER_100MM**2


@dataclass(frozen=True)
class PastReadings:
    """Readings of all looks, one after another: (N, 2), (N,), and each one's look (N,)."""

    place_mm: np.ndarray
    deviation_c: np.ndarray
    noise_c: np.ndarray
    look: np.ndarray
    looks: tuple[Look, ...]
    common_c: np.ndarray = field(init=False)
    days_ago: np.ndarray = field(init=False)

    def __post_init__(self) -> None:
        common = np.array([one.common_c for one in self.looks])
        days = np.array([one.days_ago for one in self.looks])
        object.__setattr__(self, "common_c", common[self.look])
        object.__setattr__(self, "days_ago", days[self.look])

    def of_gun(self, gun: str) -> np.ndarray:
        """Whether each reading (N,) was taken with a gun."""
        named = np.array([bool(gun) and one.gun == gun for one in self.looks])
        return np.asarray(named[self.look])

    def shared(self) -> np.ndarray:
        """Covariance (N, N) in K² of the errors that readings with one gun share; a look whose gun
        nobody named shares its own.
        """
        names = [one.gun or f"look {n}" for n, one in enumerate(self.looks)]
        numbers = np.array([names.index(name) for name in names])[self.look]
        same = numbers[:, None] == numbers
        return np.asarray(same * np.outer(self.common_c, self.common_c))

    def walked(self, rates: Rates, size_mm: np.ndarray) -> np.ndarray:
        """Covariance (N, N) in K² of what level, fall and shape have moved since, as a walk whose
        steps are the months between.
        """
        since = np.minimum.outer(self.days_ago, self.days_ago) / DAYS_PER_MONTH
        away = (self.place_mm - size_mm / 2) / 100.0
        moved = rates.level_c**2 + rates.fall_c_per_100mm**2 * (away @ away.T)
        length = prior.LENGTHS_MM[0]
        moved = moved + rates.shape_c**2 * prior.matern(self.place_mm, self.place_mm, length)
        return np.asarray(since * moved)


def stacked(looks: list[Look]) -> PastReadings:
    """The newest looks' readings, the newest first. Raises ValueError without any."""
    if not looks:
        raise ValueError("There is nothing to remember.")
    kept = tuple(sorted(looks, key=lambda one: one.days_ago)[:MOST_LOOKS])
    floor = prior.NOISE_FLOOR_C
    return PastReadings(
        np.vstack([one.place_mm for one in kept]),
        np.concatenate([one.deviation_c for one in kept]),
        np.concatenate(
            [
                np.full(len(one.deviation_c), max(one.repeatability_c, floor))
                if one.sd_c is None
                else np.maximum(one.sd_c, floor)
                for one in kept
            ]
        ),
        np.repeat(np.arange(len(kept)), [len(one.deviation_c) for one in kept]),
        kept,
    )
