"""What can have happened to a closed press between two maps: it stands out of level, its pad has
gone hollow somewhere, a corner gives way. Each has a course and a strength nobody knows.

Not among them: a change smaller than a step of a strip. No strip shows it.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

# Of all that happens: a side, a hollow, a corner; the rest is all new (a pad changed untold).
SIDE_SHARE, HOLLOW_SHARE, CORNER_SHARE, ALL_NEW_SHARE = 0.42, 0.33, 0.2, 0.05
# Half widths of a hollow's and a corner's course, as shares of the platen.
HOLLOW_REACH, CORNER_REACH = 0.2, 0.28
HOLLOW_LATTICE = (0.25, 0.5, 0.75)
# How much less they compress: mean and standard deviation, mm; a side's over the whole platen.
SIDE_MM, SIDE_SPREAD_MM = 1.65, 0.5
LOCAL_MM, LOCAL_SPREAD_MM = 1.65, 0.5


@dataclass(frozen=True)
class PressureChanges:
    """J changes, the same for every size: kind and place (J, 2) of each as shares of width and
    depth, chance (J,) given that something has happened, mean and spread (J,) of its strength, mm.
    """

    kind: tuple[str, ...]
    at: np.ndarray
    chance: np.ndarray
    mean_mm: np.ndarray
    spread_mm: np.ndarray

    def course(self, place_mm: np.ndarray, size_mm: tuple[float, float]) -> np.ndarray:
        """Each change's course (n, J) at places (n, 2) in mm: what a strength of 1 mm adds, in
        mm. A side falls evenly to the one that is named, by 1 mm over the platen.
        """
        share = place_mm / np.array(size_mm)
        away = share[:, None, :] - self.at
        reach = np.array([CORNER_REACH if kind == "corner" else HOLLOW_REACH for kind in self.kind])
        found = -np.exp(-0.5 * ((away / reach[:, None]) ** 2).sum(axis=2))
        sides = np.array([kind == "side" for kind in self.kind])
        towards = 2 * (self.at[sides] - 0.5)
        found[:, sides] = -(share - 0.5) @ towards.T
        return np.asarray(found)


@lru_cache(maxsize=1)
def pressure_changes() -> PressureChanges:
    """All that can have happened."""
    sides = [(0.0, 0.5), (1.0, 0.5), (0.5, 0.0), (0.5, 1.0)]
    hollows = [(x, y) for x in HOLLOW_LATTICE for y in HOLLOW_LATTICE]
    corners = [(0.0, 0.0), (1.0, 0.0), (0.0, 1.0), (1.0, 1.0)]
    rows = (
        [("side", *at, SIDE_SHARE / 4, SIDE_MM, SIDE_SPREAD_MM) for at in sides]
        + [("hollow", *at, HOLLOW_SHARE / 9, LOCAL_MM, LOCAL_SPREAD_MM) for at in hollows]
        + [("corner", *at, CORNER_SHARE / 4, LOCAL_MM, LOCAL_SPREAD_MM) for at in corners]
    )
    table = np.array([row[1:] for row in rows], float)
    return PressureChanges(
        tuple(row[0] for row in rows), table[:, :2], table[:, 2], table[:, 3], table[:, 4]
    )
