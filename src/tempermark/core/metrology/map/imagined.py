"""Random plausible platens: for simulations, benchmarks and practice.

A platen's true deviation from target is a sum of what technicians find on real ones
(handbook 1 §2): an offset, a tilt, cooler margins, sometimes a heater band that is weak,
sometimes a hot spot. Lengths in mm, temperatures in K.
"""

from dataclasses import dataclass

import numpy as np

from tempermark.core.metrology.map.field_prior import BAND_CHANCE, SPOT_CHANCE

# Typical sizes: standard deviations, ranges and chances of each component.
OFFSET_SPREAD_C = 2.0
TILT_SPREAD_C_PER_100MM = 0.4
MARGIN_DEPTH_C = (0.0, 4.0)
MARGIN_REACH_MM = (15.0, 45.0)
BAND_DEPTH_C, BAND_WIDTH_MM = (2.0, 10.0), (50.0, 100.0)
SPOT_HEIGHT_C, SPOT_RADIUS_MM = (2.0, 8.0), (50.0, 100.0)


@dataclass(frozen=True)
class ImaginedPlaten:
    """A platen whose deviation is known everywhere."""

    width_mm: float
    height_mm: float
    offset_c: float
    tilt_c_per_mm: np.ndarray
    margin_depth_c: np.ndarray
    margin_reach_mm: float
    band: tuple[int, float, float, float] | None
    spot: tuple[float, float, float, float] | None

    def deviation_c(self, place_mm: np.ndarray) -> np.ndarray:
        """True deviation (n,) in K at places (n, 2) in mm."""
        size = np.array([self.width_mm, self.height_mm])
        value = self.offset_c + (place_mm - size / 2) @ self.tilt_c_per_mm
        to_rim = np.column_stack([place_mm, size - place_mm])
        value = value - np.exp(-to_rim / self.margin_reach_mm) @ self.margin_depth_c
        if self.band:
            axis, at, width, depth = self.band
            value = value - depth * np.exp(-0.5 * ((place_mm[:, axis] - at) / (width / 2)) ** 2)
        if self.spot:
            x, y, radius, height = self.spot
            away = ((place_mm - [x, y]) ** 2).sum(axis=1)
            value = value + height * np.exp(-0.5 * away / (radius / 2) ** 2)
        return np.asarray(value)

    def extremes_c(self, lines: int = 121) -> tuple[float, float]:
        """Lowest and highest true deviation in K over a dense grid, rims included."""
        x = np.linspace(0, self.width_mm, lines)
        y = np.linspace(0, self.height_mm, lines)
        value = self.deviation_c(np.column_stack([a.ravel() for a in np.meshgrid(x, y)]))
        return float(value.min()), float(value.max())


def imagine(width_mm: float, height_mm: float, rng: np.random.Generator) -> ImaginedPlaten:
    """A random platen of this size in mm; deviations in K."""
    size = (width_mm, height_mm)
    band = spot = None
    if rng.random() < BAND_CHANCE:
        axis = int(rng.integers(2))
        at = float(rng.uniform(0.1, 0.9) * size[axis])
        band = (axis, at, float(rng.uniform(*BAND_WIDTH_MM)), float(rng.uniform(*BAND_DEPTH_C)))
    if rng.random() < SPOT_CHANCE:
        x, y = (float(rng.uniform(0.1, 0.9) * s) for s in size)
        spot = (x, y, float(rng.uniform(*SPOT_RADIUS_MM)), float(rng.uniform(*SPOT_HEIGHT_C)))
    depth = rng.uniform(*MARGIN_DEPTH_C) * rng.uniform(0.5, 1.5, 4)
    return ImaginedPlaten(
        width_mm,
        height_mm,
        offset_c=float(OFFSET_SPREAD_C * rng.standard_normal()),
        tilt_c_per_mm=TILT_SPREAD_C_PER_100MM / 100 * rng.standard_normal(2),
        margin_depth_c=depth,
        margin_reach_mm=float(rng.uniform(*MARGIN_REACH_MM)),
        band=band,
        spot=spot,
    )
