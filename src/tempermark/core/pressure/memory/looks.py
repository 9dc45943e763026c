"""One pressure map as the memory takes it, and how far it moves in the time between.

Compression of the pad in mm, times in days before today. Its level is set anew for each stack and
says nothing of the next; tilt, hollow and the pad's unevenness last. One arm pulls a map's strips:
where its bounds are higher, they are for all of them, and most for those that tear.
"""

from collections.abc import Sequence
from dataclasses import dataclass, fields

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
from tempermark.core.pressure.memory.changes import pressure_changes
from tempermark.core.pressure.press.hand import STRIP_SD_SHARE
from tempermark.core.pressure.press.spring import SpringPad

# Further back than this many maps nothing is read: the newest tell the shape.
MOST_PRESSURE_LOOKS = 4
# Bounds move evenly with an arm within so many of its standard deviations; beyond, a weak one's
# would all lie at nothing, and strips that contradict one another would be as before.
MOST_ARM, ARM_EDGE = 2.0, 0.2
# What is computed of a hinged press's pinch is right to this share. Starting value.
PINCH_SHARE = 0.3


@dataclass(frozen=True)
class PressureLook:
    """A map's strips or cells of its print: places (n, 2) in mm, the compressions (n,) in mm
    between which each lay (equal: a figure) and its standard deviation (n,) in mm; how long ago.

    `pinch_mm`: how much more the back was compressed than today, by another stack in a hinged
    press. `change` is what was new then, None for nothing that was looked for. `arm_mm` (2, n): how
    much higher, in mm, the bounds below and above lie for an arm that is one standard deviation
    stronger; None where no arm pulled.
    """

    place_mm: np.ndarray
    low_mm: np.ndarray
    high_mm: np.ndarray
    sd_mm: np.ndarray
    days_ago: float
    pinch_mm: float = 0.0
    change: FoundChanges | None = None
    arm_mm: np.ndarray | None = None


def strips_look(
    place_mm: np.ndarray, pulls: list[str], pad: SpringPad, days_ago: float = 0.0
) -> PressureLook:
    """A map by strips at (n, 2) mm that pulled so, on a pad."""
    low, high = strip_bounds_mm(pad, pulls)
    arm = np.array([arm_mm(pad, low), arm_mm(pad, high)])
    sd = np.full(len(pulls), STRIP_SD_MM)
    return PressureLook(place_mm, low, high, sd, days_ago, arm_mm=arm)


def arm_mm(pad: SpringPad, bound_mm: np.ndarray) -> np.ndarray:
    """By how much bounds (n,) in mm on a pad move with an arm that is one standard deviation
    stronger (`STRIP_SD_SHARE` in kPa), (n,) in mm; none where there is no bound.
    """
    kpa = pad.pressure_kpa(np.where(np.isfinite(bound_mm), bound_mm, 0.0))
    stronger, weaker = (
        pad.compression_mm(kpa * np.exp(way * STRIP_SD_SHARE)) for way in (1.0, -1.0)
    )
    return np.asarray((stronger - weaker) / 2)


@dataclass(frozen=True)
class PressureRates:
    """How a closed press moves: standard deviations over a month of the fall from side to side and
    front to back (mm over the platen), of a hollow's depth and of the pad's unevenness (mm), each
    growing with the root of the time; and the chance that something new happens between two maps.

    Starting values: a frame keeps its level for a season, a silicone pad hollows by a few tenths
    in a year of daily work.

    `kind_level_mm` (mm), `kind_fall_mm` (mm over the platen) and `kind_hollow_mm` (mm deep) are
    standard deviations too: how far levels, falls and hollows of presses of its kind lie from what
    is expected. The defaults are those of a map that knows no other press.
    """

    fall_mm: float = 0.08
    hollow_mm: float = 0.06
    rest_mm: float = 0.03
    new_chance: float = 0.12
    kind_level_mm: float = float(SPREAD_MM[0])
    kind_fall_mm: float = float(SPREAD_MM[1])
    kind_hollow_mm: float = float(SPREAD_MM[3])


@dataclass(frozen=True)
class Sites:
    """Where and in which look bounds lie: places (N, 2) in mm, look (N,), days ago (N,); a look's
    number is its place in the list, today's −1. `pinch_mm` and `arm_mm` (N,) as in `PressureLook`.
    `pressed` (N,) is 1, but 0 for the arm of a look by itself, in its standard deviations.
    """

    place_mm: np.ndarray
    look: np.ndarray
    days_ago: np.ndarray
    pinch_mm: np.ndarray
    arm_mm: np.ndarray
    pressed: np.ndarray

    def expected_mm(self, size_mm: tuple[float, float], mean_mm: float) -> np.ndarray:
        """Compression (N,) in mm before any reading: the mean, and what another stack pinches."""
        back = self.place_mm[:, 1] / size_mm[1] - 0.5
        return np.asarray(self.pressed * (mean_mm + self.pinch_mm * back))

    def trend(self, size_mm: tuple[float, float]) -> np.ndarray:
        """Columns (N, 4) of level, falls and hollow (map/field.py), mm for each mm of theirs."""
        return np.asarray(self.pressed[:, None] * trend(self.place_mm, size_mm))

    def course(self, size_mm: tuple[float, float]) -> np.ndarray:
        """Each change's course (N, J): what a strength of 1 mm adds, in mm."""
        found = pressure_changes().course(self.place_mm, size_mm)
        return np.asarray(self.pressed[:, None] * found)

    def beside(self, others: "Sites") -> "Sites":
        """These (N) and then others (M), with their places in mm."""
        names = (of.name for of in fields(self))
        both = ((getattr(self, name), getattr(others, name)) for name in names)
        return Sites(*(np.concatenate(parts) for parts in both))


