"""What to set so that the worst place under the art is right and the best is not overdone."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from tempermark.core.thermal.result.outcome import Piece, PressOutcome, outcome
from tempermark.core.thermal.solver.places import Spread

# How far a dial is looked at, K, and in which steps.
REACH_K, STEP_K = 30.0, 1.0
# So many places stand for all of them; the coolest, the hottest and those pressed least and most
# are among them.
MOST_PLACES = 90


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
    spread: Spread,
    piece: Piece,
    upper_c: np.ndarray,
    pressure_kpa: np.ndarray,
    filled: Callable[[PressOutcome], np.ndarray],
    wanted: float,
    enough: float,
    risk_limit: float,
    allowed_k: tuple[float, float] = (-REACH_K, REACH_K),
) -> Setting:
    """The change of all upper temperatures (p,) with which the worst place is right.

    `spread` must reach `REACH_K` beyond them. `filled` (p,) of an outcome; the worst place must
    reach `enough` and no risk pass `risk_limit`. Only changes within `allowed_k` are looked at:
    what lies beyond is outside the recipe's window. Of those that do: none where that reaches
    `wanted`, else the coolest that reaches it, else the one whose worst place reaches most.
    """
    some = _standing_for_all(upper_c, pressure_kpa)
    warm, kpa = upper_c[some], pressure_kpa[some]
    shifts = _shifts(*allowed_k)
    # All shifts of all places in one go, (shifts, places).
    shape = (len(shifts), len(warm))
    every_kpa = np.tile(kpa, len(shifts))
    result = spread.at((shifts[:, None] + warm).ravel(), every_kpa)
    summary = outcome(result, piece, every_kpa)
    least = filled(summary).reshape(shape).min(axis=1)
    each = {name: values.reshape(shape).max(axis=1) for name, values in summary.risks.items()}
    kinds = list(each)
    table = np.array([each[name] for name in kinds])
    risks, names = table.max(axis=0), [kinds[n] for n in table.argmax(axis=0)]
    good = (least >= enough) & (risks <= risk_limit)
    if good.any():
        at = _best(shifts, least, good, wanted)
        shift = float(shifts[at])
        return Setting(shift, shift, float(least[at]), float(risks[at]), names[at])
    # Nothing does: where the worst place and the greatest risk miss least.
    missing = np.maximum(enough - least, 0) / enough + np.maximum(risks - risk_limit, 0)
    near = int(missing.argmin())
    return Setting(None, float(shifts[near]), float(least[near]), float(risks[near]), names[near])


def _shifts(low_k: float, high_k: float) -> np.ndarray:
    """Changes to look at, none among them where it is allowed; the nearest end where what is
    allowed lies out of reach.
    """
    low, high = np.clip([low_k, high_k], -REACH_K, REACH_K)
    whole = np.arange(np.ceil(low / STEP_K), np.floor(high / STEP_K) + 0.5) * STEP_K
    return whole if len(whole) else np.array([(low + high) / 2])


def _best(shifts: np.ndarray, worst: np.ndarray, good: np.ndarray, wanted: float) -> int:
    """No change where that will do, else the coolest full one, else the fullest."""
    full = good & (worst >= wanted)
    if not full.any():
        return int(np.where(good, worst, -np.inf).argmax())
    nearest = int(np.abs(shifts).argmin())
    unchanged = abs(shifts[nearest]) < STEP_K / 2
    return nearest if unchanged and full[nearest] else int(full.argmax())


def _standing_for_all(upper_c: np.ndarray, pressure_kpa: np.ndarray) -> np.ndarray:
    """Indices of places that stand for all: an even choice, and the extremes."""
    even = np.linspace(0, len(upper_c) - 1, min(MOST_PLACES, len(upper_c))).round().astype(int)
    extremes = [f(a) for a in (upper_c, pressure_kpa) for f in (np.argmin, np.argmax)]
    return np.unique(np.concatenate([even, extremes]))
