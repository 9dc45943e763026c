"""How a pressed piece cools: from what the solver leaves in it, by where it is laid.

Equation: C·dT/dt = −(h_up + h_down)·(T − T_a), C = Σ ρ·c·L of the layers that leave the press, h of
air by temperature. Range: flat pieces and vessel walls up to some centimetres, as one lump.
Source: handbook 3, “Cooling and touch”: about 10 W/m²K in still air near hand heat, 15–20 at
190 °C, half of it for bare metal; 50–200 on cold metal or stone with a good contact.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from tempermark.core.pressing.chain import state_before
from tempermark.core.pressing.closing import closing_of, press_once
from tempermark.core.pressing.layout import build_layout
from tempermark.core.pressing.request import PressRequest
from tempermark.core.recipes.steps import Sheet
from tempermark.core.thermal.library.materials import Material, codes_of, materials
from tempermark.core.thermal.solver import closing as press
from tempermark.core.vocabulary.things import VESSEL_KINDS

# On each face, W/m²K at °C (handbook 3): between them by a straight line.
AIR_AT_C, AIR_W_M2K = (48.0, 190.0), (10.0, 17.5)
AIR_WITHIN = 0.2
# Warm air stays under a plate on a rack. A starting value.
OVER_A_RACK = 0.8
# Bare metal radiates little: half of it. Dry cloth or wood lets through what its own conductivity
# allows, W/m²K: 20 mm of it. A starting value.
BARE_METAL = 0.5
BARE = ("steel_wall",)
INSULATED_W_M2K = 5.0
# Cold metal or stone under it, W/m²K, from, usual, to. The handbook's 50–200 are for a good
# contact: a flat metal panel has it in part (it bows while hot), a tile's ribbed back, wood and
# plastic have an air gap of a millimetre. With these the shipped recipes' cooling times hold.
METAL_CONTACT_W_M2K, ROUGH_CONTACT_W_M2K = (20.0, 50.0, 200.0), (10.0, 20.0, 50.0)
METAL = ("aluminium_panel", "steel_wall")
# A carrier that is peeled warm comes off from here; cut, stacked and packed is a piece from there,
# °C. Starting values: what a gloved and what a bare hand calls warm and cold.
PEEL_WARM_C, PACK_C = 60.0, 35.0
STEPS = 400
# What stays in the press or is taken off at once.
LEFT_BEHIND = codes_of("cover", "pad", "pillow", "transfer")


@dataclass(frozen=True)
class CoolingPlace:
    """Where a hot piece is laid: what its faces meet, and what to beware of."""

    code: str
    label: str
    below: str
    above: str = "air"
    caution: str = ""


PLACES = {
    place.code: place
    for place in (
        CoolingPlace("table", "on a cold metal table", "contact"),
        CoolingPlace("rack", "on a rack", "rack"),
        CoolingPlace("air", "hanging in the air", "air"),
        CoolingPlace(
            "weight", "under a flat weight", "insulated", "contact", "Lay it flat: it sets so."
        ),
        CoolingPlace("cloth", "on a dry cloth or wood", "insulated"),
    )
}
# Kinds of blank that crack when they are chilled.
BRITTLE = ("mug", "glass", "tile")
COLD_SHOCK = "Never on cold metal or stone and never wet: it cracks."


def places_for(kind: str, softens: bool) -> list[CoolingPlace]:
    """Where a piece of a kind of blank may be laid, the usual place first (handbook 1 §6)."""
    if softens:
        return [PLACES["weight"]]
    if kind in BRITTLE:
        return [PLACES["cloth"], PLACES["rack"]]
    if kind in VESSEL_KINDS:
        return [PLACES["rack"], PLACES["cloth"]]
    if kind == "wood":
        return [PLACES["weight"], PLACES["rack"]]
    if kind == "hardboard":
        return [PLACES["rack"], PLACES["table"]]
    return [PLACES["table"], PLACES["rack"]]


@dataclass(frozen=True)
class LeavingPiece:
    """What leaves the press: the heat of its layers in J/m²K, their mean temperature in °C, the
    blank's material, and whether it is a vessel's wall.
    """

    heat_j_m2k: float
    start_c: float
    material: str
    is_vessel: bool = False


@dataclass(frozen=True)
class CoolingTime:
    """Seconds until a temperature, as expected and from … to."""

    seconds: float
    low_s: float
    high_s: float


def leaving_piece(
    sheet: Sheet, request: PressRequest, library: Mapping[str, Material] | None = None
) -> LeavingPiece | None:
    """The piece as its main press leaves it, without sheets, transfer and pad, with what the steps
    before left in it. None where nothing is printed.
    """
    library = library or materials()
    pressed = press_once(request, library, state_before(sheet, "", request, library))
    if pressed is None:
        return None
    layout = build_layout(request, library)
    cells = press.cells_of(closing_of(request, layout))
    heat = stored = 0.0
    for number, layer in enumerate(layout.layers):
        if layer.name in LEFT_BEHIND:
            continue
        part = slice(int(cells.first[number]), int(cells.last[number]))
        size = layer.density_kg_m3 * layer.specific_heat_j_kgk * layer.thickness_mm * 1e-3
        width = cells.dx_m[part]
        heat += size
        stored += size * float((pressed.course.final_c[0, part] * width).sum() / width.sum())
    if not heat:
        return None
    blank = request.blank
    return LeavingPiece(heat, stored / heat, blank.material, blank.kind in VESSEL_KINDS)


def cooling_time(
    piece: LeavingPiece, place: CoolingPlace, to_c: float, room_c: float
) -> CoolingTime | None:
    """How long until a temperature in °C in a room of °C; None where the room is as warm."""
    if to_c <= room_c:
        return None
    if piece.start_c <= to_c:
        return CoolingTime(0.0, 0.0, 0.0)
    slow, usual, fast = (_seconds(piece, place, to_c, room_c, level) for level in (0, 1, 2))
    return CoolingTime(usual, fast, slow)


def _seconds(
    piece: LeavingPiece, place: CoolingPlace, to_c: float, room_c: float, level: int
) -> float:
    """∫ C ÷ (h·(T − T_a)) dT over the logarithm of the excess, where it is smooth."""
    ends = np.log(np.array([to_c, piece.start_c]) - room_c)
    excess = np.exp(np.linspace(ends[0], ends[1], STEPS))
    warm_c = room_c + excess
    # A vessel stands on its foot: its wall has air outside, and still air inside.
    below = "insulated" if piece.is_vessel else place.below
    faces = _face(piece, place.above, warm_c, level) + _face(piece, below, warm_c, level)
    return float(piece.heat_j_m2k * np.trapezoid(1 / faces, np.log(excess)))


def _face(piece: LeavingPiece, side: str, temperature_c: np.ndarray, level: int) -> np.ndarray:
    """W/m²K of a face at °C; `level` 0 low, 1 usual, 2 high."""
    if side == "contact":
        levels = METAL_CONTACT_W_M2K if piece.material in METAL else ROUGH_CONTACT_W_M2K
        return np.full_like(temperature_c, levels[level])
    if side == "insulated":
        return np.full_like(temperature_c, INSULATED_W_M2K)
    factor = 1 + AIR_WITHIN * (level - 1)
    factor *= OVER_A_RACK if side == "rack" else 1.0
    factor *= BARE_METAL if piece.material in BARE else 1.0
    return np.asarray(factor * np.interp(temperature_c, AIR_AT_C, AIR_W_M2K))
