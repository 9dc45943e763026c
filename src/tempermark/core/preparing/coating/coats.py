"""Coats: how much a sprayed one takes, and brushed ones that dry side by side.

Equation: volume = area · wet film · coats ÷ share that lands. A schedule brushes whatever piece is
dry enough first; nothing is brushed twice at once.
Source: starting values, to be replaced by what a bottle has been seen to cover.
"""

from dataclasses import dataclass

# A sprayed coat that leaves cloth evenly damp, ml/m², and the share of a mist that lands on it.
SPRAYED_ML_M2, LANDS = 60.0, 0.65
MOST_PIECES = 60


def sprayed_ml(
    area_m2: float, coats: int, ml_m2: float = SPRAYED_ML_M2, lands: float = LANDS
) -> float:
    """ml that so many coats on an area in m² take out of the bottle."""
    return area_m2 * ml_m2 * coats / lands


@dataclass(frozen=True)
class Brushing:
    """One side of one piece brushed once: the piece, the side and the coat counted from 1; begin of
    the brushing, its end, and when it is dry, in s from the start.
    """

    piece: int
    side: int
    coat: int
    begins_s: float
    brushed_s: float
    dry_s: float


def staggered(
    pieces: int, sides: int, coats: int, brush_s: float, dries_s: float
) -> list[Brushing]:
    """Every side of every piece brushed as soon as one hand is free and the piece is dry, in the
    order of time; brushing and drying in s. Raises ValueError for nothing to brush, or more than
    is scheduled.
    """
    if not (1 <= pieces <= MOST_PIECES and sides in (1, 2) and 1 <= coats <= 6):
        raise ValueError("From 1 to 60 pieces, 1 or 2 sides and 1 to 6 coats are scheduled.")
    ready = [0.0] * pieces
    turns = [0] * pieces
    hand, found = 0.0, []
    for _ in range(pieces * sides * coats):
        # The piece that has waited longest; of those equally long the first.
        open_pieces = [n for n in range(pieces) if turns[n] < sides * coats]
        piece = min(open_pieces, key=lambda n: (max(ready[n], hand), turns[n], n))
        begins = max(ready[piece], hand)
        coat, side = divmod(turns[piece], sides)
        hand = begins + brush_s
        ready[piece] = hand + dries_s
        turns[piece] += 1
        found.append(Brushing(piece + 1, side + 1, coat + 1, begins, hand, ready[piece]))
    return found
