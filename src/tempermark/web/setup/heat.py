"""A recipe's step on a press: rows into the heat solver, and what comes of it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from tempermark.core.recipes.layers import SLEEVE, code_of, thickness_of
from tempermark.core.recipes.stack_rules import BLANKS, TRANSFERS, Stacked
from tempermark.core.recipes.steps import WITHOUT_CONTACT, Step
from tempermark.core.thermal import dye, press
from tempermark.core.thermal.conduction import Course, Heater, State
from tempermark.core.thermal.in_a_row import hover_contact_m2k_w
from tempermark.core.thermal.materials import Material, codes_of
from tempermark.core.thermal.outcome import (
    USUAL_SCORCH_C,
    Outcome,
    Piece,
    Reached,
    outcome,
    reached,
)
from tempermark.core.thermal.press import Closing
from tempermark.core.thermal.sampled import UNTAUGHT, LawKnown
from tempermark.core.thermal.stack import CONTACT_LEAST_KPA, Layer
from tempermark.core.vocabulary import DYE_METHODS, FILM_METHODS
from tempermark.web.floor.models import Element
from tempermark.web.measure import queries as surveys
from tempermark.web.setup.library import kind_of, limits_of
from tempermark.web.setup.models import Blank

# What a blank of a kind is of, in the library, where its material is not noted.
KIND_MATERIAL = {
    "garment": "polyester_jersey",
    "bag": "cotton_canvas",
    "cap": "cap_front",
    "hardboard": "hardboard",
    "panel": "aluminium_panel",
    "tile": "ceramic_tile",
    "glass": "glass",
    "wood": "plywood",
    "mug": "stoneware_wall",
    "tumbler": "steel_wall",
    "plastic": "petg",
    "leather": "leather",
}
NOTED_MATERIAL = {
    "aluminium": "aluminium_panel",
    "stainless": "steel_wall",
    "stoneware": "stoneware_wall",
}
# A cloth with this share of polyester or more is laid out as polyester.
MOSTLY = 0.5
VESSELS = ("mug", "tumbler")
SOFT = ("garment", "bag", "cap", "plastic", "leather")
PADS = codes_of("pad", "pillow")
COATS = codes_of("coat")
SHEETS = codes_of("cover", "transfer", "carrier")
ROOM_C = 22.0
# Still air inside a vessel, W/m²K (handbook 3, "Cooling and touch": about 10 near hand heat).
INSIDE_W_M2K = 10.0
# A platen that dips: power and heat capacity per m² of an ordinary 400 × 500 mm aluminium platen
# (1.8 kW, 12 mm thick: 12e-3 · 2700 · 900). Starting values.
PLATEN_W_M2, PLATEN_J_M2K = 9000.0, 29_000.0
# Density from which a print counts as full.
FULL_DENSITY = 0.9
HOVER_GAP_MM = 15.0


@dataclass(frozen=True)
class Asked:
    """What is to be pressed and how. `stack` in stored entries; temperatures in true °C. The law
    and the factors on contacts and on the sheets' conductivity are what the shop has learned.
    """

    step: Step
    method: str
    stack: tuple[str, ...]
    blank: Blank
    true_c: float
    dwell_s: float
    kpa: float
    humidity: float
    pad_c: float = ROOM_C
    dips: bool = False
    law: dye.Law = dye.STARTING
    law_known: LawKnown = UNTAUGHT
    contact_factor: float = 1.0
    sheet_factor: float = 1.0


@dataclass(frozen=True)
class Laid:
    """A stack laid out for the solver: layers with the entry each came from, where the transfer (or
    else the blank) receives heat, which layer is the blank, and what the library does not know.
    """

    layers: list[Layer]
    entries: tuple[str, ...]
    interface: int | None
    blank_at: int | None
    left_out: tuple[str, ...]


@dataclass(frozen=True)
class Pressed:
    """A closing on an element: the course and what it means for the piece, at its first place."""

    asked: Asked
    laid: Laid
    closing: Closing
    course: Course
    piece: Piece
    reached: Reached
    outcome: Outcome
    transfers: bool

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
        return self.piece.flows_c is not None

    @property
    def density(self) -> float:
        """Density 0–1."""
        return float(self.outcome.density[0])

    @property
    def bond(self) -> float:
        """Bond 0–1."""
        return float(self.outcome.bond[0])

    @property
    def water_g_m2(self) -> float:
        """Water left in the stack."""
        return float(self.reached.water_kg_m2[0] * 1e3)

    @property
    def dose(self) -> float:
        """Dye dose."""
        return float(self.reached.dose[0])

    def risk(self, name: str) -> float:
        """One of its risks, 0–1."""
        return float(self.outcome.risks[name][0])


def lay(asked: Asked, library: Mapping[str, Material]) -> Laid:
    """The stack's layers with this blank in them."""
    known = [e for e in asked.stack if code_of(e) in library]
    left_out = [e for e in asked.stack if e.strip() and e not in known and code_of(e) != SLEEVE]
    codes = [code_of(entry) for entry in known]
    blank_at = _blank_at(codes)
    layers = []
    for number, (code, entry) in enumerate(zip(codes, known, strict=True)):
        thick = thickness_of(entry)
        material = library[code]
        if number == blank_at and thick is None:
            # What is pressed is the blank, whatever the recipe was written for.
            material, thick = library[material_of(asked.blank, library)], asked.blank.thickness_mm
        layer = material.layer(asked.humidity, thick)
        if code in SHEETS:
            conducts = layer.conductivity_w_mk * asked.sheet_factor
            layer = replace(layer, conductivity_w_mk=conducts)
        layers.append(replace(layer, initial_c=asked.pad_c) if code in PADS else layer)
    interface = _interface(codes, blank_at, asked.method)
    return Laid(layers, tuple(known), interface, blank_at, tuple(left_out))


