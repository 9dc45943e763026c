"""A closed press today, from its earlier maps and today's strips: as it was, or what is new.

One normal vector holds the compression at the sites of all maps and of today. Strips bound it;
expectation propagation (metrology/map/censored.py) makes of each the normal observation that
says the same, first of the earlier maps' together, then of today's under each of the changes.

A few strips miss many a change. So each may also have come with an earlier map that did not find
it (unfound.py): then it is in that map, in the later ones and in today.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.interpolate import RectBivariateSpline
from scipy.special import ndtr

from tempermark.core.metrology.map.censored import BoundedNormal, bounded_normal
from tempermark.core.metrology.map.usable import Grid
from tempermark.core.metrology.memory.looks import PARTS_FROM, FoundChanges
from tempermark.core.metrology.memory.naming import NAMED_FROM
from tempermark.core.pressure.map.field import (
    GRID_CELLS,
    MEAN_MM,
    STRIP_SD_MM,
    PressureMap,
    ResolvedPulls,
    strip_bounds_mm,
    trend,
)
from tempermark.core.pressure.map.pulls import PULL_STEPS
from tempermark.core.pressure.memory.changes import pressure_changes
from tempermark.core.pressure.memory.looks import (
    MOST_PRESSURE_LOOKS,
    TODAY,
    Bounds,
    PressureLook,
    PressureRates,
    Sites,
    arm_mm,
    bounds_of,
    covariance_mm2,
    today,
)
from tempermark.core.pressure.memory.unfound import UnfoundChanges, unfound_by
from tempermark.core.pressure.press.spring import SpringPad

# Bounds need no more digits than that, mm.
SETTLED_MM = 1e-3
# Less likely than this, a change that no map has found has no say.
LEAST_UNFOUND = 1e-3
# So many lines each way are computed of a map; hollows are three of them wide.
LINES, LEAST_VARIANCE_MM2 = 12, 1e-6
PULLS = tuple(PULL_STEPS)


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
    newest = _since_all_new(sorted(looks, key=lambda one: one.days_ago)[:MOST_PRESSURE_LOOKS])
    bounds = bounds_of(newest)
    sites = bounds.sites
    unfound = unfound_by(newest)
    course = unfound.course(sites, size_mm)
    covariance = element_mm2(newest, sites, sites, size_mm, rates)
    covariance = covariance + unfound.variance_mm2(course, course)
    mean = sites.expected_mm(size_mm, MEAN_MM) + unfound.mean_mm[:, None] * course
    found = _bounded(mean, covariance, bounds)
    log_chance = unfound.log_chance(found.log_chance, rates.new_chance)
    kept = log_chance >= np.log(LEAST_UNFOUND)
    kept[0] = True
    inverse = np.linalg.inv((covariance + _noise(found))[kept])
    pull = (inverse @ (found.seen - mean)[kept][..., None])[..., 0]
    return KeptPressure(
        size_mm, newest, rates, sites, unfound.some(kept), log_chance[kept], inverse, pull
    )


def _since_all_new(looks: list[PressureLook]) -> tuple[PressureLook, ...]:
    """The looks back to the first at which all was new; those before are of another pad."""
    for number, look in enumerate(looks):
        if look.change is not None and look.change.all_new >= PARTS_FROM:
            return tuple(looks[: number + 1])
    return tuple(looks)


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


@dataclass(frozen=True, eq=False)
class RecalledPressure:
    """The closed press after today's strips, whose n bounds lie at `now`; n may be 0.

    `weight` (V + J + 1,) are the chances that nothing is new, of each change that came with an
    earlier map and was not found, of each that came since, and that all is new: the H hypotheses.
    `missed_mm` (H, n) is what the bounds' normal observations lack of what each
    expected, `inverse` (H, n, n) that of their covariance; `strength_mm` (J,) how strong each
    change is, in mm, if it is the one.
    """

    kept: KeptPressure
    pad: SpringPad
    now: Sites
    weight: np.ndarray
    missed_mm: np.ndarray
    inverse: np.ndarray
    strength_mm: np.ndarray

    @property
    def unchanged(self) -> float:
        """The chance that nothing new has happened."""
        return float(self.weight[0])

    @property
    def change(self) -> FoundChanges:
        """What may be new, and since when."""
        of, count = self.kept.unfound, len(self.strength_mm)
        earlier, fresh = self.weight[1 : len(of.number)], self.weight[len(of.number) : -1]
        chance = fresh + np.bincount(of.number[1:], earlier, count)
        since = np.append(fresh.sum(), np.bincount(of.look[1:], earlier, len(self.kept.looks)))
        shares = since / max(float(chance.sum()), 1e-300)
        return FoundChanges(chance, float(self.weight[-1]), tuple(map(float, shares)))

    @property
    def is_named(self) -> bool:
        """Whether one of the changes, or that all is new, stands out of what may have happened."""
        change = self.change
        return max(float(change.chance.max()), change.all_new) >= NAMED_FROM * (1 - self.unchanged)

    def moments(self, place_mm: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Mean (m,) in mm and covariance (m, m) in mm² of the compression at places (m, 2), over
        all that may have happened.
        """
        means, covariances = self._under(place_mm)
        mean = self.weight @ means
        off = means - mean
        within = np.tensordot(self.weight, covariances, axes=1)
        return mean, within + (self.weight[:, None] * off).T @ off

    def pull_chance(self, place_mm: np.ndarray) -> np.ndarray:
        """Chance (H, m, 4) of each pull (free, drags, holds, tears) of a strip at places (m, 2) in
        mm, under each hypothesis.
        """
        ends = strip_bounds_mm(self.pad, list(PULLS))[1][:-1]
        count = len(place_mm)
        # Each pull's upper end everywhere, then the next one's: an arm does not move all alike.
        arm = np.repeat(arm_mm(self.pad, ends), count)
        means, covariances = self._under(np.tile(place_mm, (len(ends), 1)), arm)
        variance = np.diagonal(covariances, axis1=1, axis2=2)
        spread = np.sqrt(np.maximum(variance, 0.0) + STRIP_SD_MM**2)
        below = ndtr((np.repeat(ends, count) - means) / spread)
        below = below.reshape(len(means), len(ends), count)
        none = np.zeros((len(means), 1, count))
        found = np.diff(np.concatenate([none, below, none + 1.0], axis=1), axis=1)
        return np.asarray(np.clip(np.swapaxes(found, 1, 2), 1e-9, 1.0))

    def _under(
        self, place_mm: np.ndarray, arm: np.ndarray | None = None
    ) -> tuple[np.ndarray, np.ndarray]:
        """Means (H, m) in mm and covariances (H, m, m) in mm² at places under each hypothesis; of
        bounds there that move so with the arm (m,), in mm.
        """
        count = len(place_mm)
        mean, whole = _before_each(self.kept, today(place_mm, arm).beside(self.now))
        cross, own = whole[:, :count, count:], whole[:, :count, :count]
        gain = cross @ self.inverse
        moved = (gain @ self.missed_mm[..., None])[..., 0]
        return mean[:, :count] + moved, own - gain @ np.swapaxes(cross, 1, 2)

    def on_grid(self, grid: Grid) -> tuple[np.ndarray, np.ndarray]:
        """Mean and standard deviation (rows, columns) in mm of the compression over a grid's cells:
        computed on a few lines, smooth between them.
        """
        y, x = (np.linspace(0, size, LINES) for size in (grid.height_mm, grid.width_mm))
        place = np.column_stack([a.ravel() for a in np.meshgrid(x, y)])
        mean, covariance = self.moments(place)
        variance = np.maximum(covariance.diagonal(), LEAST_VARIANCE_MM2)
        rows, columns = np.unique(grid.places_mm[:, 1]), np.unique(grid.places_mm[:, 0])
        found = [
            RectBivariateSpline(y, x, of.reshape(LINES, LINES))(rows, columns)
            for of in (mean, np.log(variance))
        ]
        return found[0], np.exp(0.5 * found[1])

    @cached_property
    def plane(self) -> tuple[np.ndarray, np.ndarray]:
        """Mean and standard deviation (4,) in mm of the trend through the map: its level, how much
        more the right is compressed than the left, the back than the front, and a hollow, which
        is negative.
        """
        lines = (np.arange(9) + 0.5) / 9
        x, y = (a.ravel() for a in np.meshgrid(*(lines * size for size in self.kept.size_mm)))
        place = np.column_stack([x, y])
        mean, covariance = self.moments(place)
        through = np.linalg.pinv(trend(place, self.kept.size_mm))
        spread = np.sqrt(np.maximum((through @ covariance * through).sum(axis=1), 0.0))
        return through @ mean, spread


