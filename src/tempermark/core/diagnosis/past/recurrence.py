"""Does a mark follow the platen or the blank? Told by the same mark on other pieces.

Handbook 2, "Ways of reasoning", 2. Pieces speak only when their art lay elsewhere: with
equal placement a mark comes back at one place whichever it follows.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.stats import binom

# A mark is tapped to about a thumb's width; farther apart than this it is another place.
SAME_PLACE_MM = 40.0


@dataclass(frozen=True)
class PlacedMark:
    """A mark on the platen, and the front left corner of its art, both (x, y) in mm."""

    mark_mm: tuple[float, float]
    art_mm: tuple[float, float]


@dataclass(frozen=True)
class Recurrence:
    """Other pieces' marks against one: how many can tell, how many lie at the same place of the
    platen and of the blank, and the chance that so many would by accident.
    """

    looked: int
    on_platen: int
    on_blank: int
    by_chance: float


def recurrence(
    mark: PlacedMark, others: list[PlacedMark], art_mm: tuple[float, float]
) -> Recurrence:
    """Counts of what other pieces tell, and the chance of coincidence.

    Were marks strewn evenly over art of this size, each would lie within `SAME_PLACE_MM` of one
    place with the share of that disc in the art's area; so many of them do with a binomial tail.
    """
    looked = [o for o in others if _apart(o.art_mm, mark.art_mm) > SAME_PLACE_MM]
    found = [_summary(mark, other) for other in looked]
    on_platen, on_blank = found.count("follows_platen"), found.count("follows_blank")
    area = max(art_mm[0] * art_mm[1], 1.0)
    share = min(float(np.pi * SAME_PLACE_MM**2 / area), 1.0)
    most = max(on_platen, on_blank)
    chance = float(binom.sf(most - 1, len(looked), share)) if most else 1.0
    return Recurrence(len(looked), on_platen, on_blank, chance)


def follows(mark: PlacedMark, others: list[PlacedMark]) -> str | None:
    """`follows_platen`, `follows_blank`, or None where the others do not tell or disagree.

    A mark at (60, 450) with art at (40, 215); another piece with art at (100, 215) marked
    at (62, 448): it stayed with the platen.
    """
    found = {_summary(mark, other) for other in others} - {None}
    return found.pop() if len(found) == 1 else None


def _summary(mark: PlacedMark, other: PlacedMark) -> str | None:
    on_platen = _apart(mark.mark_mm, other.mark_mm) <= SAME_PLACE_MM
    moved = np.subtract(other.art_mm, mark.art_mm)
    on_blank = _apart(np.add(mark.mark_mm, moved), other.mark_mm) <= SAME_PLACE_MM
    if on_platen == on_blank:
        return None
    return "follows_platen" if on_platen else "follows_blank"


def _apart(a: np.ndarray | tuple[Any, ...], b: tuple[Any, ...]) -> float:
    return float(np.hypot(*np.subtract(a, b)))