def _blank_at(codes: list[str]) -> int | None:
    """The first cloth, board or wall below all transfers; a sheet of laminate counts with it."""
    last = max((i for i, code in enumerate(codes) if code in TRANSFERS), default=-1)
    return next((i for i, code in enumerate(codes) if i > last and code in BLANKS), None)


def _interface(codes: list[str], blank_at: int | None, method: str) -> int | None:
    """Under the printed paper for dye, else above the blank; None with nothing above it."""
    if method in DYE_METHODS and "transfer_paper" in codes[:-1]:
        return codes.index("transfer_paper")
    if blank_at:
        # A coat belongs to the blank.
        above = blank_at - 1
        return above - 1 if codes[above] in COATS and above else above
    transfers = [i for i, code in enumerate(codes[:-1]) if code in TRANSFERS]
    return transfers[0] if transfers else None


def material_of(blank: Blank, library: Mapping[str, Material]) -> str:
    """The library's material of a blank."""
    kind = kind_of(blank)
    noted = NOTED_MATERIAL.get(blank.material, blank.material)
    if noted in library:
        return noted
    if kind is not None:
        return kind.material
    if blank.kind == "garment" and blank.polyester is not None:
        return "polyester_jersey" if blank.polyester >= MOSTLY else "cotton_jersey"
    return KIND_MATERIAL[blank.kind]


def receiving_share(blank: Blank, stack: tuple[str, ...] = ()) -> float:
    """Share of what dye finds: polyester, or all of a coat or laminate; none on a bare side."""
    told = " ".join(stack)
    if "uncoated side" in told:
        return 0.0
    coats = codes_of("coat") | {"laminate_film"}
    coated = "coated side" in told or any(code_of(entry) in coats for entry in stack)
    if coated or blank.coating not in ("", "none"):
        return 1.0
    return 1.0 if blank.polyester is None else blank.polyester


def piece_of(asked: Asked, laid: Laid, library: Mapping[str, Material]) -> Piece:
    """What the outcome needs to know of what is pressed. Its stack must have an interface."""
    if laid.interface is None:
        raise ValueError("Nothing in this stack receives heat.")
    limits = limits_of(asked.blank)
    material = library[material_of(asked.blank, library)]
    flows = [library[y.name].flows_c for y in laid.layers[: laid.interface + 1]]
    films = [flow for flow in flows if flow is not None]
    is_film = asked.method in FILM_METHODS and bool(films)
    dyed = 0.0 if asked.blank.colour in ("", "white") else asked.blank.polyester or 0.0
    return Piece(
        interface=laid.interface,
        share=receiving_share(asked.blank, laid.entries),
        is_dye=is_dyeing(asked, laid),
        flows_c=max(films) if is_film else None,
        scorch_c=limits.scorch_c or material.scorch_c or USUAL_SCORCH_C,
        softens_c=limits.softens_c or material.softens_c,
        migrates_c=limits.migrates_c,
        dyed=dyed,
        is_soft=asked.blank.kind in SOFT,
        law=asked.law,
    )


def is_dyeing(asked: Asked, laid: Laid) -> bool:
    """Whether dye passes from a printed paper in this stack."""
    return asked.method in DYE_METHODS and "transfer_paper" in map(code_of, laid.entries)


