"""Random plausible histories of platens: for simulations, benchmarks and practice.

A platen of map/imagined.py whose level drifts, whose fall creeps, and to which from time to time
something happens that stays: a heater band weakens, a corner goes cold. It is read with one of two
guns whose errors stay theirs. Lengths in mm, temperatures in K.
"""

from dataclasses import dataclass

import numpy as np

from tempermark.core.metrology.map.imagined import ImaginedPlaten, imagine

LEVEL_STEP_C, FALL_STEP_C_PER_100MM = 0.6, 0.06
FAULT_CHANCE, CORNER_CHANCE = 0.2, 0.4
FAULT_DEPTH_C = (2.0, 10.0)
# A dead heater of four to six leaves a band as wide as their pitch on a platen of half a metre.
BAND_WIDTH_MM, CORNER_REACH_MM = (80.0, 125.0), (60.0, 100.0)
GUN_COMMON_C, GUNS = 0.5, ("A", "B")
INTERVAL_DAYS = 30.44


@dataclass(frozen=True)
class ImaginedFault:
    """Something that has happened: a band across (axis 0) or along (1) at a place, or a corner
    (axis −1) at (x, y); how wide, and by how much it is colder, K.
    """

    axis: int
    at_mm: np.ndarray
    width_mm: float
    depth_c: float

    def deviation_c(self, place_mm: np.ndarray) -> np.ndarray:
        """What it takes from the temperature (n,), K."""
        if self.axis >= 0:
            away = ((place_mm[:, self.axis] - self.at_mm[self.axis]) / (self.width_mm / 2)) ** 2
        else:
            away = (((place_mm - self.at_mm) / self.width_mm) ** 2).sum(axis=1)
        return np.asarray(-self.depth_c * np.exp(-0.5 * away))


@dataclass(frozen=True)
class ImaginedState:
    """A platen at one survey: its shape, what it has moved by since, what has happened to it so
    far, whether something new has, and the gun that it is read with and its error in K.
    """

    platen: ImaginedPlaten
    level_c: float
    fall_c_per_mm: np.ndarray
    faults: tuple[ImaginedFault, ...]
    new: ImaginedFault | None
    gun: str
    gun_error_c: float

    def deviation_c(self, place_mm: np.ndarray) -> np.ndarray:
        """True deviation (n,) in K at places (n, 2) in mm."""
        size = np.array([self.platen.width_mm, self.platen.height_mm])
        value = self.platen.deviation_c(place_mm) + self.level_c
        value = value + (place_mm - size / 2) @ self.fall_c_per_mm
        for fault in self.faults:
            value = value + fault.deviation_c(place_mm)
        return np.asarray(value)

    def extremes_c(self, lines: int = 81) -> tuple[float, float]:
        """Lowest and highest true deviation in K over a dense grid, rims included."""
        x = np.linspace(0, self.platen.width_mm, lines)
        y = np.linspace(0, self.platen.height_mm, lines)
        value = self.deviation_c(np.column_stack([a.ravel() for a in np.meshgrid(x, y)]))
        return float(value.min()), float(value.max())


def imagine_history(
    width_mm: float, height_mm: float, surveys: int, rng: np.random.Generator
) -> list[ImaginedState]:
    """A random platen of this size in mm at so many surveys, a month apart."""
    size = np.array([width_mm, height_mm])
    platen = imagine(width_mm, height_mm, rng)
    errors = dict(zip(GUNS, GUN_COMMON_C * rng.standard_normal(len(GUNS)), strict=True))
    level, fall, faults = 0.0, np.zeros(2), []
    found = []
    for number in range(surveys):
        new = None
        if number:
            level += LEVEL_STEP_C * rng.standard_normal()
            fall = fall + FALL_STEP_C_PER_100MM / 100 * rng.standard_normal(2)
            if rng.random() < FAULT_CHANCE:
                new = imagine_fault(size, rng)
                faults.append(new)
        gun = GUNS[int(rng.random() < 0.3)]
        state = ImaginedState(
            platen, float(level), fall, tuple(faults), new, gun, float(errors[gun])
        )
        found.append(state)
    return found


def imagine_fault(size_mm: np.ndarray, rng: np.random.Generator) -> ImaginedFault:
    """A random fault of a platen of a size (2,) in mm, as often and as deep as they are."""
    depth = float(rng.uniform(*FAULT_DEPTH_C))
    if rng.random() < CORNER_CHANCE:
        corner = size_mm * rng.integers(0, 2, 2)
        return ImaginedFault(-1, corner, float(rng.uniform(*CORNER_REACH_MM)), depth)
    axis = int(rng.integers(2))
    at = rng.uniform(0.05, 0.95) * size_mm
    return ImaginedFault(axis, at, float(rng.uniform(*BAND_WIDTH_MM)), depth)
