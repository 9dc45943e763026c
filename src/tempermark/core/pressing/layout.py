"""A stack as written, laid out for the heat solver with the blank that is really pressed."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from tempermark.core.pressing.request import PressRequest
from tempermark.core.recipes.layers import SLEEVE, code_of, thickness_of
from tempermark.core.recipes.stack_rules import BLANKS, TRANSFERS
from tempermark.core.thermal.library.materials import Material, codes_of
from tempermark.core.thermal.solver.stack import Layer
from tempermark.core.vocabulary.methods import DYE_METHODS

PADS = codes_of("pad", "pillow")
COATS = codes_of("coat")
SHEETS = codes_of("cover", "transfer", "carrier")


@dataclass(frozen=True)
class StackLayout:
    """Layers for the solver with the entry each came from; the interface that receives the
    transfer (or else the blank's upper face), which layer is the blank, and entries the library
    does not know.
    """

    layers: list[Layer]
    entries: tuple[str, ...]
    interface: int | None
    blank_at: int | None
    left_out: tuple[str, ...]


def build_layout(request: PressRequest, library: Mapping[str, Material]) -> StackLayout:
    """The layers of a request's stack with its blank in them."""
    known = [e for e in request.stack if code_of(e) in library]
    left_out = [e for e in request.stack if e.strip() and e not in known and code_of(e) != SLEEVE]
    codes = [code_of(entry) for entry in known]
    blank_at = _blank_at(codes)
    layers = []
    for number, (code, entry) in enumerate(zip(codes, known, strict=True)):
        thick = thickness_of(entry)
        material = library[code]
        if number == blank_at and thick is None:
            # What is pressed is the blank, whatever the recipe was written for.
            material, thick = library[request.blank.material], request.blank.thickness_mm
        layer = material.layer(request.humidity, thick)
        if code in SHEETS:
            conducts = layer.conductivity_w_mk * request.sheet_factor
            layer = replace(layer, conductivity_w_mk=conducts)
        layers.append(replace(layer, initial_c=request.pad_c) if code in PADS else layer)
    interface = _interface(codes, blank_at, request.method)
    return StackLayout(layers, tuple(known), interface, blank_at, tuple(left_out))


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
