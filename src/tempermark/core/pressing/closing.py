"""One closing of a press on a stack, and what comes of it for the piece."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from tempermark.core.pressing.layout import PADS, StackLayout, build_layout
from tempermark.core.pressing.limits import softens_c
from tempermark.core.pressing.request import ROOM_C, PressRequest
from tempermark.core.recipes.layers import code_of
from tempermark.core.recipes.steps import WITHOUT_CONTACT
from tempermark.core.thermal.library.materials import Library, Material, materials
from tempermark.core.thermal.library.receivers import (
    BARE,
    CLOTH_KINDS,
    Receiver,
    receiver_code,
    receivers,
)
from tempermark.core.thermal.result.outcome import (
    USUAL_SCORCH_C,
    Adhesive,
    Piece,
    PressOutcome,
    Reached,
    outcome,
    reached,
)
from tempermark.core.thermal.solver import closing as press
from tempermark.core.thermal.solver.closing import Closing
from tempermark.core.thermal.solver.conduction import HeatCourse, Heater, HeatState
from tempermark.core.thermal.solver.in_a_row import hover_contact_m2k_w
from tempermark.core.thermal.solver.stack import CONTACT_LEAST_KPA
from tempermark.core.vocabulary.methods import DYE_METHODS, FILM_METHODS
from tempermark.core.vocabulary.things import VESSEL_KINDS

SOFT = (*CLOTH_KINDS, "plastic")
# Still air inside a vessel, W/m²K (handbook 3, "Cooling and touch": about 10 near hand heat).
INSIDE_W_M2K = 10.0
# A platen that dips: power and heat capacity per m² of an ordinary 400 × 500 mm aluminium platen
# (1.8 kW, 12 mm thick: 12e-3 · 2700 · 900). Starting values.
PLATEN_W_M2, PLATEN_J_M2K = 9000.0, 29_000.0
# A plate feeds a small piece from no further than about its own size around it. Starting value.
LEAST_LOADED = 0.25
HOVER_GAP_MM = 15.0
# Water deeper than this under the transfer leaves sideways and downwards and does not reach the
# print: a board or a hide is never dry inside. Starting value, a few times the depth of a print.
PRINT_DEPTH_MM = 0.1


@dataclass(frozen=True, eq=False)
class PressResult:
    """A closing and what it means for the piece, at its first place.

    `receiver` is the surface that takes the dye, None for a film or a step that prints nothing.
    """

    request: PressRequest
    layout: StackLayout
    closing: Closing
    course: HeatCourse
    piece: Piece
    reached: Reached
    outcome: PressOutcome
    receiver: Receiver | None

    @property
    def interface(self) -> int:
        """Where what receives the transfer begins."""
        return self.piece.interface

    @property
    def is_dye(self) -> bool:
        """Whether dye passes; else a film is bonded."""
        return self.piece.is_dye

    @property
    def has_film(self) -> bool:
        """Whether an adhesive is to flow."""
        return self.piece.adhesive is not None

    @property
    def transfers(self) -> bool:
        """Whether the step prints anything."""
        return self.is_dye or self.has_film

    @property
    def density(self) -> float:
        """Density 0–1."""
        return float(self.outcome.density[0])

    @property
    def filled(self) -> float:
        """Share 0–1 of the density that this blank can take; bond of a film."""
        if not self.is_dye:
            return self.bond
        return self.density / self.piece.share if self.piece.share else 0.0

    @property
    def bond(self) -> float:
        """Bond 0–1."""
        return float(self.outcome.bond[0])

    @property
    def water_g_m2(self) -> float:
        """Water left in g/m² where it reaches the print; in the whole blank where nothing is
        printed.
        """
        return float(self.reached.water_kg_m2[0] * 1e3)

    @property
    def uptake(self) -> float:
        """Dye uptake: receptivity × dose."""
        return float(self.reached.uptake[0])

    def risk(self, name: str) -> float:
        """One of its risks, 0–1."""
        return float(self.outcome.risks[name][0])


def press_once(
    request: PressRequest,
    library: Mapping[str, Material] | None = None,
    begins: HeatState | None = None,
) -> PressResult | None:
    """What the heat does; None where nothing in the stack receives it. `begins` is how its cells
    begin after earlier steps.
    """
    library = library or materials()
    layout = build_layout(request, library)
    if layout.interface is None:
        return None
    closing = replace(closing_of(request, layout), begins=begins)
    return result_of(request, layout, closing, press.press(closing), library)


def result_of(
    request: PressRequest,
    layout: StackLayout,
    closing: Closing,
    course: HeatCourse,
    library: Mapping[str, Material],
) -> PressResult:
    """What a course means for the piece."""
    piece = piece_of(request, layout, library)
    kpa = np.array([request.kpa])
    reached_values = reached(course, piece, kpa)
    receiver = receiver_of(request) if piece.is_dye else None
    return PressResult(
        request,
        layout,
        closing,
        course,
        piece,
        reached_values,
        outcome(reached_values, piece, kpa),
        receiver,
    )


def receiver_of(request: PressRequest) -> Receiver:
    """The surface that meets the transfer."""
    blank = request.blank
    return receivers()[receiver_code(blank.kind, blank.coating, blank.material, request.stack)]


def receiving_share(request: PressRequest) -> float:
    """Share 0–1 of what dye finds: polyester of a cloth, all of a coat, nothing on a bare face."""
    receiver = receiver_of(request)
    if receiver.code == BARE:
        return 0.0
    if request.blank.kind in CLOTH_KINDS and receiver.code.startswith("polyester"):
        return 1.0 if request.blank.polyester is None else request.blank.polyester
    return 1.0


def is_dyeing(request: PressRequest, layout: StackLayout) -> bool:
    """Whether dye passes from a printed paper in this stack: never without contact."""
    if request.step.kind in WITHOUT_CONTACT or request.method not in DYE_METHODS:
        return False
    return "transfer_paper" in map(code_of, layout.entries)


def piece_of(request: PressRequest, layout: StackLayout, library: Mapping[str, Material]) -> Piece:
    """What the outcome needs to know of what is pressed. Its stack must have an interface."""
    if layout.interface is None:
        raise ValueError("Nothing in this stack receives the heat.")
    blank, receiver = request.blank, receiver_of(request)
    material = library[blank.material]
    dyes = is_dyeing(request, layout)
    adhesive = _adhesive(request, layout, library)
    return Piece(
        interface=layout.interface,
        share=receiving_share(request),
        is_dye=dyes,
        adhesive=adhesive,
        scorch_c=blank.scorch_c or material.scorch_c or USUAL_SCORCH_C,
        softens_c=softens_c(blank, library),
        migrates_c=blank.migrates_c,
        dyed=0.0 if blank.colour in ("", "white") else blank.polyester or 0.0,
        is_soft=receiver.is_soft if dyes else blank.kind in SOFT,
        law=request.law or receiver.law,
        spreads_from=receiver.spreads_from,
        face_cells=_face_cells(request, layout, dyes or adhesive is not None),
    )


def _adhesive(
    request: PressRequest, layout: StackLayout, library: Library | dict[str, Material]
) -> Adhesive | None:
    """The hardest adhesive of the films above the blank; none bonds without contact."""
    if request.step.kind in WITHOUT_CONTACT:
        return None
    if request.method not in FILM_METHODS or layout.interface is None:
        return None
    above = [library[y.name] for y in layout.layers[: layout.interface + 1]]
    films = [material.adhesive for material in above if material.adhesive is not None]
    film = max(films, key=lambda film: film.flows_c, default=None)
    if film is None:
        return None
    relief = library[request.blank.material].relief
    return replace(
        film, bonded_kpa_s=relief * film.bonded_kpa_s, halved_kpa_s=relief * film.halved_kpa_s
    )


def _face_cells(request: PressRequest, layout: StackLayout, prints: bool) -> tuple[int, int] | None:
    """Cells that the print meets: the transfer and the blank down to the depth of a print; where
    nothing is printed, the whole blank.
    """
    cells = press.cells_of(closing_of(request, layout))
    if not prints:
        # What a platen hovers over lies on top.
        at = 0 if request.step.kind in WITHOUT_CONTACT else layout.blank_at
        return None if at is None else (int(cells.first[at]), int(cells.last[at]))
    at = layout.interface
    if at is None:
        return None
    first, begins = int(cells.first[at]), int(cells.first[at + 1])
    depth_mm = np.cumsum(cells.dx_m[begins:]) * 1e3
    return first, begins + int(np.searchsorted(depth_mm, PRINT_DEPTH_MM))


def closing_of(request: PressRequest, layout: StackLayout) -> Closing:
    """One place of a press closed (or hovering) on the stack."""
    hovers = request.step.kind in WITHOUT_CONTACT
    lower_c, lower_contact = ROOM_C, 0.0
    if request.step.lower_c:
        lower_c = sum(request.step.lower_c) / 2
    elif request.blank.kind in VESSEL_KINDS and not any(y.name in PADS for y in layout.layers):
        lower_contact = 1.0 / INSIDE_W_M2K
    gap = request.step.gap_mm or HOVER_GAP_MM
    return Closing(
        layers=layout.layers,
        initial_c=ROOM_C,
        time_s=request.dwell_s,
        upper_c=np.array([request.true_c]),
        lower_c=np.array([lower_c]),
        pressure_kpa=np.array([CONTACT_LEAST_KPA if hovers else request.kpa]),
        upper_contact=hover_contact_m2k_w(gap) if hovers else 0.0,
        lower_contact=lower_contact,
        contact_factor=request.contact_factor,
        heater=_heater(request) if request.dips else None,
    )


def _heater(request: PressRequest) -> Heater:
    """A platen's power and heat over the part of it that the piece loads: the rest of the plate
    feeds a small piece.
    """
    share = max(request.loaded_share, LEAST_LOADED)
    return Heater(PLATEN_W_M2 / share, PLATEN_J_M2K / share)


def profile(pressed: PressResult, at_s: float) -> tuple[np.ndarray, np.ndarray]:
    """Depth (n,) in mm from the platen and temperature (n,) in °C at a moment of the run."""
    moment = replace(pressed.closing, time_s=max(min(at_s, pressed.closing.time_s), 0.01))
    cells = press.cells_of(moment)
    course = press.press(moment)
    depth = (np.cumsum(cells.dx_m) - cells.dx_m / 2) * 1e3
    total = float(cells.dx_m.sum() * 1e3)
    top = course.upper_c[-1] if moment.upper_contact == 0 else course.final_c[0, :1]
    held = pressed.closing.lower_c is not None and pressed.closing.lower_contact == 0
    bottom = pressed.closing.lower_c if held else course.final_c[0, -1:]
    return (
        np.concatenate([[0.0], depth, [total]]),
        np.concatenate([top, course.final_c[0], bottom]),
    )
