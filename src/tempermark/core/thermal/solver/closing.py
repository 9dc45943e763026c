"""One closing of the press at one or many places: interfaces, dose, energies, risks."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from tempermark.core.constants import GAS_CONSTANT_J_MOL_K, ZERO_CELSIUS_K
from tempermark.core.thermal.result import dye
from tempermark.core.thermal.solver.conduction import (
    HeatCourse,
    Heater,
    HeatState,
    PlatenBounds,
    run,
)
from tempermark.core.thermal.solver.stack import Cells, Layer, contact_m2k_w, cut

# Scorch: a minute at 210 °C begins to yellow cotton; activated, steeper than dye (handbook 3).
SCORCH_REFERENCE_C, SCORCH_AT_S, SCORCH_ACTIVATION_J_MOL = 210.0, 60.0, 150_000.0
# Hot melt: viscosity falls e-fold per 12 K (handbook 3).
MELT_FALL_K = 12.0
# A risk of one half where dose, scorch or squeeze reach their reference; how sharply it rises.
SHARPNESS = 4.0

# Something per second at °C.
Rate = Callable[[np.ndarray], np.ndarray]


@dataclass(frozen=True)
class Closing:
    """What is pressed and how, at (p,) places.

    `contacts` (layers − 1,) or (p, layers − 1) in m²K/W, or None: then the pressure (p,) in kPa
    tells them. `begins` (1 or p, cells) where the cells have a past: with the standard cells only.
    `contact_factor` is on resistances that the pressure tells: what a shop learned.
    """

    layers: list[Layer]
    initial_c: float
    time_s: float
    upper_c: np.ndarray
    lower_c: np.ndarray | None
    pressure_kpa: np.ndarray | None = None
    contacts: np.ndarray | None = None
    upper_contact: float = 0.0
    lower_contact: float = 0.0
    heater: Heater | None = None
    begins: HeatState | None = None
    contact_factor: float = 1.0


def press(closing: Closing, stops_s: tuple[float, ...] = (), fineness: float = 1.0) -> HeatCourse:
    """The course of a closing at its places; stops in s."""
    return run(
        cells_of(closing, fineness),
        _contacts(closing),
        _bounds(closing),
        closing.time_s,
        stops_s,
        fineness,
        _state(closing),
    )


def _state(closing: Closing) -> HeatState | None:
    """The past of the cells at every place; one place's past is that of all."""
    if closing.begins is None:
        return None
    places = len(closing.upper_c)
    now, highest = (
        np.broadcast_to(part, (places, part.shape[1]))
        for part in (closing.begins.now_c, closing.begins.highest_c)
    )
    return HeatState(now, highest)


def cells_of(closing: Closing, fineness: float = 1.0) -> Cells:
    """The stack cut into cells, of some µm at each face."""
    return cut(closing.layers, closing.initial_c, fineness)


def _bounds(closing: Closing) -> PlatenBounds:
    places = len(closing.upper_c)
    return PlatenBounds(
        closing.upper_c,
        closing.lower_c,
        np.full(places, closing.upper_contact),
        np.full(places, closing.lower_contact),
        closing.heater,
    )


def _contacts(closing: Closing) -> np.ndarray:
    shape = (len(closing.upper_c), len(closing.layers) - 1)
    if closing.contacts is not None:
        return np.broadcast_to(closing.contacts, shape).astype(float)
    summary = closing.contact_factor * contact_m2k_w(closing.pressure_kpa)
    return np.broadcast_to(summary[:, None], shape)


def at_times(course: HeatCourse, times_s: np.ndarray, values: str = "below_c") -> np.ndarray:
    """Face temperatures (n, p, interfaces) at times (n,) within the run.

    Between steps by the parabola through each step's start, inner stage and end.
    """
    ends = course.time_s
    begun = np.clip(np.searchsorted(ends, times_s, side="right") - 1, 0, len(ends) - 2)
    whole = getattr(course, values)
    middle = getattr(course, f"middle_{values}")[begun]
    start, end = ends[begun], ends[begun + 1]
    inner = (course.middle_time_s[begun] - start) / (end - start)
    share = (times_s - start) / (end - start)
    weights = (
        (share - inner) * (share - 1) / inner,
        share * (share - 1) / (inner * (inner - 1)),
        share * (share - inner) / (1 - inner),
    )
    shaped = [w.reshape((-1,) + (1,) * (whole.ndim - 1)) for w in weights]
    return np.asarray(shaped[0] * whole[begun] + shaped[1] * middle + shaped[2] * whole[begun + 1])


# Each step's integral by the parabola through its start, inner stage and end: (start, inner, end).
_G = 2.0 - np.sqrt(2.0)
STEP_WEIGHTS = (0.5 - 1 / (6 * _G), 1 / (6 * _G * (1 - _G)), (2 - 3 * _G) / (6 * (1 - _G)))


def over_time(course: HeatCourse, rate: Callable[..., Any], interface: int) -> np.ndarray:
    """∫ rate(T) dt (p,), unitless for a rate in 1/s, of the receiving face of an interface."""
    below, middle = course.below_c[:, :, interface], course.middle_below_c[:, :, interface]
    steps = np.diff(course.time_s)[:, None]
    at, inner = rate(below), rate(middle)
    each = STEP_WEIGHTS[0] * at[:-1] + STEP_WEIGHTS[1] * inner + STEP_WEIGHTS[2] * at[1:]
    return np.asarray((steps * each).sum(axis=0))


def seconds_above(course: HeatCourse, level_c: float, interface: int) -> np.ndarray:
    """Seconds (p,) that a receiving face spends above a temperature in °C."""
    lattice = np.sort(np.concatenate([course.time_s, course.middle_time_s]))
    fine = np.unique(np.concatenate([lattice, (lattice[1:] + lattice[:-1]) / 2]))
    values = at_times(course, fine)[:, :, interface] - level_c
    first, second = values[:-1], values[1:]
    steps = np.diff(fine)[:, None]
    crossing = first * second < 0
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where(crossing, np.abs(first) / np.abs(second - first), 0.0)
    part = np.where(crossing, np.where(first > 0, share, 1 - share), (first + second) > 0)
    return np.asarray((steps * part).sum(axis=0))


def dose(course: HeatCourse, interface: int) -> np.ndarray:
    """Dye dose (p,) at an interface."""
    return over_time(course, dye.rate_per_s, interface)


def activated(reference_c: float, seconds: float, activation_j_mol: float) -> Rate:
    """A rate in 1/s as a function of °C: 1 is reached after some seconds at a reference."""
    reference = 1.0 / (reference_c + ZERO_CELSIUS_K)

    def rate(temperature_c: np.ndarray) -> np.ndarray:
        inverse = 1.0 / (np.asarray(temperature_c, float) + ZERO_CELSIUS_K) - reference
        return np.exp(-activation_j_mol / GAS_CONSTANT_J_MOL_K * inverse) / seconds

    return rate


def risk(reached: np.ndarray) -> np.ndarray:
    """A risk 0–1 of something that is half likely where it reaches 1."""
    value = np.maximum(np.asarray(reached, float), 0.0)
    return np.asarray(value**SHARPNESS / (1.0 + value**SHARPNESS))
