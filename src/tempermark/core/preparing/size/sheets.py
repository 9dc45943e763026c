"""Which sheet of paper takes the art, which way round, and how many to a sheet.

Source: ISO 216 for the A sizes, ANSI/ASME Y14.1 for the inch sizes; A3+ as printers sell it.
Range: equal rectangles in straight rows, all turned the same way.
"""

import math
from dataclasses import dataclass

# Width and height in mm, upright.
SHEETS_MM = {
    "A4": (210.0, 297.0),
    "Letter": (215.9, 279.4),
    "Legal": (215.9, 355.6),
    "A3": (297.0, 420.0),
    "Tabloid": (279.4, 431.8),
    "A3+": (329.0, 483.0),
}


@dataclass(frozen=True)
class SheetFit:
    """How art lies on a sheet: its size in mm, columns and rows, and whether the art is turned by
    a quarter.
    """

    sheet_mm: tuple[float, float]
    columns: int
    rows: int
    is_turned: bool

    @property
    def count(self) -> int:
        """How many to a sheet."""
        return self.columns * self.rows

    def sheets_for(self, quantity: int) -> int:
        """The number of sheets for so many pieces."""
        return math.ceil(quantity / self.count)


def fit(
    art_mm: tuple[float, float],
    sheet_mm: tuple[float, float],
    margin_mm: float,
    apart_mm: float = 0.0,
) -> SheetFit | None:
    """The way round in which most pieces of art fit inside a sheet's margin, mm, and so far apart;
    upright where both ways hold the same; None where the art is larger than that.
    """
    room = (sheet_mm[0] - 2 * margin_mm, sheet_mm[1] - 2 * margin_mm)
    ways = []
    for turned in (False, True):
        wide, high = (art_mm[1], art_mm[0]) if turned else art_mm
        columns, rows = _along(room[0], wide, apart_mm), _along(room[1], high, apart_mm)
        if columns and rows:
            ways.append(SheetFit(sheet_mm, columns, rows, turned))
    return max(ways, key=lambda way: way.count, default=None)


def _along(room_mm: float, side_mm: float, apart_mm: float) -> int:
    """The number of pieces along a side of the room."""
    if side_mm > room_mm:
        return 0
    # A billionth keeps 3 × 70 mm on 210 mm.
    return int((room_mm + apart_mm) / (side_mm + apart_mm) + 1e-9)


def smallest(art_mm: tuple[float, float], margin_mm: float) -> str | None:
    """The smallest sheet by area that takes the art inside its margin, mm."""
    order = sorted(SHEETS_MM, key=lambda name: SHEETS_MM[name][0] * SHEETS_MM[name][1])
    return next((name for name in order if fit(art_mm, SHEETS_MM[name], margin_mm)), None)
