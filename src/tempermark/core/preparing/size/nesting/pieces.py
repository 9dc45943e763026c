"""A piece of art, a piece that is placed, and whether pieces keep apart: measured with shapely.

Range: pieces turned by quarters only.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from shapely import Polygon, STRtree, affinity

# A piece may leave its room, or come too near another, by this much, mm: rounding.
SLACK_MM = 0.02
CIRCLE_CORNERS = 48
Point = tuple[float, float]


@dataclass(frozen=True)
class ArtPiece:
    """One kind of piece: its size (width, height) in mm, how many, and its outline in mm from its
    lower left corner, where it is no rectangle; `name` comes back with each that is placed.
    """

    name: str
    size_mm: tuple[float, float]
    quantity: int
    outline_mm: tuple[Point, ...] = ()
    may_turn: bool = True

    def times(self, quantity: int) -> "ArtPiece":
        """So many of it."""
        return replace(self, quantity=quantity)

    @property
    def shape(self) -> Polygon:
        """Its outline in mm."""
        wide, high = self.size_mm
        return Polygon(self.outline_mm or ((0, 0), (wide, 0), (wide, high), (0, high)))


@dataclass(frozen=True)
class PlacedPiece:
    """A piece on a sheet: its lower left corner in mm from the sheet's, as it lies, and by how many
    quarters it is turned to the left.
    """

    piece: ArtPiece
    corner_mm: Point
    quarters: int = 0

    @property
    def shape(self) -> Polygon:
        """Its outline on the sheet, mm."""
        turned = affinity.rotate(self.piece.shape, 90 * self.quarters, origin=(0, 0))
        low = turned.bounds
        x, y = self.corner_mm
        return affinity.translate(turned, x - low[0], y - low[1])


@dataclass(frozen=True)
class Nesting:
    """Sheets of a size in mm with what lies on each; of one kind of piece only the first sheet is
    placed, `sheets_needed` counts all. `length_mm` is what a roll gives, `left` what is too large.
    """

    sheet_mm: tuple[float, float]
    sheets: list[list[PlacedPiece]]
    sheets_needed: int
    length_mm: float | None = None
    left: list[ArtPiece] = field(default_factory=list)

    @property
    def used(self) -> float:
        """The share of the first sheet, or of the roll's length, that is covered."""
        if not self.sheets:
            return 0.0
        area = sum(placed.shape.area for placed in self.sheets[0])
        return float(area / (self.sheet_mm[0] * (self.length_mm or self.sheet_mm[1])))


def circle(name: str, diameter_mm: float, quantity: int) -> ArtPiece:
    """A round piece of a diameter in mm, drawn from outside: its chords touch the circle."""
    radius = diameter_mm / 2
    turns = np.linspace(0, 2 * np.pi, CIRCLE_CORNERS, endpoint=False)
    outer = radius / math.cos(math.pi / CIRCLE_CORNERS)
    points = np.stack([radius + outer * np.cos(turns), radius + outer * np.sin(turns)], axis=1)
    points -= points.min(axis=0)
    outline = tuple((float(x), float(y)) for x, y in points)
    size = float(points[:, 0].max()), float(points[:, 1].max())
    return ArtPiece(name, size, quantity, outline, may_turn=False)


def is_apart(placed: Sequence[PlacedPiece], room: tuple[float, float], apart_mm: float) -> bool:
    """Whether pieces lie inside a room and so far apart, mm, but for rounding."""
    shapes = [piece.shape for piece in placed]
    for shape in shapes:
        low_x, low_y, high_x, high_y = shape.bounds
        if min(low_x, low_y) < -SLACK_MM:
            return False
        if high_x > room[0] + SLACK_MM or high_y > room[1] + SLACK_MM:
            return False
    reach = max(apart_mm - SLACK_MM, 0.0)
    tree = STRtree(shapes)
    for number, shape in enumerate(shapes):
        for other in tree.query(shape, predicate="dwithin", distance=reach):
            if other <= number:
                continue
            near = shape.distance(shapes[other]) < reach
            if near or shape.intersection(shapes[other]).area > SLACK_MM:
                return False
    return True
