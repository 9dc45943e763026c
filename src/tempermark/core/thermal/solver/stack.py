"""A stack as the solver takes it: layers with their properties, cells, contact resistances.

Equation: R = 2·10⁻⁴ m²K/W·(p/20 kPa)^−0.95.
Range: 1 kPa and more; below it as at 1 kPa.
Source: Yovanovich form; starting value.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np

# Contact of paper and cloth at 20 kPa, and how it falls with pressure (handbook 3, "Heat through
# the stack"; Yovanovich form for plastic contact of rough surfaces). Below 1 kPa the air and
# fibres between carry the heat.
CONTACT_M2K_W, CONTACT_AT_KPA, CONTACT_POWER, CONTACT_LEAST_KPA = 2e-4, 20.0, 0.95, 1.0
# Cells of a layer grow by this from each of its faces; how many a layer has at least and at most.
GROWTH, LEAST_CELLS, MOST_CELLS = 1.08, 14, 90
# No cell at a face is thicker, mm: halving it changes no temperature by 0.05 K.
FACE_CELL_MM = 0.03
# A better conductor is nearly even inside, W/mK, and needs few cells.
EVEN_FROM_W_MK = 5.0


@dataclass(frozen=True)
class Layer:
    """One layer: thickness in mm, conductivity W/mK, dry density kg/m³, dry specific heat J/kgK,
    water in kg per kg dry, and its temperature at the start in °C (None: the stack's).
    """

    thickness_mm: float
    conductivity_w_mk: float
    density_kg_m3: float
    specific_heat_j_kgk: float
    moisture_fraction: float = 0.0
    initial_c: float | None = None
    name: str = ""


@dataclass(frozen=True)
class Cells:
    """The layers cut into cells, top first: (n,) thickness in m, conductivity, dry heat capacity
    and water per m² of face, start temperature; `first` (layers,) and `last` cells of each layer.
    """

    dx_m: np.ndarray
    conductivity: np.ndarray
    dry_j_m2k: np.ndarray
    water_kg_m2: np.ndarray
    initial_c: np.ndarray
    first: np.ndarray
    last: np.ndarray


def contact_m2k_w(contact_kpa: Any) -> Any:
    """Contact resistance in m²K/W under a pressure in kPa (scalar or array)."""
    pressure = np.maximum(np.asarray(contact_kpa, float), CONTACT_LEAST_KPA)
    return CONTACT_M2K_W * (pressure / CONTACT_AT_KPA) ** -CONTACT_POWER


def cut(layers: list[Layer], initial_c: float, fineness: float = 1.0) -> Cells:
    """Cells graded towards every face, the thinnest some µm; `fineness` 2 halves them."""
    parts = [_shares(layer, fineness) for layer in layers]
    counts = np.array([len(p) for p in parts])
    dx = np.concatenate([s * y.thickness_mm * 1e-3 for s, y in zip(parts, layers, strict=True)])

    def each(values: list[Any]) -> np.ndarray:
        return np.repeat(np.array(values, float), counts)

    density = each([y.density_kg_m3 for y in layers])
    start = [initial_c if y.initial_c is None else y.initial_c for y in layers]
    last = np.cumsum(counts) - 1
    return Cells(
        dx_m=dx,
        conductivity=each([y.conductivity_w_mk for y in layers]),
        dry_j_m2k=dx * density * each([y.specific_heat_j_kgk for y in layers]),
        water_kg_m2=dx * density * each([y.moisture_fraction for y in layers]),
        initial_c=each(start),
        first=last - counts + 1,
        last=last,
    )


def _shares(layer: Layer, fineness: float) -> np.ndarray:
    """Shares of a layer's thickness, symmetric, growing from its faces inwards."""
    face = FACE_CELL_MM / layer.thickness_mm
    half = 1
    while half < MOST_CELLS // 2 and 2 * face * (GROWTH**half - 1) / (GROWTH - 1) < 1:
        half += 1
    count = max(LEAST_CELLS, 2 * half)
    if layer.conductivity_w_mk > EVEN_FROM_W_MK:
        count = LEAST_CELLS
    count = int(np.ceil(count * fineness))
    growth = GROWTH ** (1 / fineness)
    ramp = growth ** np.minimum(np.arange(count), np.arange(count)[::-1])
    return np.asarray(ramp / ramp.sum())
