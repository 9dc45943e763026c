"""What is believed about platens before any reading: the parts a map is made of.

A platen's deviation is a plane, cooler margins, a smooth rest (Matérn 5/2, a length for each
axis) and at most one local fault: a heater band or a spot (handbook 1 §2, handbook 3 "Map").
The lengths, size and noise of the smooth rest are not known: a small set of them is
carried along, each weighed by how well it explains the readings. Lengths in mm,
temperatures in K.
"""

from dataclasses import dataclass
from functools import lru_cache
from itertools import product

import numpy as np

SQRT5 = 5**0.5
# The plane: its level is free, its fall is a few K over a platen.
LEVEL_SPREAD_C = 100.0
SLOPE_SPREAD_C_PER_100MM = 1.5
# Margins: how deep the rims lie below the inside, together and each on its own, and how far in
# that reaches. Rims of one platen are much alike.
MARGIN_MEAN_C, MARGIN_SPREAD_C, RIM_SPREAD_C = -1.9, 1.2, 0.7
MARGIN_REACH_MM = (20.0, 40.0)
# The smooth rest: lengths within 50–400 mm, sizes from even to badly uneven.
LENGTHS_MM = ((130.0, 130.0), (120.0, 350.0), (350.0, 120.0))
AMPLITUDES_C = ((0.1, 0.4), (0.4, 0.25), (1.0, 0.2), (3.0, 0.15))
NOISE_FACTORS = ((1.0, 0.7), (1.6, 0.3))
NOISE_FLOOR_C = 0.02
# Local faults: how often, how strong, how wide (standard deviation of their course). A cast
# aluminium platen spreads heat sideways, so that nothing much narrower than this can last.
BAND_CHANCE = SPOT_CHANCE = 0.15
FAULT_SPREAD_C = 5.0
FAULT_WIDTH_MM = 30.0
FAULT_STEP_MM = 45.0
MOST_FAULT_STEPS = 14
# The readings of several surveys tell better where a fault lies and how far it reaches: of those
# that are remembered the places lie closer together, and their course is that of a band of 50 to
# 100 mm (standard deviations of 25 to 50). A single map tells a band by its middle, little by its
# sides.
CLOSE_STEP_MM, CLOSE_WIDTH_MM = 30.0, 36.0
MOST_CLOSE_STEPS = 18


@dataclass(frozen=True)
class SmoothRest:
    """One belief about the smooth rest, the margins' reach and the noise, with its chance."""

    length_mm: tuple[float, float]
    amplitude_c: float
    noise_factor: float
    margin_reach_mm: float
    chance: float


@lru_cache(maxsize=1)
def smooth_rests() -> tuple[SmoothRest, ...]:
    """All beliefs that are weighed; their chances sum to 1."""
    found = product(LENGTHS_MM, AMPLITUDES_C, NOISE_FACTORS, MARGIN_REACH_MM)
    share = 1 / (len(LENGTHS_MM) * len(MARGIN_REACH_MM))
    return tuple(
        SmoothRest(length, size, noise, reach, share * size_chance * noise_chance)
        for length, (size, size_chance), (noise, noise_chance), reach in found
    )


def basis(place_mm: np.ndarray, size_mm: np.ndarray, reach_mm: float) -> np.ndarray:
    """Plane and margins (n, 8), unitless, at places (n, 2) in mm: level, two slopes, all rims,
    each.
    """
    plane = (place_mm - size_mm / 2) / 100.0
    to_rim = np.column_stack([place_mm, size_mm - place_mm])
    rims = np.exp(-to_rim / reach_mm)
    return np.column_stack([np.ones(len(place_mm)), plane, rims.sum(axis=1), rims])


BASIS_MEAN = np.array([0.0, 0.0, 0.0, MARGIN_MEAN_C, *[0.0] * 4])
BASIS_SPREAD = np.array(
    [
        LEVEL_SPREAD_C,
        *[SLOPE_SPREAD_C_PER_100MM] * 2,
        MARGIN_SPREAD_C,
        *[RIM_SPREAD_C] * 4,
    ]
)