def closing_of(asked: Asked, laid: Laid) -> Closing:
    """One place of a press closed (or hovering) on the stack."""
    hovers = asked.step.kind in WITHOUT_CONTACT
    lower_c, lower_contact = ROOM_C, 0.0
    if asked.step.lower_c:
        lower_c = sum(asked.step.lower_c) / 2
    elif asked.blank.kind in VESSELS and not any(y.name in PADS for y in laid.layers):
        lower_contact = 1.0 / INSIDE_W_M2K
    gap = asked.step.gap_mm or HOVER_GAP_MM
    return Closing(
        layers=laid.layers,
        initial_c=ROOM_C,
        time_s=asked.dwell_s,
        upper_c=np.array([asked.true_c]),
        lower_c=np.array([lower_c]),
        pressure_kpa=np.array([CONTACT_LEAST_KPA if hovers else asked.kpa]),
        upper_contact=hover_contact_m2k_w(gap) if hovers else 0.0,
        lower_contact=lower_contact,
        contact_factor=asked.contact_factor,
        heater=Heater(PLATEN_W_M2, PLATEN_J_M2K, asked.true_c) if asked.dips else None,
    )


def pressed(
    asked: Asked, library: Mapping[str, Material], begins: State | None = None
) -> Pressed | None:
    """What the heat does; None where nothing in the stack receives it. `begins` is how its cells
    begin after earlier steps.
    """
    laid = lay(asked, library)
    if laid.interface is None:
        return None
    closing = replace(closing_of(asked, laid), begins=begins)
    course = press.press(closing)
    piece = piece_of(asked, laid, library)
    kpa = np.array([asked.kpa])
    made = reached(course, piece, kpa)
    told = outcome(made, piece, kpa)
    return Pressed(asked, laid, closing, course, piece, made, told, piece.is_dye or is_film(piece))


def is_film(piece: Piece) -> bool:
    """Whether an adhesive is to flow."""
    return piece.flows_c is not None


def stacked(asked: Asked, element: Element) -> Stacked:
    """The stack with this blank on this press, for the rules."""
    blank = asked.blank
    return Stacked(
        layers=asked.stack,
        method=asked.method,
        step=asked.step.kind,
        blank_kind=blank.kind,
        coating=blank.coating,
        features=tuple(blank.features),
        width_mm=blank.width_mm,
        height_mm=blank.height_mm,
        relative_humidity=asked.humidity,
        fixed_cover=element.press.cover,
    )


def profile(made: Pressed, at_s: float) -> tuple[np.ndarray, np.ndarray]:
    """Depth (n,) in mm from the platen and temperature (n,) in °C at a moment of the run."""
    moment = replace(made.closing, time_s=max(min(at_s, made.closing.time_s), 0.01))
    cells = press.cells_of(moment)
    course = press.press(moment)
    depth = (np.cumsum(cells.dx_m) - cells.dx_m / 2) * 1e3
    total = float(cells.dx_m.sum() * 1e3)
    top = course.upper_c[-1] if moment.upper_contact == 0 else course.final_c[0, :1]
    held = made.closing.lower_c is not None and made.closing.lower_contact == 0
    bottom = made.closing.lower_c if held else course.final_c[0, -1:]
    return (
        np.concatenate([[0.0], depth, [total]]),
        np.concatenate([top, course.final_c[0], bottom]),
    )


@dataclass(frozen=True)
class Stands:
    """True °C in the middle of an element at a dial, and its standard uncertainty; the dial itself,
    and None, while it was never measured. `over_c` (n,) at the places asked for, None without map.
    """

    true_c: float
    sd_c: float | None
    over_c: np.ndarray | None = None
    gain: float = 1.0


def stands(element: Element, set_c: float, when, places_mm: np.ndarray | None = None) -> Stands:
    """Where an element stands at a dial: in its middle, and at places (n, 2)."""
    middle = np.array([[element.width_mm / 2, element.height_mm / 2]])
    places = middle if places_mm is None else np.vstack([middle, places_mm])
    known = surveys.true_at(element, places, set_c, when)
    if known is None:
        return Stands(set_c, None)
    sd_c = float(known.standard_uncertainty_c[0])
    return Stands(float(known.value_c[0]), sd_c, known.value_c[1:], known.gain)


def true_under(element: Element, set_c: float, when) -> tuple[float, float | None]:
    """True °C in the middle of an element at a dial, and its standard uncertainty."""
    found = stands(element, set_c, when)
    return found.true_c, found.sd_c
