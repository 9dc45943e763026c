"""Paper-strip pulls: level and hollows of the pressure (formats/commands.md, "survey")."""

from dataclasses import dataclass

import numpy as np

from tempermark.core.metrology.survey import FEWEST_FOR_MAP, Tilt, plane_tilt

PULL_STEPS = {"free": 0, "drags": 1, "holds": 2, "tears": 3}


@dataclass(frozen=True)
class PullResult:
    """Tilt in steps per 100 mm, the weak side, a hollow, and the verdict."""

    tilt: Tilt | None
    weak_side: str | None
    hollow: bool | None
    verdict: str


def pull_survey(
    width_mm: float, height_mm: float, place_mm: np.ndarray, step: np.ndarray
) -> PullResult:
    """Level and hollow from strips at (n, 2) mm that pulled as steps (n,) 0 to 3."""
    tilt = plane_tilt(place_mm, step.astype(float))
    side = _weak_side(tilt, width_mm, height_mm) if tilt else None
    hollow = _hollow(width_mm, height_mm, place_mm, step)
    return PullResult(tilt, side, hollow, _verdict(step, side, hollow))


def _weak_side(tilt: Tilt, width_mm: float, height_mm: float) -> str:
    """Where the plane falls by a whole step over the platen, the steeper axis."""
    across = tilt.x_per_100mm * width_mm / 100
    along = tilt.y_per_100mm * height_mm / 100
    # A plane through whole steps falls by exactly one more often than by 1 − 1e-16.
    if max(abs(across), abs(along)) < 1 - 1e-9:
        return "none"
    if abs(across) >= abs(along):
        return "left" if across > 0 else "right"
    return "front" if along > 0 else "back"


def _hollow(
    width_mm: float, height_mm: float, place_mm: np.ndarray, step: np.ndarray
) -> bool | None:
    """Middle half of both axes weaker than the rest by a step on average."""
    x, y = place_mm[:, 0] / width_mm, place_mm[:, 1] / height_mm
    middle = (x >= 0.25) & (x <= 0.75) & (y >= 0.25) & (y <= 0.75)
    if middle.all() or not middle.any():
        return None
    return bool(step[~middle].mean() - step[middle].mean() >= 1)


def _verdict(step: np.ndarray, side: str | None, hollow: bool | None) -> str:
    if len(step) < FEWEST_FOR_MAP:
        return "undecided"
    if (step == PULL_STEPS["free"]).any() or side not in (None, "none") or hollow:
        return "fail"
    if (step >= PULL_STEPS["holds"]).all():
        return "pass"
    return "undecided"
