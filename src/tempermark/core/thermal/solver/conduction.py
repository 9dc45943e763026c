"""Transient conduction through a stack, at many places at once.

ρc ∂T/∂t = ∂/∂z(k ∂T/∂z) in finite volumes with contact resistances between layers; moisture as
enthalpy: water leaves evenly between 98 and 102 °C and does not come back. Time steps are TR-BDF2
(second order, L-stable; Bank et al. 1985). Every step balances its energy exactly: what is
solved for is the enthalpy.

Steps grow with the time that has passed, as diffusion slows down: each is a fixed share of it.
That is as exact as steps adapted to the error of the worst place and far fewer, as a cell that
boils dry would otherwise halt all others.

Equation: ∂H/∂t = ∂/∂x(k ∂T/∂x), H with water leaving between 98 and 102 °C.
Range: layers of 1 µm to 200 mm, −50 to 600 °C, up to 7200 s.
Source: Bank et al. 1985 (TR-BDF2); exact solutions in tests/core/test_thermal.py.
"""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from tempermark.core.thermal.solver import kernel
from tempermark.core.thermal.solver.kernel import (
    BAND_K,
    BOILS_TO_C,
    GAMMA,
    LATENT_J_KG,
    WATER_J_KGK,
)
from tempermark.core.thermal.solver.stack import Cells

__all__ = [
    "GAMMA",
    "LATENT_J_KG",
    "WATER_J_KGK",
    "HeatCourse",
    "HeatState",
    "Heater",
    "PlatenBounds",
    "run",
]

# A step is this share of the time passed, at least the first and at most the longest, s.
STEP_SHARE, FIRST_STEP_S, LONGEST_STEP_S = 0.06, 2e-3, 1.5
# A long run takes at least this many steps after its start.
MOST_LONG_STEPS = 800


@dataclass(frozen=True)
class Heater:
    """A platen as a lump: power W/m² at its limit, heat capacity J/m²K, and its setting in °C
    (None: what it starts at, at every place its own).
    """

    power_w_m2: float
    heat_capacity_j_m2k: float
    set_c: float | None = None


@dataclass(frozen=True)
class PlatenBounds:
    """What lies above and below, for (p,) places: upper temperature in °C (the start with a
    heater), contact resistance of each in m²K/W, lower temperature, or None where insulated.
    """

    upper_c: np.ndarray
    lower_c: np.ndarray | None
    upper_contact: np.ndarray
    lower_contact: np.ndarray
    heater: Heater | None = None


@dataclass(frozen=True)
class HeatState:
    """Cells with a past (p, cells): what they are now and were at most, in °C."""

    now_c: np.ndarray
    highest_c: np.ndarray


@dataclass(eq=False)
class HeatCourse:
    """A run: times (t,) in s and, at each, faces of every interface and what went in and out.

    `above_c`, `below_c` (t, p, interfaces): lower face of the upper layer, upper face of the
    lower one. `energy_in`, `energy_out` (p,) J/m², `evaporated`, `stored` likewise; `upper_c`
    (t, p). `middle_…` are the same at the inner stage of each step, for interpolation. `highest_c`
    (p, cells) is what each cell was at most: it tells the water that left.
    """

    time_s: np.ndarray
    above_c: np.ndarray
    below_c: np.ndarray
    upper_c: np.ndarray
    energy_in: np.ndarray
    energy_out: np.ndarray
    stored: np.ndarray
    evaporated: np.ndarray
    final_c: np.ndarray
    water_left: np.ndarray
    middle_time_s: np.ndarray
    middle_below_c: np.ndarray
    middle_above_c: np.ndarray
    highest_c: np.ndarray

    @property
    def imbalance(self) -> np.ndarray:
        """Energy that is missing, as a share of what moved; (p,)."""
        moved = np.maximum(np.abs(self.energy_in), np.abs(self.stored)) + 1e-9
        return np.asarray(
            (self.energy_in - self.energy_out - self.stored - self.evaporated) / moved
        )


def run(
    cells: Cells,
    contacts: np.ndarray,
    bounds: PlatenBounds,
    time_s: float,
    stops_s: tuple[float, ...] = (),
    fineness: float = 1.0,
    begins: HeatState | None = None,
) -> HeatCourse:
    """The course of a stack over `time_s`, at (p,) places.

    `contacts` (p, layers − 1) in m²K/W; steps end on `stops_s`; `fineness` 2 halves them; `begins`
    is the state of the cells where they have a past. Raises ArithmeticError when no step is short
    enough.
    """
    places, interfaces = contacts.shape
    steps = np.array(_times(time_s, tuple(stops_s), fineness))
    parts = _parts(cells, contacts, bounds, begins)
    start, hot = parts["start"], parts.pop("highest")
    faces = [np.empty((len(steps) + more, places, interfaces)) for more in (1, 1, 0, 0)]
    upper, energy = np.empty((len(steps) + 1, places)), np.zeros((places, 2))
    final, highest = np.empty_like(start), hot.copy()
    # To the type checker a compiled function takes nothing.
    march: Any = kernel.march
    failed = march(
        steps,
        *parts.values(),
        cells.last[:-1],
        cells.first[1:],
        cells.dx_m / 2 / cells.conductivity,
        int(bounds.heater is not None),
        *faces,
        upper,
        energy,
        final,
        highest,
    )
    if failed:
        raise ArithmeticError("No time step is short enough for this stack.")
    return _course(steps, parts, hot, faces, upper, energy, final, highest, bounds)


