"""How thick a stack is under pressure, and what its blank stands."""

# Usual thickness of sheets and transfers, mm (handbook 3, table of starting properties).
SHEET_MM = {
    "transfer_paper": 0.12,
    "plain_paper": 0.08,
    "parchment": 0.06,
    "ptfe_sheet": 0.13,
    "wicking_cloth": 0.6,
    "film_pu": 0.09,
    "film_carrier": 0.1,
}
# What stays in its shape between platen and pad, and so carries the force alone.
RIGID_KINDS = frozenset(
    {"panel", "tile", "glass", "hardboard", "wood", "mug", "tumbler", "plastic"}
)
# Kinds that lie in the press with front and back.
TWO_LAYERED = frozenset({"garment", "bag"})
# Contact that a kind stands where its own limit is not noted, kPa: plastics soften and survive
# "only with almost no pressure" (handbook 3, "Dye"). Starting value.
KIND_LIMIT_KPA = {"plastic": 10.0}
# A blank's thickness is known to about this share, and no better than this; standard.
THICKNESS_SHARE, THICKNESS_SD_MM = 0.05, 0.05
# Where nobody measured a blank: a cloth. Starting value, mm.
UNKNOWN_MM = 0.6


def sheets_mm(stack: list[str]) -> float:
    """Thickness in mm of the sheets and transfers among a recipe's layers."""
    return round(sum(SHEET_MM.get(layer.split()[0], 0.0) for layer in stack if layer.strip()), 3)


def thickness_sd_mm(stack_mm: float) -> float:
    """Standard uncertainty of a stack's thickness, mm."""
    return max(THICKNESS_SD_MM, THICKNESS_SHARE * stack_mm)
