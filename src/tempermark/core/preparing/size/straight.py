"""How crooked something lies, from how far two points of its edge are off a straight line.

Equation: angle = atan(offset ÷ distance); a side of length L is off by L·sin(angle) at its end.
Range: any flat piece.
Source: geometry; handbook 1 §4, “straightness is measured, not guessed”.
"""

import math

# From here on a print looks crooked beside a straight edge, degrees. Starting value: no source but
# the bench; a shop that sees less may say so.
SEEN_FROM_DEG = 0.5


def crooked_deg(offset_mm: float, apart_mm: float) -> float:
    """The angle in degrees of an edge with two points so far apart and so far off level, mm."""
    return math.degrees(math.atan2(offset_mm, apart_mm))


def off_at_end_mm(side_mm: float, angle_deg: float) -> float:
    """How far the far end of a side is off for an angle in degrees, mm."""
    return side_mm * math.sin(math.radians(angle_deg))
