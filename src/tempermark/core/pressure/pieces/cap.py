"""Caps: the seam of a front, and the thinnest stroke that may cross it."""

from dataclasses import dataclass

from tempermark.core.pressure.pieces.shadow import Shadow, shadow
from tempermark.core.pressure.press.spring import SpringPad

# A felled seam of cap cloth: two folds over a backing tape; starting values, mm.
SEAM_HEIGHT_MM, SEAM_WIDTH_MM = 1.2, 6.0
# A stroke must be at least as wide as its part without contact is long, so that what bridges the
# seam is held from both sides. A rule of ours, to be replaced by the shop's wear trials.
WIDTH_FOR_GAP = 1.0
PANELS = (5, 6)


@dataclass(frozen=True)
class CapFront:
    """A cap's front: panels, where its seam lies (mm from the middle; None without one)."""

    panels: int
    seam_at_mm: float | None

    @classmethod
    def of(cls, panels: int, seam_at_mm: float | None = None) -> "CapFront":
        """The front of a cap, seams in mm from its middle: six panels have one there, five have
        none.
        """
        return cls(panels, 0.0 if panels == 6 and seam_at_mm is None else seam_at_mm)


@dataclass(frozen=True)
class SeamCrossing:
    """What a seam does to strokes across it, in mm."""

    shadow: Shadow
    without_contact_mm: float
    thinnest_stroke_mm: float
    crosses: bool


def crossing(
    front: CapFront,
    art_width_mm: float,
    art_off_middle_mm: float,
    pad: SpringPad,
    contact_kpa: float,
    seam_height_mm: float = SEAM_HEIGHT_MM,
    seam_width_mm: float = SEAM_WIDTH_MM,
) -> SeamCrossing:
    """Whether art on a cap's front reaches its seam, and the thinnest stroke that may cross.

    On each side of the seam contact is lost over the shadow's reach; upon the seam itself it
    holds. The longest part of a stroke without contact is that reach.
    """
    dark = shadow(seam_height_mm, pad, contact_kpa)
    gap = dark.reach_mm.high
    crosses = False
    if front.seam_at_mm is not None:
        away = abs(front.seam_at_mm - art_off_middle_mm)
        crosses = away < art_width_mm / 2 + seam_width_mm / 2 + gap
    return SeamCrossing(dark, gap, WIDTH_FOR_GAP * gap, crosses)
