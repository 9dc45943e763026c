"""A closed press today, from its earlier maps and today's strips: as it was, or what is new.

What is kept of the earlier maps (kept.py) is a normal vector over the compression. Today's strips
bound it; expectation propagation makes of each the normal observation that says the same, under
each of the changes.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.interpolate import RectBivariateSpline
from scipy.special import ndtr

from tempermark.core.metrology.map.usable import Grid
from tempermark.core.metrology.memory.looks import FoundChanges
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
from tempermark.core.pressure.memory.kept import KeptPressure, bounded_by, noise_mm2
from tempermark.core.pressure.memory.looks import (
    TODAY,
    PressureLook,
    Sites,
    arm_mm,
    bounds_of,
    covariance_mm2,
    today,
)
from tempermark.core.pressure.press.spring import SpringPad

# So many lines each way are computed of a map; hollows are three of them wide.
LINES, LEAST_VARIANCE_MM2 = 12, 1e-6
PULLS = tuple(PULL_STEPS)


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
    found = bounded_by(mean, covariance, bounds)
    log_weight = np.log(chance) + found.log_chance
    weight = np.exp(log_weight - log_weight.max())
    inverse = np.linalg.inv(covariance + noise_mm2(found))
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
