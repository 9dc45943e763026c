"""Changes that came with an earlier map and that no map has found yet.

Five or six strips miss four in ten of what two of nine would show. What was missed is in that map
already, and in all later ones: who compares today with them alone finds it as before.
"""

from dataclasses import dataclass

import numpy as np

from tempermark.core.metrology.memory.looks import PARTS_FROM
from tempermark.core.pressure.memory.changes import pressure_changes
from tempermark.core.pressure.memory.looks import PressureLook, Sites


@dataclass(frozen=True, eq=False)
class UnfoundChanges:
    """V beliefs of what the maps have not found: the change's number (V,), and the number (V,) of
    the look that it came with. The first is that there is none: its number is −1. Mean and spread
    (V,) of the strengths in mm.
    """

    number: np.ndarray
    look: np.ndarray

    @property
    def mean_mm(self) -> np.ndarray:
        """Expected strength (V,) in mm, before any strip; 0 where there is none."""
        return np.where(self.number < 0, 0.0, pressure_changes().mean_mm[self.number])

    @property
    def spread_mm(self) -> np.ndarray:
        """Its standard deviation (V,) in mm."""
        return np.where(self.number < 0, 0.0, pressure_changes().spread_mm[self.number])

    def some(self, these: np.ndarray) -> "UnfoundChanges":
        """Those beliefs that are marked in `these` (V,), unitless."""
        return UnfoundChanges(self.number[these], self.look[these])

    def log_chance(self, log_evidence: np.ndarray, new_chance: float) -> np.ndarray:
        """Log chances (V,) given the log evidence (V,) of the maps for each, where between two maps
        something new happens with `new_chance`.

        More than one may have been missed; several count as one of them. If each is as likely
        whatever the others, s of them on average, then some are there e^s − 1 times as often as
        none. Much evidence is for one of them alone: it counts for no more than there were before.
        """
        odds, times = new_chance / (1 - new_chance), len(np.unique(self.look)) - 1
        share = pressure_changes().chance[self.number] * odds
        found = log_evidence + np.where(self.number < 0, 0.0, np.log(share))
        if times:
            expected = min(float(np.exp(found[1:] - found[0]).sum()), times * odds)
            found[1:] += np.log(np.expm1(expected) / expected)
        return np.asarray(found - np.logaddexp.reduce(found))

    def course(self, sites: Sites, size_mm: tuple[float, float]) -> np.ndarray:
        """What a strength of 1 mm adds (V, N) in mm at sites of a platen of a size in mm: nothing
        in the looks before the one that the change came with.
        """
        after = sites.look <= self.look[:, None]
        found = sites.course(size_mm)[:, self.number].T
        return np.asarray(np.where(after & (self.number >= 0)[:, None], found, 0.0))

    def variance_mm2(self, here: np.ndarray, there: np.ndarray) -> np.ndarray:
        """Covariance (V, N, M) in mm² of what each adds, by its courses (V, N) and (V, M)."""
        scaled = self.spread_mm[:, None] ** 2 * here
        return np.asarray(scaled[:, :, None] * there[:, None, :])


def unfound_by(looks: tuple[PressureLook, ...]) -> UnfoundChanges:
    """All that may have come with one of the looks, the newest first, and not been found. What came
    with the oldest is of the shape that is remembered; what a look found is told by itself.
    """
    kinds = np.arange(len(pressure_changes().kind))
    quiet = [
        number
        for number, look in enumerate(looks[:-1])
        if look.change is None or look.change.any < PARTS_FROM
    ]
    numbers = np.concatenate([[-1], np.tile(kinds, len(quiet))]).astype(int)
    came_with = np.concatenate([[-1], np.repeat(np.array(quiet, int), len(kinds))]).astype(int)
    return UnfoundChanges(numbers, came_with)
