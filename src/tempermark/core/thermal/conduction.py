"""Transient conduction through a stack, at many places at once.

ρc ∂T/∂t = ∂/∂z(k ∂T/∂z) in finite volumes with contact resistances between layers; moisture as
enthalpy: water leaves evenly between 98 and 102 °C and does not come back. Time steps are TR-BDF2
(second order, L-stable; Bank et al. 1985). Every step balances its energy exactly: what is
solved for is the enthalpy.

Steps grow with the time that has passed, as diffusion slows down: each is a fixed share of it.
That is as exact as steps adapted to the error of the worst place and far fewer, as a cell that
boils dry would otherwise halt all others.
"""

from dataclasses import dataclass

import numpy as np
from scipy.linalg import lapack

from tempermark.core.thermal.stack import Cells

WATER_J_KGK, LATENT_J_KG = 4190.0, 2.257e6
BOILS_FROM_C, BOILS_TO_C = 98.0, 102.0
BAND_K = BOILS_TO_C - BOILS_FROM_C
# The heater's power falls from full to none over this much below its setting.
HOLD_BAND_K = 0.01
GAMMA = 2.0 - np.sqrt(2.0)
WEIGHT, LAST_WEIGHT = np.sqrt(2.0) / 4, GAMMA / 2
# A step is this share of the time passed, at least the first and at most the longest, s.
STEP_SHARE, FIRST_STEP_S, LONGEST_STEP_S = 0.06, 2e-3, 1.5
# A long run takes at least this many steps after its start.
MOST_LONG_STEPS = 800
NEWTON_K, NEWTON_ROUNDS = 2e-3, 12
MOST_HALVINGS = 12


@dataclass(frozen=True)
class Heater:
    """A platen as a lump: power W/m² at its limit, heat capacity J/m²K, and its setting in °C."""

    power_w_m2: float
    heat_capacity_j_m2k: float
    set_c: float


@dataclass(frozen=True)
class Bounds:
    """What lies above and below, for (p,) places: upper temperature in °C (the start with a
    heater), contact resistance of each in m²K/W, lower temperature, or None where insulated.
    """

    upper_c: np.ndarray
    lower_c: np.ndarray | None
    upper_contact: np.ndarray
    lower_contact: np.ndarray
    heater: Heater | None = None


