"""What to set so that the worst place under the art is right and the best is not overdone."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from tempermark.core.thermal.conduction import Course
from tempermark.core.thermal.places import carried, solve
from tempermark.core.thermal.press import Closing

# How far a dial is looked at, K, in which steps, and on how many points of the lattice.
REACH_K, STEP_K, WARM_POINTS = 30.0, 1.0, 13


@dataclass(frozen=True)
class Setting:
    """The best change of the platen's temperature for some places.

    `shift_c` to add to every place, or None when no change does; `least` and `risk` are the worst
    place's outcome and the greatest risk there, or with the change that comes nearest.
    """

    shift_c: float | None
    nearest_c: float
    least: float
    risk: float


def best_setting(
    closing: Closing,
    filled: Callable[[Course], np.ndarray],
    risk: Callable[[Course], np.ndarray],
    wanted: float,
    enough: float,
    risk_limit: float,
) -> Setting:
    """The change of all upper temperatures with which the worst place is right.

    `filled` and `risk` (lattice,) of a course; the worst place must reach `enough` and none pass
    `risk_limit`. Of the changes that do: none where that reaches `wanted`, else the coolest that
    reaches it, else the one whose worst place reaches most.
    """
    warm = closing.upper_c
    span = (float(warm.min()) - REACH_K, float(warm.max()) + REACH_K)
    lattice = solve(closing, span, WARM_POINTS)
    values, risks = np.asarray(filled(lattice.course)), np.asarray(risk(lattice.course))
    shifts = np.arange(-REACH_K, REACH_K + STEP_K / 2, STEP_K)
    worst = np.empty((2, len(shifts)))
    for n, shift in enumerate(shifts):
        weights = lattice.weights(warm + shift, closing.pressure_kpa)
        worst[0, n] = carried(weights, values).min()
        worst[1, n] = carried(weights, risks).max()
    good = (worst[0] >= enough) & (worst[1] < risk_limit)
    if good.any():
        best = _best(shifts, worst[0], good, wanted)
        return Setting(float(shifts[best]), float(shifts[best]), *map(float, worst[:, best]))
    # Nothing does: where the worst place and the greatest risk miss least.
    missing = np.maximum(enough - worst[0], 0) / enough + np.maximum(worst[1] - risk_limit, 0)
    near = int(missing.argmin())
    return Setting(None, float(shifts[near]), *map(float, worst[:, near]))


def _best(shifts: np.ndarray, worst: np.ndarray, good: np.ndarray, wanted: float) -> int:
    """No change where that will do, else the coolest full one, else the fullest."""
    full = good & (worst >= wanted)
    if not full.any():
        return int(np.where(good, worst, -np.inf).argmax())
    unchanged = int(np.abs(shifts).argmin())
    return unchanged if full[unchanged] else int(full.argmax())