def recall_pressure(
    kept: KeptPressure, now: PressureLook | None, pad: SpringPad
) -> RecalledPressure:
    """The closed press after what was found today; None before the first strip."""
    changes, new = pressure_changes(), kept.rates.new_chance
    # A change that came since is weighed beside one that nobody found as beside none.
    fresh = np.append(changes.chance, 1 - changes.chance.sum())
    chance = np.append((1 - new) * np.exp(kept.log_chance), new * fresh)
    if now is None:
        none = np.zeros((len(chance), 0))
        nothing = np.zeros((len(chance), 0, 0))
        chance = chance / chance.sum()
        here = today(np.zeros((0, 2)))
        return RecalledPressure(kept, pad, here, chance, none, nothing, changes.mean_mm)
    bounds = bounds_of([now], TODAY)
    here = bounds.sites
    mean, covariance = _before_each(kept, here)
    found = _bounded(mean, covariance, bounds)
    log_weight = np.log(chance) + found.log_chance
    weight = np.exp(log_weight - log_weight.max())
    inverse = np.linalg.inv(covariance + _noise(found))
    missed = found.seen - mean
    strength = _strength(kept, here, weight, (inverse @ missed[..., None])[..., 0])
    return RecalledPressure(kept, pad, here, weight / weight.sum(), missed, inverse, strength)


