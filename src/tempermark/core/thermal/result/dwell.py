"""What comes of a dwell: outcome as a function of time and temperature, and the dwell that another
stack needs.
"""

from dataclasses import dataclass, replace

import numpy as np
from scipy.special import ndtr

from tempermark.core.thermal.result.outcome import (
    DENTS_KPA_S,
    Piece,
    PressOutcome,
    Reached,
    fluidity,
    outcome,
    rates,
)
from tempermark.core.thermal.solver.closing import STEP_WEIGHTS, Closing, Rate, press
from tempermark.core.thermal.solver.conduction import HeatCourse
from tempermark.core.thermal.solver.places import carried, solve

# A dwell is looked for up to here, s.
LONGEST_DWELL_S = 1800.0
# Points of the area in temperature and time.
WARM_CELLS, TIME_CELLS, WARM_POINTS = 49, 61, 11
# How exactly a timer and the hand at it keep a dwell, standard, s. Starting value.
TIMER_SD_S = 1.0


def cumulated(course: HeatCourse, rate: Rate, interface: int) -> np.ndarray:
    """∫ rate(T) dt (t, p) of the receiving face from the start to each of the course's times."""
    at = rate(course.below_c[:, :, interface])
    inner = rate(course.middle_below_c[:, :, interface])
    each = STEP_WEIGHTS[0] * at[:-1] + STEP_WEIGHTS[1] * inner + STEP_WEIGHTS[2] * at[1:]
    sums = np.cumsum(np.diff(course.time_s)[:, None] * each, axis=0)
    return np.vstack([np.zeros((1, sums.shape[1])), sums])


def dwell_for(closing: Closing, piece: Piece, wanted: float) -> float | None:
    """Dwell in s after which a closing's first place has a dye uptake (or, for film, an adhesive
    flow in kPa·s); None where it never gets there within half an hour.
    """
    course = press(replace(closing, time_s=LONGEST_DWELL_S))
    if piece.is_dye:
        sums = cumulated(course, piece.law.at, piece.interface)[:, 0]
    else:
        pressure = closing.pressure_kpa
        if pressure is None or piece.adhesive is None:
            raise ValueError("An adhesive's flow needs its pressure and its melting.")
        flows = fluidity(piece.adhesive.flows_c)
        sums = pressure[0] * cumulated(course, flows, piece.interface)[:, 0]
    if sums[-1] < wanted:
        return None
    return float(np.interp(wanted, sums, course.time_s))


@dataclass(frozen=True)
class Area:
    """Outcome over true temperature (w,) in °C and dwell (t,) in s, as arrays (w, t)."""

    warm_c: np.ndarray
    time_s: np.ndarray
    reached: Reached
    outcome: PressOutcome

    def with_rate(self, factor: float, piece: Piece, kpa: float) -> PressOutcome:
        """The outcome where the dye were taken up (or the adhesive flowed) faster by a factor,
        at kPa.
        """
        reached_values = replace(
            self.reached,
            uptake=factor * self.reached.uptake,
            flow_kpa_s=factor * self.reached.flow_kpa_s,
        )
        return outcome(reached_values, piece, np.full(reached_values.uptake.shape, kpa))

    def chance(
        self, good: np.ndarray, at_c: float, sd_c: float, at_s: float, sd_s: float = TIMER_SD_S
    ) -> float:
        """Chance 0–1 that a press set to (at_c, at_s), known to its standards, lands where `good`
        (w, t) holds; what lies beyond the area counts as not good.
        """
        warm = _cell_chances(self.warm_c, at_c, sd_c)
        time = _cell_chances(self.time_s, at_s, sd_s)
        return float(warm @ good.astype(float) @ time)


def _cell_chances(centres: np.ndarray, mean: float, sd: float) -> np.ndarray:
    """Chance of each cell of an even row under a normal distribution."""
    step = centres[1] - centres[0]
    edges = np.concatenate([centres - step / 2, centres[-1:] + step / 2])
    return np.diff(ndtr((edges - mean) / max(sd, 1e-6)))


def area(
    closing: Closing, piece: Piece, warm_c: tuple[float, float], time_s: tuple[float, float]
) -> Area:
    """Outcomes of a closing's first place between two temperatures and two dwells.

    One solution for each of some temperatures, all dwells read from it; polynomials between them.
    """
    if closing.pressure_kpa is None:
        raise ValueError("An area needs a pressure.")
    kpa = float(closing.pressure_kpa[0])
    one = replace(
        closing,
        time_s=time_s[1],
        pressure_kpa=np.array([kpa]),
        lower_c=None if closing.lower_c is None else closing.lower_c[:1],
    )
    lattice = solve(one, warm_c, WARM_POINTS)
    warm = np.linspace(*warm_c, WARM_CELLS)
    times = np.linspace(*time_s, TIME_CELLS)
    result = _over_dwells(lattice.course, piece, kpa, times)
    weights = lattice.nodes.weights(warm, np.full(len(warm), kpa))
    result = result.carried(lambda values: carried(weights, values))
    return Area(warm, times, result, outcome(result, piece, np.full(result.uptake.shape, kpa)))


def _over_dwells(course: HeatCourse, piece: Piece, kpa: float, times: np.ndarray) -> Reached:
    """What is reached at each place after each dwell, arrays (p, times). Water is not told."""
    at, nothing = piece.interface, np.zeros((course.below_c.shape[1], len(times)))

    def at_dwells(sums: np.ndarray) -> np.ndarray:
        return np.array([np.interp(times, course.time_s, column) for column in sums.T])

    sums = {name: at_dwells(cumulated(course, r, at)) for name, r in rates(piece).items()}
    dents, below = nothing, course.below_c[:, :, at]
    if piece.softens_c is not None:
        soft = piece.softens_c
        seconds = cumulated(course, lambda t: 1.0 / (1.0 + np.exp(soft - t)), at)
        dents = kpa * at_dwells(seconds) / DENTS_KPA_S
    return Reached(
        sums.get("uptake", nothing),
        kpa * sums.get("flow_kpa_s", nothing),
        nothing,
        sums["scorch"],
        sums.get("migration", nothing),
        dents,
        nothing,
        at_dwells(below),
        at_dwells(np.maximum.accumulate(below, axis=0)),
    )
