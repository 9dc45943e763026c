"""A blank as the core takes it, with what its shipped kind knows where the row says nothing."""

from collections.abc import Mapping

from tempermark.core.pressing import request as pressing
from tempermark.core.thermal.library.materials import Material
from tempermark.web.recipes.materials.library import kind_of, limits_of
from tempermark.web.recipes.models import Blank

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


def core_blank(blank: Blank, library: Mapping[str, Material]) -> pressing.BlankProperties:
    """A row as the core takes it, with what its shipped kind knows where the row says nothing."""
    kind, limits = kind_of(blank), limits_of(blank)
    size = (blank.width_mm, blank.height_mm)
    if kind is not None and None in size:
        size = (kind.width_mm, kind.height_mm)
    return pressing.BlankProperties(
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
