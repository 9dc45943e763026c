"""What was known of a closed press before today's first strip.

One normal vector holds the compression at the sites of all maps. Strips bound it; expectation
propagation (metrology/map/censored.py) makes of each the normal observation that says the same, of
all earlier maps together.

A few strips miss many a change. So each may also have come with an earlier map that did not find
it (unfound.py): then it is in that map, in the later ones and in today.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from tempermark.core.metrology.map.censored import BoundedNormal, bounded_normal
from tempermark.core.metrology.memory.looks import PARTS_FROM
from tempermark.core.pressure.map.field import MEAN_MM
from tempermark.core.pressure.memory.changes import pressure_changes
from tempermark.core.pressure.memory.looks import (
    MOST_PRESSURE_LOOKS,
    Bounds,
    PressureLook,
    PressureRates,
    Sites,
    bounds_of,
    covariance_mm2,
)
from tempermark.core.pressure.memory.unfound import UnfoundChanges, unfound_by

# Bounds need no more digits than that, mm.
SETTLED_MM = 1e-3
# Less likely than this, a change that no map has found has no say.
LEAST_UNFOUND = 1e-3
# Of what is kept, and of its beliefs of what is not found, what is in arrays.
FOUND = ("log_chance", "inverse", "pull")
OF_UNFOUND = ("number", "look")


@dataclass(frozen=True, eq=False)
class KeptPressure:
    """What earlier maps tell before today's first strip, under each of V beliefs of what they have
    not found: log chances (V,), the first of nothing; `inverse` (V, N, N) and `pull` (V, N) carry
    the sites' normal observations to today.
    """

    size_mm: tuple[float, float]
    looks: tuple[PressureLook, ...]
    rates: PressureRates
    sites: Sites
    unfound: UnfoundChanges
    log_chance: np.ndarray
    inverse: np.ndarray
    pull: np.ndarray

    def today(self, here: Sites) -> tuple[np.ndarray, np.ndarray]:
        """Means (V, n) in mm and covariances (V, n, n) in mm² of the compression at n sites of
        today.
        """
        of = self.unfound
        course = of.course(here, self.size_mm)
        cross = self._with_past(here)
        mean = here.expected_mm(self.size_mm, MEAN_MM) + of.mean_mm[:, None] * course
        mean = mean + (cross @ self.pull[..., None])[..., 0]
        own = element_mm2(self.looks, here, here, self.size_mm, self.rates)
        own = own + of.variance_mm2(course, course)
        return mean, own - cross @ self.inverse @ np.swapaxes(cross, 1, 2)

    def strength(self, here: Sites) -> tuple[np.ndarray, np.ndarray]:
        """Expected strength (V,) in mm of each change that is not found, and its covariance (V, n)
        in mm² with the compression at n sites of today.
        """
        of = self.unfound
        before = of.course(self.sites, self.size_mm)
        variance = of.spread_mm[:, None] ** 2
        mean = of.mean_mm + (variance * before * self.pull).sum(axis=1)
        carried = (before[:, None, :] @ self.inverse) @ np.swapaxes(self._with_past(here), 1, 2)
        return mean, variance * (of.course(here, self.size_mm) - carried[:, 0])

    def _with_past(self, here: Sites) -> np.ndarray:
        """Covariance (V, n, N) in mm² of today's sites with the earlier ones."""
        cross = element_mm2(self.looks, here, self.sites, self.size_mm, self.rates)
        courses = (self.unfound.course(sites, self.size_mm) for sites in (here, self.sites))
        return np.asarray(cross + self.unfound.variance_mm2(*courses))


