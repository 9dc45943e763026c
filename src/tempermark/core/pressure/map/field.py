"""The pressure map between stations: compression of the pad as a Gaussian process.

Over a plane (level) and a hollow in the middle lies a smooth rest; strips bound the compression at
their stations and are resolved by the same expectation propagation as indicator strips.
"""

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

from tempermark.core.metrology.map.censored import bounded_normal
from tempermark.core.metrology.map.field_prior import matern
from tempermark.core.metrology.map.usable import Grid
from tempermark.core.pressure.press.contact import CLASS_KPA
from tempermark.core.pressure.press.hand import STRIP_KPA
from tempermark.core.pressure.press.spring import SpringPad

# What is believed of a closed press before any strip, mm of compression: its level, the tilt over
# the whole platen each way, a hollow in the middle, and the pad's own unevenness. Starting values.
MEAN_MM = 1.3
SPREAD_MM = np.array([1.0, 0.9, 0.9, 0.6])
REST_MM = 0.2
LENGTH_SHARE = 0.35
HOLLOW_SHARE = 0.28
# Strips of one survey, pulled by one arm: their bounds differ by this at a place, mm.
STRIP_SD_MM = 0.15
# Prints are on a coarser lattice than temperature maps: pressure is smooth.
GRID_CELLS = (30, 38)


@dataclass(frozen=True)
class PressureMap:
    """Compression over the platen: mean and standard deviation (rows, columns) in mm."""

    grid: Grid
    pad: SpringPad
    compression_mm: np.ndarray
    sd_mm: np.ndarray

    @property
    def contact_kpa(self) -> np.ndarray:
        """Contact pressure at the mean, (rows, columns) in kPa."""
        return np.asarray(self.pad.pressure_kpa(self.compression_mm))

    def chance_between(self, low_kpa: float, high_kpa: float) -> np.ndarray:
        """Chance (rows, columns), 0–1, that the pressure lies between two in kPa, cell by cell."""
        low, high = self.pad.compression_mm(low_kpa), self.pad.compression_mm(high_kpa)
        return np.asarray(
            ndtr((high - self.compression_mm) / self.sd_mm)
            - ndtr((low - self.compression_mm) / self.sd_mm)
        )

    def usable(self, pressure_class: str) -> np.ndarray:
        """Cells (rows, columns) whose likeliest pressure in kPa lies in a class."""
        low, high = CLASS_KPA[pressure_class]
        contact = self.contact_kpa
        return (contact >= low) & (contact <= high)

    def at(self, place_mm: np.ndarray) -> np.ndarray:
        """Contact pressure (n,) in kPa at places (n, 2) in mm: of the cell they lie in."""
        grid = self.grid
        column = np.clip((place_mm[:, 0] / grid.width_mm * grid.columns).astype(int), 0, None)
        row = np.clip((place_mm[:, 1] / grid.height_mm * grid.rows).astype(int), 0, None)
        return np.asarray(
            self.contact_kpa[np.minimum(row, grid.rows - 1), np.minimum(column, grid.columns - 1)]
        )


def strip_bounds_mm(pad: SpringPad, pulls: list[str]) -> tuple[np.ndarray, np.ndarray]:
    """Compressions (n,) in mm between which strips that behaved so lie; ±inf leaves a side open."""
    low = np.array([pad.compression_mm(STRIP_KPA[p][0]) if p != "free" else -np.inf for p in pulls])
    high = np.array(
        [pad.compression_mm(STRIP_KPA[p][1]) if p != "tears" else np.inf for p in pulls]
    )
    return low, high


@dataclass(frozen=True)
class ResolvedPulls:
    """The map, and the plane through it: mm more at the right than left, back than front."""

    map: PressureMap
    mean_mm: float
    mean_sd_mm: float
    right_mm: float
    right_sd_mm: float
    back_mm: float
    back_sd_mm: float
    hollow_mm: float
    hollow_sd_mm: float


def map_strips(
    place_mm: np.ndarray,
    pulls: list[str],
    pad: SpringPad,
    size_mm: tuple[float, float],
) -> ResolvedPulls:
    """The pressure map from strips at (n, 2) mm that pulled `free`, `drags`, `holds` or `tears`."""
    low, high = strip_bounds_mm(pad, pulls)
    grid = Grid(*size_mm, *GRID_CELLS)
    seen_basis, there_basis = trend(place_mm, size_mm), trend(grid.places_mm, size_mm)
    mean = np.full(len(place_mm), MEAN_MM)
    covariance = _covariance(place_mm, place_mm, size_mm)
    found = bounded_normal(mean, covariance, low, high, STRIP_SD_MM)
    inner = covariance + np.diag(1 / found.precision)
    cross = _covariance(grid.places_mm, place_mm, size_mm)
    weights = np.linalg.solve(inner, cross.T).T
    moved = MEAN_MM + weights @ (found.seen - mean)
    before = REST_MM**2 + ((there_basis * SPREAD_MM) ** 2).sum(axis=1)
    variance = np.maximum(before - (weights * cross).sum(axis=1), 1e-6)
    # The coefficients of plane and hollow are parts of the same normal vector.
    coefficient_cross = (seen_basis * SPREAD_MM**2).T
    gain = np.linalg.solve(inner, coefficient_cross.T).T
    coefficient = gain @ (found.seen - mean)
    sd = np.sqrt(np.maximum(SPREAD_MM**2 - (gain * coefficient_cross).sum(axis=1), 0.0))
    return ResolvedPulls(
        PressureMap(grid, pad, grid.shaped(moved), grid.shaped(np.sqrt(variance))),
        mean_mm=float(moved.mean()),
        mean_sd_mm=float(sd[0]),
        right_mm=float(coefficient[1]),
        right_sd_mm=float(sd[1]),
        back_mm=float(coefficient[2]),
        back_sd_mm=float(sd[2]),
        hollow_mm=float(-coefficient[3]),
        hollow_sd_mm=float(sd[3]),
    )


def trend(place_mm: np.ndarray, size_mm: tuple[float, float]) -> np.ndarray:
    """Columns of the trend (n, 4) at places (n, 2) in mm: one, right, back, and a hollow's shape
    in the middle.
    """
    away = place_mm / np.array(size_mm) - 0.5
    hollow = np.exp(-((away / HOLLOW_SHARE) ** 2).sum(axis=1))
    return np.column_stack([np.ones(len(away)), away, hollow])


def rest_length_mm(size_mm: tuple[float, float]) -> tuple[float, float]:
    """Over which lengths each way, mm, the pad's own unevenness is alike."""
    return LENGTH_SHARE * size_mm[0], LENGTH_SHARE * size_mm[1]


def _covariance(a: np.ndarray, b: np.ndarray, size_mm: tuple[float, float]) -> np.ndarray:
    lasting = (trend(a, size_mm) * SPREAD_MM**2) @ trend(b, size_mm).T
    return np.asarray(lasting + REST_MM**2 * matern(a, b, rest_length_mm(size_mm)))