def _strength(
    kept: KeptPressure, here: Sites, weight: np.ndarray, solved: np.ndarray
) -> np.ndarray:
    """Expected strength (J,) in mm of each change, whenever it came, by the weights (H,) and what
    today's bounds at n sites pull (H, n).
    """
    changes, of = pressure_changes(), kept.unfound
    count = len(of.number)
    course = here.course(kept.size_mm).T
    fresh = changes.mean_mm + changes.spread_mm**2 * (course * solved[count:-1]).sum(axis=1)
    before, carried = kept.strength(here)
    earlier = (before + (carried * solved[:count]).sum(axis=1))[1:]
    kinds, share = len(changes.kind), weight[1:count]
    whole = weight[count:-1] + np.bincount(of.number[1:], share, kinds)
    pulled = weight[count:-1] * fresh + np.bincount(of.number[1:], share * earlier, kinds)
    return np.asarray(pulled / np.maximum(whole, 1e-300))


def resolved(found: RecalledPressure) -> ResolvedPulls:
    """The map of the whole platen and the plane through it, in mm."""
    grid = Grid(*found.kept.size_mm, *GRID_CELLS)
    mean, sd = found.on_grid(grid)
    plane, plane_sd = found.plane
    return ResolvedPulls(
        PressureMap(grid, found.pad, mean, sd),
        mean_mm=float(mean.mean()),
        mean_sd_mm=float(plane_sd[0]),
        right_mm=float(plane[1]),
        right_sd_mm=float(plane_sd[1]),
        back_mm=float(plane[2]),
        back_sd_mm=float(plane_sd[2]),
        hollow_mm=float(-plane[3]),
        hollow_sd_mm=float(plane_sd[3]),
    )


def _before_each(kept: KeptPressure, here: Sites) -> tuple[np.ndarray, np.ndarray]:
    """Means (H, n) in mm and covariances (H, n, n) in mm² at sites of today before its strips: with
    nothing new since the earlier maps, under each change that is, and with all new.
    """
    changes = pressure_changes()
    means, covariances = kept.today(here)
    usual, covariance = means[0], covariances[0]
    course = here.course(kept.size_mm).T
    lifted = changes.spread_mm[:, None, None] ** 2 * course[:, :, None] * course[:, None, :]
    of_new = here.expected_mm(kept.size_mm, MEAN_MM)
    own = covariance_mm2(here, here, kept.size_mm, kept.rates)
    return (
        np.vstack([means, usual + changes.mean_mm[:, None] * course, of_new]),
        np.concatenate([covariances, covariance + lifted, own[None]]),
    )


def _bounded(mean: np.ndarray, covariance: np.ndarray, of: Bounds) -> BoundedNormal:
    """Means (..., n) in mm and covariances (..., n, n) in mm² once the bounds are known."""
    return bounded_normal(mean, covariance, of.low_mm, of.high_mm, of.sd_mm, SETTLED_MM)


def _noise(found: BoundedNormal) -> np.ndarray:
    """Covariance (..., n, n) in mm² of the normal observations."""
    return np.asarray(np.eye(found.precision.shape[-1]) / found.precision[..., None, :])
