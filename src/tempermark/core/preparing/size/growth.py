"""How far a rigid blank grows when it is heated, and the bleed its art needs.

Equation: growth per side = α·L·ΔT/2; bleed = growth + placing error; art = size + 2·bleed.
Range: free, evenly heated rigid blanks between −50 and 600 °C; α is taken as constant.
Source: handbook 3, “Size”; handbook 1 §4 for bleed and taping.
"""

from dataclasses import dataclass

# A transfer on a piece with a side over this is taped at all its corners (handbook 1 §4), mm.
ALL_CORNERS_MM = 300.0
# Placing by hand is this exact, mm, and a room is at this, °C, where neither is known. Starting
# values.
PLACED_WITHIN_MM, ROOM_C = 1.0, 22.0


@dataclass(frozen=True)
class Bleed:
    """Growth per side, bleed per side and size of the art of a blank, each (width, height) in mm;
    `taping` is `all_corners` or `two_opposite`.
    """

    growth_mm: tuple[float, float]
    bleed_mm: tuple[float, float]
    art_mm: tuple[float, float]
    taping: str


def growth_per_side_mm(
    length_mm: float, expansion_per_k: float, from_c: float, to_c: float
) -> float:
    """How far each end of a length moves outwards, mm; negative where it is cooled."""
    return expansion_per_k * length_mm * (to_c - from_c) / 2


def bleed(
    size_mm: tuple[float, float],
    expansion_per_k: float,
    from_c: float,
    to_c: float,
    placement_mm: float,
) -> Bleed:
    """What a blank of a size (width, height) in mm needs between two temperatures in °C, placed
    to within `placement_mm` on each side.
    """
    wide, high = (growth_per_side_mm(side, expansion_per_k, from_c, to_c) for side in size_mm)
    each = (wide + placement_mm, high + placement_mm)
    art = (size_mm[0] + 2 * each[0], size_mm[1] + 2 * each[1])
    return Bleed((wide, high), each, art, taping(size_mm))


def folded_mm(found: Bleed, thickness_mm: float, fold_mm: float) -> Bleed:
    """The bleed of a transfer that is folded round the edges to the back: each side longer by the
    blank's thickness and the fold, mm; without a fold it stays.
    """
    if not fold_mm:
        return found
    more = thickness_mm + fold_mm
    wide, high = found.bleed_mm
    art = (found.art_mm[0] + 2 * more, found.art_mm[1] + 2 * more)
    return Bleed(found.growth_mm, (wide + more, high + more), art, found.taping)


def taping(size_mm: tuple[float, float]) -> str:
    """How a transfer on a piece of a size in mm is taped."""
    return "all_corners" if max(size_mm) > ALL_CORNERS_MM else "two_opposite"
