"""Random plausible histories of closed presses: for simulations, benchmarks and practice.

A pad with a tilt, a hollow and an unevenness that lasts; set anew for each map; from time to time
something happens that stays: it stands out of level, its pad hollows, a corner gives way. Strips
are pulled by an arm whose bounds are its own. Compression in mm.
"""

from dataclasses import dataclass, replace

import numpy as np

from tempermark.core.metrology.map.field_members import DUST, stable_cholesky
from tempermark.core.metrology.map.field_prior import matern
from tempermark.core.pressure.map.field import rest_length_mm, trend
from tempermark.core.pressure.map.pulls import PULL_STEPS
from tempermark.core.pressure.press.hand import STRIP_KPA, STRIP_SD_SHARE
from tempermark.core.pressure.press.spring import SpringPad

LEVEL_MM, LEVEL_SPREAD_MM = 1.5, 0.4
FALL_MM, HOLLOW_MM, REST_MM = 0.45, 0.3, 0.15
FALL_STEP_MM, HOLLOW_STEP_MM = 0.08, 0.05
FAULT_CHANCE = 0.2
FAULT_MM = (0.8, 2.5)
STRIP_NOISE_MM = 0.12
INTERVAL_DAYS = 60.0


@dataclass(frozen=True)
class ImaginedPressureFault:
    """Something new: a side, a hollow or a corner, where (shares), how wide, how many mm less."""

    kind: str
    at: np.ndarray
    reach: float
    depth_mm: float

    def lifted_mm(self, share: np.ndarray) -> np.ndarray:
        """What it adds to the compression (n,) in mm at shares (n, 2) of the platen."""
        if self.kind == "side":
            return np.asarray(-self.depth_mm * (share - 0.5) @ (2 * (self.at - 0.5)))
        away = ((share - self.at) / self.reach) ** 2
        return np.asarray(-self.depth_mm * np.exp(-0.5 * away.sum(axis=1)))


@dataclass(frozen=True)
class ImaginedClosing:
    """A press closed for one map: compression (m,) in mm at the places it was imagined at, what is
    new, the arm's own bounds as a factor, and the places (m, 2) as shares of the platen.
    """

    compression_mm: np.ndarray
    new: ImaginedPressureFault | None
    arm: float
    share: np.ndarray

    def without_new(self) -> "ImaginedClosing":
        """The same closing had nothing happened."""
        lifted = 0.0 if self.new is None else self.new.lifted_mm(self.share)
        return replace(self, compression_mm=self.compression_mm - lifted)

    def pulls(self, pad: SpringPad, rng: np.random.Generator | None = None) -> list[str]:
        """How strips behave there: as the arm pulls them, or without `rng` as they truly would."""
        pressed, arm = self.compression_mm, 1.0
        if rng is not None:
            arm = self.arm
            pressed = pressed + STRIP_NOISE_MM * rng.standard_normal(len(pressed))
        kpa = pad.pressure_kpa(np.maximum(pressed, 0.0)) / arm
        bounds = [STRIP_KPA[pull][0] for pull in PULL_STEPS][1:]
        names = list(PULL_STEPS)
        return [names[int(step)] for step in np.searchsorted(bounds, kpa, side="right")]


def imagine_closings(
    place_mm: np.ndarray, size_mm: tuple[float, float], maps: int, rng: np.random.Generator
) -> list[ImaginedClosing]:
    """A random press at so many maps two months apart, at places (m, 2) in mm."""
    share = place_mm / np.array(size_mm)
    through = trend(place_mm, size_mm)
    lasting = np.array([FALL_MM, FALL_MM, HOLLOW_MM]) * rng.standard_normal(3)
    lasting[2] = -abs(lasting[2])
    alike = matern(place_mm, place_mm, rest_length_mm(size_mm))
    root = stable_cholesky(alike + DUST * np.eye(len(alike)))
    rest = REST_MM * root @ rng.standard_normal(len(place_mm))
    faults: list[ImaginedPressureFault] = []
    found = []
    for number in range(maps):
        new = None
        if number:
            lasting[:2] += FALL_STEP_MM * rng.standard_normal(2)
            lasting[2] -= abs(HOLLOW_STEP_MM * rng.standard_normal())
            if rng.random() < FAULT_CHANCE:
                new = _fault(rng)
                faults.append(new)
        level = LEVEL_MM + LEVEL_SPREAD_MM * rng.standard_normal()
        value = level + through[:, 1:] @ lasting + rest
        value = value + sum(fault.lifted_mm(share) for fault in faults)
        arm = float(np.exp(STRIP_SD_SHARE * rng.standard_normal()))
        found.append(ImaginedClosing(np.asarray(value), new, arm, share))
    return found


def _fault(rng: np.random.Generator) -> ImaginedPressureFault:
    kind = str(rng.choice(["side", "hollow", "corner"], p=[0.45, 0.35, 0.2]))
    depth = float(rng.uniform(*FAULT_MM))
    if kind == "side":
        at = np.array([(0, 0.5), (1, 0.5), (0.5, 0), (0.5, 1)][rng.integers(4)], float)
    elif kind == "corner":
        at = rng.integers(0, 2, 2).astype(float)
    else:
        at = rng.uniform(0.2, 0.8, 2)
    return ImaginedPressureFault(kind, at, float(rng.uniform(0.16, 0.3)), depth)