def keep_pressure(
    looks: list[PressureLook], size_mm: tuple[float, float], rates: PressureRates
) -> KeptPressure:
    """What the newest looks at a platen of a size in mm tell of it. Raises ValueError without."""
    newest = _newest(looks)
    bounds = bounds_of(newest)
    sites = bounds.sites
    unfound = unfound_by(newest)
    course = unfound.course(sites, size_mm)
    covariance = element_mm2(newest, sites, sites, size_mm, rates)
    covariance = covariance + unfound.variance_mm2(course, course)
    mean = sites.expected_mm(size_mm, MEAN_MM) + unfound.mean_mm[:, None] * course
    found = bounded_by(mean, covariance, bounds)
    log_chance = unfound.log_chance(found.log_chance, rates.new_chance)
    kept = log_chance >= np.log(LEAST_UNFOUND)
    kept[0] = True
    inverse = np.linalg.inv((covariance + noise_mm2(found))[kept])
    pull = (inverse @ (found.seen - mean)[kept][..., None])[..., 0]
    return KeptPressure(
        size_mm, newest, rates, sites, unfound.some(kept), log_chance[kept], inverse, pull
    )


def packed_pressure(kept: KeptPressure) -> dict[str, np.ndarray]:
    """What takes long to find of what is kept, as arrays with names for `unpacked_pressure`: the
    inverse in 1/mm², the pull in 1/mm, the rest unitless.
    """
    found = {name: getattr(kept, name) for name in FOUND}
    return found | {f"unfound_{name}": getattr(kept.unfound, name) for name in OF_UNFOUND}


def unpacked_pressure(
    arrays: Mapping[str, np.ndarray],
    looks: list[PressureLook],
    size_mm: tuple[float, float],
    rates: PressureRates,
) -> KeptPressure:
    """What `keep_pressure` gave of the same looks at a platen of a size in mm, from its arrays.
    Raises KeyError where one is missing, ValueError without any look.
    """
    newest = _newest(looks)
    unfound = UnfoundChanges(*(arrays[f"unfound_{name}"] for name in OF_UNFOUND))
    found = (arrays[name] for name in FOUND)
    return KeptPressure(size_mm, newest, rates, bounds_of(newest).sites, unfound, *found)


def _newest(looks: list[PressureLook]) -> tuple[PressureLook, ...]:
    """So many as are read, the newest first, back to the first at which all was new; those before
    are of another pad.
    """
    newest = sorted(looks, key=lambda one: one.days_ago)[:MOST_PRESSURE_LOOKS]
    for number, look in enumerate(newest):
        if look.change is not None and look.change.all_new >= PARTS_FROM:
            return tuple(newest[: number + 1])
    return tuple(newest)


def element_mm2(
    looks: tuple[PressureLook, ...],
    a: Sites,
    b: Sites,
    size_mm: tuple[float, float],
    rates: PressureRates,
) -> np.ndarray:
    """Covariance (N, M) in mm² between sites of a press, with what has happened to it: a change
    that a look found is in that look, in the later ones and in today, and not in those before it;
    where it came with an earlier one, in those since that too.
    """
    changes = pressure_changes()
    here, there = (sites.course(size_mm) for sites in (a, b))
    found = covariance_mm2(a, b, size_mm, rates)
    oldest = np.maximum.outer(a.look, b.look)
    for number, look in enumerate(looks):
        if look.change is not None and look.change.any >= PARTS_FROM:
            size = look.change.chance * (changes.mean_mm**2 + changes.spread_mm**2)
            both_after = sum(
                share * (oldest <= number + earlier)
                for earlier, share in enumerate(look.change.since)
            )
            found = found + both_after * ((here * size) @ there.T)
    return found


def bounded_by(mean: np.ndarray, covariance: np.ndarray, of: Bounds) -> BoundedNormal:
    """Means (..., n) in mm and covariances (..., n, n) in mm² once the bounds are known."""
    return bounded_normal(mean, covariance, of.low_mm, of.high_mm, of.sd_mm, SETTLED_MM)


def noise_mm2(found: BoundedNormal) -> np.ndarray:
    """Covariance (..., n, n) in mm² of the normal observations."""
    return np.asarray(np.eye(found.precision.shape[-1]) / found.precision[..., None, :])