TODAY = -1


def today(place_mm: np.ndarray, arm_mm: np.ndarray | None = None) -> Sites:
    """Places (n, 2) in mm today; of bounds there that move so with the arm (n,), in mm."""
    none = np.zeros(len(place_mm))
    arm = none if arm_mm is None else arm_mm
    return Sites(place_mm, np.full(len(place_mm), TODAY), none, none, arm, none + 1.0)


@dataclass(frozen=True)
class Bounds:
    """What looks tell of the compression at N sites: between `low_mm` and `high_mm` (N,), with the
    standard deviation `sd_mm` (N,). A strip between two bounds is two of them, for an arm does not
    move both alike; the arm's own are the last of its look, in its standard deviations.
    """

    sites: Sites
    low_mm: np.ndarray
    high_mm: np.ndarray
    sd_mm: np.ndarray


def bounds_of(looks: Sequence[PressureLook], first: int = 0) -> Bounds:
    """All looks' bounds in mm, those of the first, whose number is given, first. Raises ValueError
    without any.
    """
    if not looks:
        raise ValueError("There is nothing to remember.")
    parts = [_of_look(look, first + number) for number, look in enumerate(looks)]
    sites = parts[0].sites
    for part in parts[1:]:
        sites = sites.beside(part.sites)
    of_all = (
        np.concatenate([getattr(part, name) for part in parts])
        for name in ("low_mm", "high_mm", "sd_mm")
    )
    return Bounds(sites, *of_all)


def _of_look(look: PressureLook, number: int) -> Bounds:
    count = len(look.low_mm)
    if look.arm_mm is None or not count:
        sites = _sites(look, number, np.arange(count), np.zeros(count), np.ones(count))
        return Bounds(sites, look.low_mm, look.high_mm, look.sd_mm)
    below, above = (np.flatnonzero(np.isfinite(of)) for of in (look.low_mm, look.high_mm))
    at = np.concatenate([below, above, [0]])
    arm = np.concatenate([look.arm_mm[0, below], look.arm_mm[1, above], [1.0]])
    pressed = np.append(np.ones(len(at) - 1), 0.0)
    return Bounds(
        _sites(look, number, at, arm, pressed),
        np.concatenate([look.low_mm[below], np.full(len(above), -np.inf), [-MOST_ARM]]),
        np.concatenate([np.full(len(below), np.inf), look.high_mm[above], [MOST_ARM]]),
        np.append(look.sd_mm[at[:-1]], ARM_EDGE),
    )


def _sites(
    look: PressureLook, number: int, at: np.ndarray, arm: np.ndarray, pressed: np.ndarray
) -> Sites:
    even = np.ones(len(at))
    return Sites(
        look.place_mm[at],
        np.full(len(at), number),
        look.days_ago * even,
        look.pinch_mm * even,
        arm,
        pressed,
    )


def covariance_mm2(
    a: Sites, b: Sites, size_mm: tuple[float, float], rates: PressureRates
) -> np.ndarray:
    """Covariance (N, M) in mm² between sites: what lasts, what has moved since as a walk in the
    months between, and the level, the pinch's error and the arm that one look's sites share.
    """
    left, right = a.trend(size_mm), b.trend(size_mm)
    pressed = np.outer(a.pressed, b.pressed)
    rest = pressed * matern(a.place_mm, b.place_mm, rest_length_mm(size_mm))
    spread = np.array([rates.kind_fall_mm, rates.kind_fall_mm, rates.kind_hollow_mm])
    lasting = left[:, 1:] * spread**2 @ right[:, 1:].T + REST_MM**2 * rest
    steps = np.array([rates.fall_mm, rates.fall_mm, rates.hollow_mm]) ** 2
    moved = left[:, 1:] * steps @ right[:, 1:].T + rates.rest_mm**2 * rest
    months = np.minimum.outer(a.days_ago, b.days_ago) / DAYS_PER_MONTH
    same = a.look[:, None] == b.look
    pinched = PINCH_SHARE**2 * np.outer(a.pinch_mm * left[:, 2], b.pinch_mm * right[:, 2])
    # A bound that an arm moves up is a compression that lies as much lower against it.
    pulled = np.outer(a.arm_mm, b.arm_mm)
    level = rates.kind_level_mm**2 * pressed
    return np.asarray(lasting + months * moved + same * (level + pinched + pulled))