def matern(a: np.ndarray, b: np.ndarray, length_mm: tuple[float, float]) -> np.ndarray:
    """Matérn 5/2 correlation (n, m), 0–1, between places (n, 2) and (m, 2) in mm."""
    across = np.subtract.outer(a[:, 0], b[:, 0]) / length_mm[0]
    along = np.subtract.outer(a[:, 1], b[:, 1]) / length_mm[1]
    scaled = across**2 + along**2
    r = SQRT5 * np.sqrt(scaled)
    return np.asarray((1 + r + 5 / 3 * scaled) * np.exp(-r))


@dataclass(frozen=True)
class LocalFaults:
    """Bands across, bands along and spots on a lattice; a platen has one of them at most.

    `x_mm` (a,) and `y_mm` (b,) are the lattice; faults are numbered bands at each x, bands
    at each y, then spots, J = a + b + a·b. Their course is `course_mm` wide (a standard deviation).
    """

    x_mm: np.ndarray
    y_mm: np.ndarray
    course_mm: float = FAULT_WIDTH_MM

    @property
    def chance(self) -> np.ndarray:
        """Chance (J,), 0–1, of each before any reading."""
        across, along = len(self.x_mm), len(self.y_mm)
        return np.concatenate(
            [
                np.full(across, BAND_CHANCE / 2 / across),
                np.full(along, BAND_CHANCE / 2 / along),
                np.full(across * along, SPOT_CHANCE / (across * along)),
            ]
        )

    def shape(self, place_mm: np.ndarray) -> np.ndarray:
        """Each fault's course (n, J), 1 at its centre, at places (n, 2) in mm."""
        across = self._bump(place_mm[:, :1] - self.x_mm)
        along = self._bump(place_mm[:, 1:] - self.y_mm)
        spots = (across[:, :, None] * along[:, None, :]).reshape(len(place_mm), -1)
        return np.concatenate([across, along, spots], axis=1)

    def one(self, fault: int, place_mm: np.ndarray) -> np.ndarray:
        """The course (n,) of one fault at places (n, 2) in mm, as `shape` has it."""
        across, along = len(self.x_mm), len(self.y_mm)
        if fault < across:
            return self._bump(place_mm[:, 0] - self.x_mm[fault])
        if fault < across + along:
            return self._bump(place_mm[:, 1] - self.y_mm[fault - across])
        x, y = divmod(fault - across - along, along)
        return np.asarray(
            self._bump(place_mm[:, 0] - self.x_mm[x]) * self._bump(place_mm[:, 1] - self.y_mm[y])
        )

    def _bump(self, away_mm: np.ndarray) -> np.ndarray:
        return np.asarray(np.exp(-0.5 * (away_mm / self.course_mm) ** 2))


def local_faults(width_mm: float, height_mm: float) -> LocalFaults:
    """The lattice of faults over a platen, in mm, for the readings of one survey."""
    step, most = FAULT_STEP_MM, MOST_FAULT_STEPS
    return LocalFaults(_lattice(width_mm, step, most), _lattice(height_mm, step, most))


def close_faults(width_mm: float, height_mm: float) -> LocalFaults:
    """The closer lattice of faults over a platen, in mm, for the readings of several surveys."""
    x_mm, y_mm = (
        _lattice(size_mm, CLOSE_STEP_MM, MOST_CLOSE_STEPS) for size_mm in (width_mm, height_mm)
    )
    return LocalFaults(x_mm, y_mm, CLOSE_WIDTH_MM)


def _lattice(size_mm: float, step_mm: float, most: int) -> np.ndarray:
    steps = int(np.clip(np.ceil(size_mm / step_mm), 1, most))
    return (np.arange(steps) + 0.5) * size_mm / steps
