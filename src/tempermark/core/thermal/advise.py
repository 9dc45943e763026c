"""What to set so that the worst place under the art is right and the best is not overdone."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import numpy as np

from tempermark.core.thermal.outcome import Outcome, Piece, outcome, reached
from tempermark.core.thermal.places import carried, solve
from tempermark.core.thermal.press import Closing

# How far a dial is looked at, K, in which steps, and on how many points of the lattice.
REACH_K, STEP_K, WARM_POINTS = 30.0, 1.0, 13


@dataclass(frozen=True)
class Setting:
    """The best change of the platen's temperature for some places.

    `shift_c` to add to every place, or None when no change does; `least` and `risk` are the worst
    place's outcome and the greatest risk there, `risk_name` which, or with the change that comes
    nearest.
    """

    shift_c: float | None
    nearest_c: float
    least: float
    risk: float
    risk_name: str


def best_setting(
    closing: Closing,
    piece: Piece,
    filled: Callable[[Outcome], np.ndarray],
    wanted: float,
    enough: float,
    risk_limit: float,
) -> Setting:
    """The change of all upper temperatures with which the worst place is right.

    `filled` (p,) of an outcome; the worst place must reach `enough` and no risk pass `risk_limit`.
    Of the changes that do: none where that reaches `wanted`, else the coolest that reaches it, else
    the one whose worst place reaches most. The closing's pressures must be known.
    """
    warm, pressure = closing.upper_c, closing.pressure_kpa
    if pressure is None:
        raise ValueError("A setting is sought for places whose pressure is known.")
    span = (float(warm.min()) - REACH_K, float(warm.max()) + REACH_K)
    lattice = solve(closing, span, WARM_POINTS)
    at_lattice = lattice.pressure_kpa
    known = reached(lattice.course, piece, pressure[:1] if at_lattice is None else at_lattice)
    shifts = np.arange(-REACH_K, REACH_K + STEP_K / 2, STEP_K)
    least, risks, names = np.empty(len(shifts)), np.empty(len(shifts)), []
    for n, shift in enumerate(shifts):
        weights = lattice.weights(warm + shift, pressure)
        made = known.carried(partial(carried, weights))
        told = outcome(made, piece, pressure)
        each = {name: float(values.max()) for name, values in told.risks.items()}
        names.append(max(each, key=lambda name: each[name]))
        least[n], risks[n] = float(np.min(filled(told))), each[names[n]]
    good = (least >= enough) & (risks < risk_limit)
    if good.any():
        at = _best(shifts, least, good, wanted)
        shift = float(shifts[at])
        return Setting(shift, shift, float(least[at]), float(risks[at]), names[at])
    # Nothing does: where the worst place and the greatest risk miss least.
    missing = np.maximum(enough - least, 0) / enough + np.maximum(risks - risk_limit, 0)
    near = int(missing.argmin())
    return Setting(None, float(shifts[near]), float(least[near]), float(risks[near]), names[near])


def _best(shifts: np.ndarray, worst: np.ndarray, good: np.ndarray, wanted: float) -> int:
    """No change where that will do, else the coolest full one, else the fullest."""
    full = good & (worst >= wanted)
    if not full.any():
        return int(np.where(good, worst, -np.inf).argmax())
    unchanged = int(np.abs(shifts).argmin())
    return unchanged if full[unchanged] else int(full.argmax())
