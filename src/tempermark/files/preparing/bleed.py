"""tempermark.bleed/1: growth of a hot rigid blank, its bleed, the size of its art."""

from typing import Any

from tempermark.core.constants import EXPANSION_PER_K
from tempermark.core.preparing.size.growth import bleed
from tempermark.files.document import Fields, read_format

FORMAT = "tempermark.bleed/1"
LONGEST_MM = 20_000.0
# No solid of the trade grows more than this share for each kelvin.
MOST_PER_K = 1e-3


def answer(data: object) -> dict[str, Any]:
    """The command: document in, document out."""
    fields = read_format(data, FORMAT)
    expansion = _expansion(fields)
    size = [fields.number(k, 0, LONGEST_MM, unit=" mm", above=True) for k in SIZE]
    hot, cold = fields.temperature("to_c"), fields.temperature("from_c")
    placement = fields.number("placement_mm", 0, LONGEST_MM, unit=" mm")
    fields.done()
    found = bleed((size[0], size[1]), expansion, cold, hot, placement)
    return {
        "growth_per_side_mm": _sides(found.growth_mm),
        "bleed_mm": _sides(found.bleed_mm),
        "art_mm": _sides(found.art_mm),
        "taping": found.taping,
    }


SIZE = ("width_mm", "height_mm")


def _expansion(fields: Fields) -> Any:
    if fields.has("expansion_per_k"):
        return fields.number("expansion_per_k", 0, MOST_PER_K, unit=" per K")
    code = fields.choice("material", tuple(EXPANSION_PER_K))
    return EXPANSION_PER_K.get(code)


def _sides(pair: tuple[float, float]) -> dict[str, float]:
    return {"width": round(pair[0], 4), "height": round(pair[1], 4)}
