"""From millimetres on a platen to units of an SVG, as the operator sees it."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Projection:
    """A platen drawn with its front at the bottom; `scale` is SVG units per mm."""

    width_mm: float
    height_mm: float
    scale: float
    left: float = 0.0
    top: float = 0.0

    @classmethod
    def fitting(
        cls,
        width_mm: float,
        height_mm: float,
        box_width: int,
        box_height: int,
        left: float = 0.0,
        top: float = 0.0,
    ) -> "Projection":
        """The largest drawing inside a box."""
        scale = min(box_width / width_mm, box_height / height_mm)
        return cls(width_mm, height_mm, scale, left, top)

    @property
    def width(self) -> float:
        """Drawn width."""
        return round(self.width_mm * self.scale, 2)

    @property
    def height(self) -> float:
        """Drawn height."""
        return round(self.height_mm * self.scale, 2)

    def x(self, x_mm: float) -> float:
        """Across."""
        return round(self.left + x_mm * self.scale, 2)

    def y(self, y_mm: float) -> float:
        """Down the page: the front is at the bottom."""
        return round(self.top + (self.height_mm - y_mm) * self.scale, 2)

    def path(self, points: Iterable[Any], close: bool = False) -> str:
        """An SVG path through points in mm."""
        steps = " L".join(f"{self.x(x)} {self.y(y)}" for x, y in points)
        return f"M{steps}{' Z' if close else ''}"

    def box(self, x_mm: float, y_mm: float, width_mm: float, height_mm: float) -> dict[str, float]:
        """A rectangle given by its front left corner and size."""
        return {
            "x": self.x(x_mm),
            "y": self.y(y_mm + height_mm),
            "width": round(width_mm * self.scale, 2),
            "height": round(height_mm * self.scale, 2),
        }
