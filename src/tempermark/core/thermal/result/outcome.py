"""How a piece comes out: what the course of the heat makes of dye, adhesive, cloth and blank.

First what is reached, each 1 where something happens (dose apart): that changes smoothly from place
to place and is carried over a platen. From it density, bond and risks.

Equation: rates activated by temperature (dye, scorch, migration), √(p·t/η) for adhesives, p·t above
softening.
Range: 130 to 230 °C, 1 to 300 s, 1 to 100 kPa.
Source: handbook 3; starting values fitted by tools/fit_receivers.py (decision 20).
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from tempermark.core.thermal.result import dye
from tempermark.core.thermal.solver.closing import (
    MELT_FALL_K,
    SCORCH_ACTIVATION_J_MOL,
    SCORCH_AT_S,
    SCORCH_REFERENCE_C,
    Rate,
    activated,
    over_time,
    risk,
    seconds_above,
)
from tempermark.core.thermal.solver.conduction import HeatCourse

# Adhesive: fluidity 1 at this much above the temperature from which it flows, e-fold per 12 K
# (handbook 3, "Hot-melt film"); below, it is solid within a few K.
FLUID_ABOVE_K, SETS_K = 20.0, 2.5
# Pressure × time at fluidity 1 with which the bond is full, and with which half the layer is
# pressed out, where a film says nothing of its own.
BONDED_KPA_S, HALVED_KPA_S = 25.0, 900.0
# The layer thins as 1/h² = 1/h₀² + C·X: h = h₀/2 where C·X·h₀² is 3.
THINNING = 3.0
# Garment dye that migrates into a film: 15 s at a cloth's own temperature begin to show; the dye's
# activation (handbook 3). A film shows it on dyed polyester only.
MIGRATES_AT_S, MIGRATION_ACTIVATION_J_MOL = 15.0, dye.STARTING.activation_j_mol
# A plastic above its softening gives way: pressure × time that dents it. Starting value: PETG under
# a hand plate stands 35 s of the lightest class and not of a medium one (handbook 4, job 20).
DENTS_KPA_S = 700.0
# Gas spreads further under harder pressure on soft and plastic faces (handbook 3, "Dye").
SPREADS_FROM_KPA, SPREADS_OVER_KPA = 45.0, 80.0
# Where a blank says nothing: a minute begins to yellow cotton (handbook 3).
USUAL_SCORCH_C = SCORCH_REFERENCE_C


@dataclass(frozen=True)
class Adhesive:
    """A hot melt: flows from `flows_c` at the interface; pressure × time at fluidity 1 in kPa·s
    with which it has bonded, and with which half of it is pressed out.
    """

    flows_c: float
    bonded_kpa_s: float = BONDED_KPA_S
    halved_kpa_s: float = HALVED_KPA_S


@dataclass(frozen=True)
class Piece:
    """What is pressed, as far as its outcome goes.

    `interface` is where transfer and blank meet; `share` of what dye finds there, `law` of its
    uptake and the uptake from which gas spreads; the adhesive of a film (None without one); limits
    of the blank in °C; `dyed` the share of dyed polyester; `is_soft` cloth or plastic. `face_cells`
    are the first and last cell that the print meets: their water counts (None: all of it).
    """

    interface: int
    share: float = 1.0
    is_dye: bool = True
    adhesive: Adhesive | None = None
    scorch_c: float = USUAL_SCORCH_C
    softens_c: float | None = None
    migrates_c: float | None = None
    dyed: float = 0.0
    is_soft: bool = True
    law: dye.Law = dye.STARTING
    spreads_from: float = dye.BLOWOUT_FROM
    face_cells: tuple[int, int] | None = None

    @property
    def flows_c(self) -> float | None:
        """From where its adhesive flows, °C; None without a film."""
        return None if self.adhesive is None else self.adhesive.flows_c


@dataclass(frozen=True)
class Reached:
    """What a course reaches at (p,) places: dye uptake, and adhesive flow in kPa·s; scorch,
    migration and dents, each 1 where it begins to show; s that the adhesive flows; water left at
    the print in kg/m².
    """

    uptake: np.ndarray
    flow_kpa_s: np.ndarray
    flows_s: np.ndarray
    scorch: np.ndarray
    migration: np.ndarray
    dents: np.ndarray
    water_kg_m2: np.ndarray
    last_c: np.ndarray
    hottest_c: np.ndarray

    def carried(self, carry: Callable[[np.ndarray], np.ndarray]) -> "Reached":
        """The same, units kept (kPa·s, s, kg/m²), after `carry` took each array from a lattice
        to other places."""
        return Reached(**{name: carry(value) for name, value in vars(self).items()})


@dataclass(frozen=True)
class PressOutcome:
    """How a piece comes out at (p,) places: density and bond 0–1, and risks 0–1 by name."""

    density: np.ndarray
    bond: np.ndarray
    risks: dict[str, np.ndarray]

    @property
    def worst_risk(self) -> np.ndarray:
        """The greatest of the risks (p,), 0–1."""
        return np.asarray(np.max(list(self.risks.values()), axis=0))


def rates(piece: Piece) -> dict[str, Rate]:
    """What adds up over time, by its name in `Reached`, each as a rate at °C. Flow is per kPa."""
    found: dict[str, Rate] = {
        "scorch": activated(piece.scorch_c, SCORCH_AT_S, SCORCH_ACTIVATION_J_MOL)
    }
    if piece.is_dye:
        found["uptake"] = piece.law.at
    if piece.adhesive is not None:
        found["flow_kpa_s"] = fluidity(piece.adhesive.flows_c)
        if piece.migrates_c is not None and piece.dyed > 0:
            dyed = piece.dyed
            tints = activated(piece.migrates_c, MIGRATES_AT_S, MIGRATION_ACTIVATION_J_MOL)
            found["migration"] = lambda temperature_c: dyed * tints(temperature_c)
    return found


def reached(course: HeatCourse, piece: Piece, pressure_kpa: np.ndarray) -> Reached:
    """What the course reaches at its places, under (p,) pressures in kPa."""
    at = piece.interface
    below = course.below_c[:, :, at]
    nothing = np.zeros(below.shape[1])
    sums = {name: over_time(course, rate, at) for name, rate in rates(piece).items()}
    flows, dents = nothing, nothing
    if piece.flows_c is not None:
        flows = seconds_above(course, piece.flows_c, at)
    first, last = piece.face_cells or (0, course.water_left.shape[1] - 1)
    if piece.softens_c is not None:
        dents = pressure_kpa * seconds_above(course, piece.softens_c, at) / DENTS_KPA_S
    return Reached(
        sums.get("uptake", nothing),
        pressure_kpa * sums.get("flow_kpa_s", nothing),
        flows,
        sums["scorch"],
        sums.get("migration", nothing),
        dents,
        course.water_left[:, first : last + 1].sum(axis=1),
        below[-1],
        below.max(axis=0),
    )


def outcome(reached_values: Reached, piece: Piece, pressure_kpa: np.ndarray) -> PressOutcome:
    """Density, bond and risks, each 0–1, of what is reached under (p,) kPa."""
    spreads = reached_values.uptake / piece.spreads_from
    if piece.is_soft:
        spreads = spreads * (1 + np.maximum(pressure_kpa - SPREADS_FROM_KPA, 0) / SPREADS_OVER_KPA)
    adhesive = piece.adhesive or Adhesive(USUAL_SCORCH_C)
    return PressOutcome(
        dye.density(reached_values.uptake, piece.share),
        bond(reached_values.flow_kpa_s, adhesive),
        {
            "scorch": risk(reached_values.scorch),
            "blowout": risk(spreads),
            "rim": risk(reached_values.flow_kpa_s / adhesive.halved_kpa_s),
            "migration": risk(reached_values.migration),
            "dents": risk(reached_values.dents),
        },
    )


def bond(flow_kpa_s: Any, adhesive: Adhesive) -> Any:
    """Bond 0–1: rises as the root of the flow, full at penetration 1; falls again once the layer is
    thinner than half.
    """
    flow = np.asarray(flow_kpa_s, float)
    left = 1.0 / np.sqrt(1.0 + THINNING * flow / adhesive.halved_kpa_s)
    return np.minimum(1.0, np.sqrt(flow / adhesive.bonded_kpa_s)) * np.minimum(1.0, left / 0.5)


def fluidity(flows_c: float) -> Callable[..., Any]:
    """How easily an adhesive flows, as a function of °C: e-fold per 12 K, solid below `flows_c`."""

    def rate(temperature_c: Any) -> Any:
        above = np.asarray(temperature_c, float) - flows_c
        return np.exp((above - FLUID_ABOVE_K) / MELT_FALL_K) / (1.0 + np.exp(-above / SETS_K))

    return rate


def shifted(piece: Piece, law: dye.Law, by_k: float) -> Piece:
    """A piece whose limits lie some K higher and whose dye follows another law: for drawing."""

    def up(limit_c: float | None) -> float | None:
        return None if limit_c is None else limit_c + by_k

    return replace(
        piece,
        law=law,
        scorch_c=piece.scorch_c + by_k,
        softens_c=up(piece.softens_c),
        migrates_c=up(piece.migrates_c),
    )
