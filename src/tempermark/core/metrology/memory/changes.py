"""What can have happened to an element between two surveys: a dead band, a corner, a tilt, another
level. Each has a course over the platen and a strength that nobody knows.

Not among them: a new spot smaller than a band is wide. A check of a few readings cannot see one,
and no heater breaks that way; whoever fears it reads the whole grid.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from tempermark.core.metrology.map import field_prior as prior
from tempermark.core.metrology.memory.held import held

# Of all that happens: a heater's band, a corner, a tilt, a level; the rest is all new.
BAND_SHARE, CORNER_SHARE, TILT_SHARE, LEVEL_SHARE, ALL_NEW_SHARE = 0.5, 0.34, 0.05, 0.08, 0.03
# What breaks gets colder; what was mended unannounced gets hotter.
COLDER_SHARE = 0.85
# Widths of their courses (standard deviations, mm).
# A heater's pitch is 80 to 125 mm where four to six of them heat half a metre.
BAND_WIDTHS_MM = (42.0, 58.0)
CORNER_REACH_MM = (65.0, 92.0)
# How strong they are: mean and standard deviation, either way. Less than that is drift.
LOCAL_C, LOCAL_SPREAD_C = 6.0, 2.5
LEVEL_C, LEVEL_SPREAD_C = 5.0, 2.0
TILT_C_PER_100MM, TILT_SPREAD_C_PER_100MM = 2.0, 0.8


@dataclass(frozen=True, eq=False)
class Changes:
    """J changes on an element of a size in mm: kind and place of each, chance (J,) of each given
    that something has happened, mean and spread (J,) of its strength in K.
    """

    size_mm: tuple[float, float]
    kind: tuple[str, ...]
    at_mm: np.ndarray
    width_mm: np.ndarray
    chance: np.ndarray
    mean_c: np.ndarray
    spread_c: np.ndarray

    def course(self, place_mm: np.ndarray) -> np.ndarray:
        """Each change's course (n, J), 1 where it is strongest, at places (n, 2) in mm; not to be
        written to.
        """
        return _course(self, place_mm)


@held
def _course(changes: Changes, place_mm: np.ndarray) -> np.ndarray:
    named = np.array(changes.kind)
    found = np.ones((len(place_mm), len(named)))
    for kind, axes in (("band_x", [0]), ("band_y", [1]), ("corner", [0, 1])):
        these = named == kind
        away = place_mm[:, None, axes] - changes.at_mm[these][:, axes]
        squared = (away / changes.width_mm[these][:, None]) ** 2
        found[:, these] = np.exp(-0.5 * squared.sum(axis=2))
    for kind, axis in (("tilt_x", 0), ("tilt_y", 1)):
        these = named == kind
        found[:, these] = (place_mm[:, None, axis] - changes.at_mm[these, axis]) / 100.0
    return found


@lru_cache(maxsize=16)
def changes_of(size_mm: tuple[float, float]) -> Changes:
    """All that can have happened to an element of a size in mm."""
    faults, (width, height) = prior.local_faults(*size_mm), size_mm
    centre = (width / 2, height / 2)
    rows: list[tuple[str, float, float, float, float, float, float]] = []

    def add(kind: str, at: tuple[float, float], reach: float, share: float, most: float) -> None:
        spread = {"level": LEVEL_SPREAD_C}.get(kind, LOCAL_SPREAD_C)
        spread = TILT_SPREAD_C_PER_100MM if kind.startswith("tilt") else spread
        colder = 0.5 if kind.startswith("tilt") else COLDER_SHARE
        rows.append((kind, *at, reach, share * colder, -most, spread))
        rows.append((kind, *at, reach, share * (1 - colder), most, spread))

    for kind, lattice in (("band_x", faults.x_mm), ("band_y", faults.y_mm)):
        share = BAND_SHARE / 2 / len(lattice) / len(BAND_WIDTHS_MM)
        for reach in BAND_WIDTHS_MM:
            for at in lattice:
                place = (float(at), height / 2) if kind == "band_x" else (width / 2, float(at))
                add(kind, place, reach, share, LOCAL_C)
    for reach in CORNER_REACH_MM:
        for corner in ((0.0, 0.0), (width, 0.0), (0.0, height), (width, height)):
            add("corner", corner, reach, CORNER_SHARE / 4 / len(CORNER_REACH_MM), LOCAL_C)
    for kind in ("tilt_x", "tilt_y"):
        add(kind, centre, 1.0, TILT_SHARE / 2, TILT_C_PER_100MM)
    add("level", centre, 1.0, LEVEL_SHARE, LEVEL_C)
    return Changes(
        size_mm,
        tuple(row[0] for row in rows),
        np.array([row[1:3] for row in rows]),
        np.array([row[3] for row in rows]),
        np.array([row[4] for row in rows]),
        np.array([row[5] for row in rows]),
        np.array([row[6] for row in rows]),
    )