def water_share(highest_c: np.ndarray) -> np.ndarray:
    """Share of a cell's water that is left, once it was at most this hot."""
    return np.clip((BOILS_TO_C - highest_c) / BAND_K, 0.0, 1.0)


def _parts(
    cells: Cells, contacts: np.ndarray, bounds: PlatenBounds, begins: HeatState | None
) -> dict[str, Any]:
    """Arrays of the march, in its order, and `highest`; with a heater its lump is one more cell on
    top.
    """
    places = len(bounds.upper_c)
    half = cells.dx_m / 2 / cells.conductivity
    resistance = np.tile(half[:-1] + half[1:], (places, 1))
    resistance[:, cells.last[:-1]] += contacts
    between, top = 1.0 / resistance, 1.0 / (half[0] + bounds.upper_contact)
    start = np.tile(cells.initial_c, (places, 1)) if begins is None else begins.now_c
    highest = start if begins is None else begins.highest_c
    dry, water = cells.dry_j_m2k, cells.water_kg_m2
    power, set_c = kernel.NO_HEATER, bounds.upper_c
    if bounds.heater is not None:
        power = bounds.heater.power_w_m2
        if bounds.heater.set_c is not None:
            set_c = np.full(places, bounds.heater.set_c)
        between, top = np.hstack([top[:, None], between]), np.zeros(places)
        lump = bounds.upper_c[:, None]
        start, highest = np.hstack([lump, start]), np.hstack([lump, highest])
        dry = np.concatenate([[bounds.heater.heat_capacity_j_m2k], dry])
        water = np.concatenate([[0.0], water])
    insulated = bounds.lower_c is None
    return {
        "start": np.ascontiguousarray(start, float),
        "dry": dry,
        "water": water,
        "between": np.ascontiguousarray(between),
        "top": top,
        "bottom": np.zeros(places) if insulated else 1.0 / (half[-1] + bounds.lower_contact),
        "upper_c": np.asarray(bounds.upper_c, float),
        "lower_c": np.zeros(places) if insulated else np.asarray(bounds.lower_c, float),
        "power": float(power),
        "set_c": np.asarray(set_c, float),
        "highest": np.array(highest, float),
    }


@lru_cache(maxsize=64)
def _times(time_s: float, stops_s: tuple[float, ...], fineness: float) -> tuple[float, ...]:
    """Ends of the steps, s."""
    times, now = [], 0.0
    longest = max(LONGEST_STEP_S, time_s / MOST_LONG_STEPS)
    stops = sorted({float(s) for s in stops_s if 0 < s < time_s} | {time_s})
    for stop in stops:
        while now < stop:
            step = np.clip(STEP_SHARE * now, FIRST_STEP_S, longest) / fineness
            room = stop - now
            # The last steps before a stop share what is left.
            now = stop if room <= step else now + (step if room > 2 * step else room / 2)
            times.append(now)
    return tuple(times)


def _course(
    steps: np.ndarray,
    parts: dict[str, np.ndarray],
    hot: np.ndarray,
    faces: list[np.ndarray],
    upper: np.ndarray,
    energy: np.ndarray,
    final: np.ndarray,
    highest: np.ndarray,
    bounds: PlatenBounds,
) -> HeatCourse:
    skip = int(bounds.heater is not None)
    dry, water, start = parts["dry"][skip:], parts["water"][skip:], parts["start"][:, skip:]
    top, now = highest[:, skip:], final[:, skip:]
    left = water * water_share(top)
    evaporated = (water * water_share(hot[:, skip:]) - left).sum(axis=1) * LATENT_J_KG
    gained = kernel.enthalpies(now, top, dry, water)
    gained -= kernel.enthalpies(start, hot[:, skip:], dry, water)
    above, below, middle_above, middle_below = faces
    begun = np.concatenate([[0.0], steps[:-1]])
    return HeatCourse(
        time_s=np.concatenate([[0.0], steps]),
        above_c=above,
        below_c=below,
        upper_c=upper,
        energy_in=energy[:, 0],
        energy_out=energy[:, 1],
        stored=gained - evaporated,
        evaporated=evaporated,
        final_c=now,
        water_left=left,
        middle_time_s=begun + GAMMA * (steps - begun),
        middle_below_c=middle_below,
        middle_above_c=middle_above,
        highest_c=top,
    )
