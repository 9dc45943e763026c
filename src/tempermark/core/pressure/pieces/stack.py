"""How thick a stack is under pressure, and what its blank stands."""

from tempermark.core.recipes.layers import code_of, thickness_of
from tempermark.core.thermal.library.materials import materials

# What lies on or under a blank and adds to the stack's thickness.
SHEETS = ("transfer", "film", "carrier", "cover")
# What stays in its shape between platen and pad, and so carries the force alone.
RIGID_KINDS = frozenset(
    {"panel", "tile", "glass", "hardboard", "wood", "mug", "tumbler", "plastic"}
)
# Kinds that lie in the press with front and back.
# Contact that a kind stands where its own limit is not noted, kPa: plastics soften and survive
# "only with almost no pressure" (handbook 3, "Dye"). Boards and panels stand twice what the trade
# calls firm before a coat is marked or a board crushed. Starting values.
KIND_LIMIT_KPA = {"plastic": 10.0, "panel": 160.0, "hardboard": 160.0, "wood": 160.0}
# A blank's thickness is known to about this share, and no better than this; standard.
THICKNESS_SHARE, THICKNESS_SD_MM = 0.05, 0.05
# Where nobody measured a blank: a cloth. Starting value, mm.
UNKNOWN_MM = 0.6


def sheets_mm(stack: list[str]) -> float:
    """Thickness in mm of the sheets and transfers among a recipe's layers, as the library has them
    or as a layer itself says.
    """
    library = materials()
    known = [entry for entry in stack if code_of(entry) in library]
    sheets = [e for e in known if library[code_of(e)].group in SHEETS]
    return round(sum(thickness_of(e) or library[code_of(e)].thickness_mm for e in sheets), 3)


def is_pillow(entry: str) -> bool:
    """Whether a layer is a pillow."""
    code = code_of(entry)
    return code in materials() and materials()[code].group == "pillow"


def thickness_sd_mm(stack_mm: float) -> float:
    """Standard uncertainty of a stack's thickness, mm."""
    return max(THICKNESS_SD_MM, THICKNESS_SHARE * stack_mm)
