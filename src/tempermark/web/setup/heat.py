"""A recipe's step on a press: rows as the core takes them, and where an element really stands."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from tempermark.core.pressing import request as pressing
from tempermark.core.pressing.request import PressRequest, loaded_share
from tempermark.core.recipes.stack_rules import Stacked
from tempermark.core.thermal.materials import Material
from tempermark.web.measure import queries as surveys
from tempermark.web.presses.models import Element
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


def core_blank(blank: Blank, library: Mapping[str, Material]) -> pressing.Blank:
    """A row as the core takes it, with what its shipped kind knows where the row says nothing."""
    kind, limits = kind_of(blank), limits_of(blank)
    size = (blank.width_mm, blank.height_mm)
    if kind is not None and None in size:
        size = (kind.width_mm, kind.height_mm)
    return pressing.Blank(
        name=blank.name,
        kind=blank.kind,
        material=material_of(blank, library),
        thickness_mm=blank.thickness_mm,
        polyester=blank.polyester,
        colour=blank.colour,
        coating=blank.coating,
        features=tuple(blank.features),
        width_mm=size[0],
        height_mm=size[1],
        limit_kpa=limits.limit_kpa,
        scorch_c=limits.scorch_c,
        softens_c=limits.softens_c,
        migrates_c=limits.migrates_c,
    )


def on_element(request: PressRequest, element: Element) -> PressRequest:
    """A request as an element's own plate feeds it."""
    size = (element.width_mm, element.height_mm)
    return replace(request, loaded_share=loaded_share(request.blank, size))


def stacked(request: PressRequest, element: Element) -> Stacked:
    """The stack with this blank on this press, for the rules."""
    blank = request.blank
    return Stacked(
        layers=request.stack,
        method=request.method,
        step=request.step.kind,
        blank_kind=blank.kind,
        coating=blank.coating,
        features=tuple(blank.features),
        width_mm=blank.width_mm,
        height_mm=blank.height_mm,
        relative_humidity=request.humidity,
        fixed_cover=element.press.cover,
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
