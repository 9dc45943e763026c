"""Where art goes on a garment: from a seam, from a second edge, and how much room is left beside.

Range: distances as they are measured on the garment lying flat and unstretched.
"""

from dataclasses import dataclass

# Art nearer to a seam than this lies partly on it, mm: half a seam's width and the placing error.
# A starting value.
SEAM_CLEARANCE_MM = 15.0


@dataclass(frozen=True)
class GuideSize:
    """One size of a garment: the art's edge from the first edge, its middle from the second, and
    how wide the garment is there, mm; None where it was not measured.
    """

    size: str
    first_mm: float
    second_mm: float | None = None
    across_mm: float | None = None

    @property
    def middle_mm(self) -> float | None:
        """The art's middle from the second edge, mm: as measured, else half the width."""
        if self.second_mm is not None:
            return self.second_mm
        return None if self.across_mm is None else self.across_mm / 2

    def clearance_mm(self, art_width_mm: float) -> float | None:
        """What is left between the art and the nearer side, mm; below 0 where it is over it."""
        if self.across_mm is None or self.middle_mm is None:
            return None
        return min(self.middle_mm, self.across_mm - self.middle_mm) - art_width_mm / 2

    def is_clear(self, art_width_mm: float) -> bool | None:
        """Whether art of a width in mm keeps clear of the seams beside it; None: not known."""
        left = self.clearance_mm(art_width_mm)
        return None if left is None else left >= SEAM_CLEARANCE_MM