@dataclass
class Course:
    """A run: times (t,) in s and, at each, faces of every interface and what went in and out.

    `above_c`, `below_c` (t, p, interfaces): lower face of the upper layer, upper face of the
    lower one. `energy_in`, `energy_out` (p,) J/m², `evaporated`, `stored` likewise; `upper_c`
    (t, p). `middle_…` are the same at the inner stage of each step, for interpolation.
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

    @property
    def imbalance(self) -> np.ndarray:
        """Energy that is missing, as a share of what moved; (p,)."""
        moved = np.maximum(np.abs(self.energy_in), np.abs(self.stored)) + 1e-9
        return (self.energy_in - self.energy_out - self.stored - self.evaporated) / moved


class _Stack:
    """The discrete problem: enthalpy, fluxes and their slopes, for (p, n) cells.

    With a heater its lump is one more cell on top.
    """

    def __init__(self, cells: Cells, contacts: np.ndarray, bounds: Bounds):
        self.cells, self.bounds = cells, bounds
        places, count = len(bounds.upper_c), len(cells.dx_m)
        half = cells.dx_m / 2 / cells.conductivity
        resistance = np.tile(half[:-1] + half[1:], (places, 1))
        resistance[:, cells.last[:-1]] += contacts
        self.half, self.contacts = half, contacts
        top = 1.0 / (half[0] + bounds.upper_contact)[:, None]
        inner = 1.0 / resistance
        self.heater = bounds.heater
        bottom = np.zeros((places, 1))
        if bounds.lower_c is not None:
            bottom = 1.0 / (half[-1] + bounds.lower_contact)[:, None]
        self.bottom = bottom[:, 0]
        if self.heater is None:
            self.between, self.top = inner, top[:, 0]
            lead: tuple = ()
        else:
            self.between, self.top = np.hstack([top, inner]), np.zeros(places)
            lead = (self.heater.heat_capacity_j_m2k,)
        self.offset = len(lead)
        self.dry = np.concatenate([lead, cells.dry_j_m2k])
        self.water = np.concatenate([np.zeros(len(lead)), cells.water_kg_m2])
        self.wet = bool(self.water.any())
        self.shape = (places, count + len(lead))
        # Slope of the fluxes, a constant: diagonal and off-diagonals over all places in a row.
        diagonal = np.zeros(self.shape)
        diagonal[:, 1:] += self.between
        diagonal[:, :-1] += self.between
        diagonal[:, 0] += self.top
        diagonal[:, -1] += self.bottom
        self.diagonal = diagonal
        off = np.zeros(self.shape)
        off[:, :-1] = -self.between
        self.off = off.ravel()[:-1]

    def start(self) -> np.ndarray:
        first = np.tile(self.cells.initial_c, (self.shape[0], 1))
        if self.heater is None:
            return first
        return np.hstack([self.bounds.upper_c[:, None], first])

    def flux(self, temperature: np.ndarray) -> np.ndarray:
        """Net heat into each cell, W/m²."""
        between = self.between * (temperature[:, :-1] - temperature[:, 1:])
        net = np.zeros(self.shape)
        net[:, 1:] += between
        net[:, :-1] -= between
        net[:, 0] += self.into(temperature)
        net[:, -1] -= self.out_of(temperature)
        return net

    def into(self, temperature: np.ndarray) -> np.ndarray:
        """Heat into the top cell from above or from the heater, (p,) W/m²."""
        if self.heater is None:
            return self.top * (self.bounds.upper_c - temperature[:, 0])
        lacking = (self.heater.set_c - temperature[:, 0]) / HOLD_BAND_K
        return self.heater.power_w_m2 * np.clip(lacking, 0.0, 1.0)

    def into_stack(self, temperature: np.ndarray) -> np.ndarray:
        """Heat through the top face of the stack itself, (p,) W/m²."""
        if self.heater is None:
            return self.into(temperature)
        return self.between[:, 0] * (temperature[:, 0] - temperature[:, 1])

    def out_of(self, temperature: np.ndarray) -> np.ndarray:
        if self.bounds.lower_c is None:
            return np.zeros(self.shape[0])
        return self.bottom * (temperature[:, -1] - self.bounds.lower_c)

    def slope(self, temperature: np.ndarray) -> np.ndarray:
        """Diagonal of −∂flux/∂T."""
        if self.heater is None:
            return self.diagonal
        lacking = self.heater.set_c - temperature[:, 0]
        diagonal = self.diagonal.copy()
        diagonal[:, 0] += np.where(
            (lacking > 0) & (lacking < HOLD_BAND_K), self.heater.power_w_m2 / HOLD_BAND_K, 0.0
        )
        return diagonal

    def enthalpy(self, temperature, highest) -> tuple[np.ndarray, np.ndarray]:
        """Enthalpy above 0 °C, J/m² of each cell, and its slope in T.

        Along the wet curve where a cell is hotter than it ever was; below that its water is what
        that left, and nothing condenses.
        """
        if not self.wet:
            return self.dry * temperature, np.broadcast_to(self.dry, self.shape)
        turned = np.maximum(temperature, highest)
        left = np.clip((BOILS_TO_C - turned) / BAND_K, 0.0, 1.0)
        boiling = np.clip(turned, BOILS_FROM_C, BOILS_TO_C) - BOILS_FROM_C
        # ∫ of the water's share of the heat capacity from 0 °C.
        sensible = np.minimum(turned, BOILS_FROM_C) + boiling - boiling**2 / (2 * BAND_K)
        water = self.water * (WATER_J_KGK * sensible + LATENT_J_KG * boiling / BAND_K)
        capacity = self.dry + self.water * left * WATER_J_KGK
        value = self.dry * turned + water + capacity * (temperature - turned)
        rising = (temperature >= highest) & (boiling > 0) & (left > 0)
        return value, capacity + np.where(rising, self.water * LATENT_J_KG / BAND_K, 0.0)

    def water_left(self, highest) -> np.ndarray:
        """Water still there, kg/m² of each cell."""
        return self.water * np.clip((BOILS_TO_C - highest) / BAND_K, 0.0, 1.0)

    def faces(self, temperature) -> tuple[np.ndarray, np.ndarray]:
        """Both faces of each interface, (p, interfaces)."""
        last, first = self.cells.last[:-1] + self.offset, self.cells.first[1:] + self.offset
        flux = self.between[:, last] * (temperature[:, last] - temperature[:, first])
        above = temperature[:, last] - flux * self.half[self.cells.last[:-1]]
        below = temperature[:, first] + flux * self.half[self.cells.first[1:]]
        return above, below


def _solve(diagonal: np.ndarray, off: np.ndarray, right: np.ndarray) -> np.ndarray:
    """Tridiagonal systems of all places at once; `off` holds zeros between them."""
    *_, solution, info = lapack.dgtsv(off, diagonal.ravel(), off, right.ravel())
    if info:
        raise ArithmeticError("The stack's equations have no solution.")
    return solution.reshape(diagonal.shape)


def _stage(stack: _Stack, base, weight, guess, highest):
    """T with H(T) − weight · F(T) = base, by Newton; T, H and the last slope of H."""
    temperature = guess
    off = weight * stack.off
    for _ in range(NEWTON_ROUNDS):
        value, capacity = stack.enthalpy(temperature, highest)
        residual = value - base - weight * stack.flux(temperature)
        move = _solve(capacity + weight * stack.slope(temperature), off, -residual)
        temperature = temperature + move
        if np.abs(move).max() < NEWTON_K:
            return temperature
    return None


def run(
    cells: Cells,
    contacts: np.ndarray,
    bounds: Bounds,
    time_s: float,
    stops_s: tuple[float, ...] = (),
    fineness: float = 1.0,
) -> Course:
    """The course of a stack over `time_s`, at (p,) places.

    `contacts` (p, layers − 1) in m²K/W; steps end on `stops_s`; `fineness` 2 halves them. Raises
    ArithmeticError when no step is short enough.
    """
    stack = _Stack(cells, contacts, bounds)
    temperature = stack.start()
    highest = temperature.copy()
    begun, _ = stack.enthalpy(temperature, highest)
    kept = _Kept(stack, temperature)
    now, flux = 0.0, stack.flux(temperature)
    for until in _times(time_s, stops_s, fineness):
        for taken in _stepped(stack, temperature, highest, flux, until - now):
            now += taken.taken_s
            kept.take(now, taken)
            temperature, flux = taken.temperature, taken.flux
            highest = np.maximum(highest, temperature)
    return kept.course(temperature, highest, begun)


def _times(time_s: float, stops_s, fineness: float) -> list[float]:
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
    return times


def _stepped(stack: _Stack, temperature, highest, flux, taken: float) -> list["_Taken"]:
    """A step, or the pieces of it with which Newton settles."""
    for halvings in range(MOST_HALVINGS):
        pieces, count = [], 2**halvings
        state, top, rate = temperature, highest, flux
        for _ in range(count):
            piece = _step(stack, state, top, rate, taken / count)
            if piece is None:
                break
            pieces.append(piece)
            state, rate = piece.temperature, piece.flux
            top = np.maximum(top, state)
        else:
            return pieces
    raise ArithmeticError("No time step is short enough for this stack.")


@dataclass
class _Taken:
    taken_s: float
    temperature: np.ndarray
    middle: np.ndarray
    flux: np.ndarray
    into: np.ndarray
    out: np.ndarray


def _step(stack: _Stack, temperature, highest, flux, taken: float) -> _Taken | None:
    """One TR-BDF2 step; None when Newton does not settle."""
    value, _ = stack.enthalpy(temperature, highest)
    weight = GAMMA / 2 * taken
    middle = _stage(stack, value + weight * flux, weight, temperature, highest)
    if middle is None:
        return None
    base = value + WEIGHT * taken * (flux + stack.flux(middle))
    guess = temperature + (middle - temperature) / GAMMA
    after = _stage(stack, base, weight, guess, highest)
    if after is None:
        return None
    weights = (WEIGHT, WEIGHT, LAST_WEIGHT)
    states = (temperature, middle, after)
    pairs = list(zip(weights, states, strict=True))
    return _Taken(
        taken,
        after,
        middle,
        stack.flux(after),
        taken * sum(w * stack.into_stack(s) for w, s in pairs),
        taken * sum(w * stack.out_of(s) for w, s in pairs),
    )


class _Kept:
    """What is kept of every step."""

    def __init__(self, stack: _Stack, temperature):
        self.stack = stack
        above, below = stack.faces(temperature)
        self.time, self.above, self.below = [0.0], [above], [below]
        self.middle_time: list[float] = []
        self.middle_above: list[np.ndarray] = []
        self.middle_below: list[np.ndarray] = []
        self.upper = [self._upper(temperature)]
        self.into = np.zeros(stack.shape[0])
        self.out = np.zeros(stack.shape[0])

    def _upper(self, temperature):
        if self.stack.heater is None:
            return self.stack.bounds.upper_c
        return temperature[:, 0].copy()

    def take(self, now: float, tried: _Taken) -> None:
        above, below = self.stack.faces(tried.temperature)
        middle_above, middle_below = self.stack.faces(tried.middle)
        self.time.append(now)
        self.above.append(above)
        self.below.append(below)
        self.middle_time.append(now - (1 - GAMMA) * tried.taken_s)
        self.middle_above.append(middle_above)
        self.middle_below.append(middle_below)
        self.upper.append(self._upper(tried.temperature))
        self.into += tried.into
        self.out += tried.out

    def course(self, temperature, highest, begun) -> Course:
        stack, skip = self.stack, self.stack.offset
        value, _ = stack.enthalpy(temperature, highest)
        gone = (stack.water - stack.water_left(highest))[:, skip:].sum(axis=1)
        evaporated = gone * LATENT_J_KG
        gained = (value - begun)[:, skip:].sum(axis=1)
        return Course(
            np.array(self.time),
            np.array(self.above),
            np.array(self.below),
            np.array(self.upper),
            self.into,
            self.out,
            gained - evaporated,
            evaporated,
            temperature[:, skip:],
            stack.water_left(highest)[:, skip:],
            np.array(self.middle_time),
            np.array(self.middle_below),
            np.array(self.middle_above),
        )
