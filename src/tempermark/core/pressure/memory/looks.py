"""One pressure map as the memory takes it, and how far it moves in the time between.

Compression of the pad in mm, times in days before today. Its level is set anew for each stack and
says nothing of the next; tilt, hollow and the pad's unevenness last.
"""

from dataclasses import dataclass

import numpy as np

from tempermark.core.metrology.map.field_prior import matern
from tempermark.core.metrology.memory.looks import DAYS_PER_MONTH, FoundChanges
from tempermark.core.pressure.map.field import (
    REST_MM,
    SPREAD_MM,
    STRIP_SD_MM,
    rest_length_mm,
    strip_bounds_mm,
    trend,
)
from tempermark.core.pressure.press.spring import SpringPad

# Further back than this many maps nothing is read: the newest tell the shape.
MOST_PRESSURE_LOOKS = 4
# What is computed of a hinged press's pinch is right to this share. Starting value.
PINCH_SHARE = 0.3


@dataclass(frozen=True)
class PressureLook:
    """A map's strips or cells of its print: places (n, 2) in mm, the compressions (n,) in mm
    between which each lay (equal: a figure) and its standard deviation (n,) in mm; how long ago.

    `pinch_mm`: how much more the back was compressed than today, by another stack in a hinged
    press. `change` is what was new then, None for nothing that was looked for.
    """

    place_mm: np.ndarray
    low_mm: np.ndarray
    high_mm: np.ndarray
    sd_mm: np.ndarray
    days_ago: float
    pinch_mm: float = 0.0
    change: FoundChanges | None = None


def strips_look(
    place_mm: np.ndarray, pulls: list[str], pad: SpringPad, days_ago: float = 0.0
) -> PressureLook:
    """A map by strips at (n, 2) mm that pulled so, on a pad."""
    low, high = strip_bounds_mm(pad, pulls)
    return PressureLook(place_mm, low, high, np.full(len(pulls), STRIP_SD_MM), days_ago)


@dataclass(frozen=True)
class PressureRates:
    """How a closed press moves: standard deviations over a month of the fall from side to side and
    front to back (mm over the platen), of a hollow's depth and of the pad's unevenness (mm), each
    growing with the root of the time; and the chance that something new happens between two maps.

    Starting values: a frame keeps its level for a season, a silicone pad hollows by a few tenths
    in a year of daily work.
    """

    fall_mm: float = 0.08
    hollow_mm: float = 0.06
    rest_mm: float = 0.03
    new_chance: float = 0.12


@dataclass(frozen=True)
class Sites:
    """Where and in which look readings lie: places (N, 2) in mm, look (N,), days ago (N,); a look's
    number is its place in the list, today's −1.
    """

    place_mm: np.ndarray
    look: np.ndarray
    days_ago: np.ndarray
    pinch_mm: np.ndarray

    def expected_mm(self, size_mm: tuple[float, float], mean_mm: float) -> np.ndarray:
        """Compression (N,) in mm before any reading: the mean, and what another stack pinches."""
        back = self.place_mm[:, 1] / size_mm[1] - 0.5
        return np.asarray(mean_mm + self.pinch_mm * back)


def today(place_mm: np.ndarray) -> Sites:
    """Places (n, 2) in mm today."""
    none = np.zeros(len(place_mm))
    return Sites(place_mm, np.full(len(place_mm), -1), none, none)


def of_looks(looks: tuple[PressureLook, ...]) -> Sites:
    """All looks' places, the newest look's first. Raises ValueError without any."""
    if not looks:
        raise ValueError("There is nothing to remember.")
    count = [len(one.place_mm) for one in looks]
    number = np.repeat(np.arange(len(looks)), count)
    return Sites(
        np.vstack([one.place_mm for one in looks]),
        number,
        np.array([one.days_ago for one in looks])[number],
        np.array([one.pinch_mm for one in looks])[number],
    )


def covariance_mm2(
    a: Sites, b: Sites, size_mm: tuple[float, float], rates: PressureRates
) -> np.ndarray:
    """Covariance (N, M) in mm² between sites: what lasts, what has moved since as a walk in the
    months between, and the level and the pinch's error that one look's sites share.
    """
    left, right = trend(a.place_mm, size_mm), trend(b.place_mm, size_mm)
    rest = matern(a.place_mm, b.place_mm, rest_length_mm(size_mm))
    lasting = left[:, 1:] * SPREAD_MM[1:] ** 2 @ right[:, 1:].T + REST_MM**2 * rest
    steps = np.array([rates.fall_mm, rates.fall_mm, rates.hollow_mm]) ** 2
    moved = left[:, 1:] * steps @ right[:, 1:].T + rates.rest_mm**2 * rest
    months = np.minimum.outer(a.days_ago, b.days_ago) / DAYS_PER_MONTH
    same = a.look[:, None] == b.look
    pinched = PINCH_SHARE**2 * np.outer(a.pinch_mm * left[:, 2], b.pinch_mm * right[:, 2])
    return np.asarray(lasting + months * moved + same * (SPREAD_MM[0] ** 2 + pinched))
