"""Rectangles, or the boxes round shaped pieces, placed in rows and by rectpack's rules.

Method: straight rows; maximal rectangles, skyline and guillotine rules, all tried.
"""

import math
from collections.abc import Iterator, Sequence

import rectpack

from tempermark.core.preparing.size.nesting.pieces import ArtPiece, PlacedPiece
from tempermark.core.preparing.size.sheets import fit

# Rectangles are packed in hundredths of a millimetre: whole numbers do not drift.
PER_MM = 100
# More pieces than this are not placed at once.
MOST_PIECES = 400
# Straight rows are quick: so many are drawn.
MOST_IN_ROWS = 3000
ALGORITHMS = (
    rectpack.MaxRectsBssf,
    rectpack.MaxRectsBl,
    rectpack.MaxRectsBaf,
    rectpack.SkylineBlWm,
    rectpack.GuillotineBssfSas,
)


def ways(piece: ArtPiece, room: tuple[float, float]) -> list[int]:
    """The quarters in which a piece fits a room, mm."""
    wide, high = piece.size_mm
    ways = [0] if wide <= room[0] and high <= room[1] else []
    return ways + [1] * (piece.may_turn and high <= room[0] and wide <= room[1])


def in_rows(piece: ArtPiece, room: tuple[float, float], apart_mm: float) -> list[PlacedPiece]:
    """Straight rows in a room, mm, upright or all turned."""
    way = fit(piece.size_mm, room, 0.0, apart_mm)
    if way is None or (way.is_turned and not piece.may_turn):
        return []
    wide, high = piece.size_mm[::-1] if way.is_turned else piece.size_mm
    steps = (wide + apart_mm, high + apart_mm)
    return [
        PlacedPiece(piece, (column * steps[0], row * steps[1]), int(way.is_turned))
        for row in range(way.rows)
        for column in range(way.columns)
    ][:MOST_IN_ROWS]


def packings(
    pieces: Sequence[ArtPiece], room: tuple[float, float], apart_mm: float, most_sheets: int
) -> Iterator[list[list[PlacedPiece]]]:
    """Sheets of rectangles, or of the boxes round shapes, in mm, by each rule of packing."""
    kinds = [piece for piece in pieces for _ in range(piece.quantity)]
    sides = [tuple(_units(side + apart_mm, up=True) for side in kind.size_mm) for kind in kinds]
    whole = tuple(_units(side + apart_mm, up=False) for side in room)
    may_turn = all(piece.may_turn or piece.size_mm[0] == piece.size_mm[1] for piece in pieces)
    for algorithm in ALGORITHMS:
        packer = rectpack.newPacker(
            mode=rectpack.PackingMode.Offline,
            bin_algo=rectpack.PackingBin.BFF,
            pack_algo=algorithm,
            rotation=may_turn,
        )
        packer.add_bin(*whole, count=most_sheets)
        for number, size in enumerate(sides):
            packer.add_rect(*size, rid=number)
        packer.pack()
        sheets: list[list[PlacedPiece]] = [[] for _ in range(len(packer))]
        for sheet, x, y, wide, high, number in packer.rect_list():
            turned = int((wide, high) != sides[number])
            sheets[sheet].append(PlacedPiece(kinds[number], (x / PER_MM, y / PER_MM), turned))
        yield sheets


def _units(side_mm: float, up: bool) -> int:
    """Hundredths of a millimetre; a billionth keeps 3 × 70 mm on 210 mm."""
    scaled = side_mm * PER_MM
    return math.ceil(scaled - 1e-6) if up else math.floor(scaled + 1e-6)


def along_roll(
    piece: ArtPiece, room: tuple[float, float], apart_mm: float
) -> Iterator[list[PlacedPiece]]:
    """All of one kind in straight rows along a roll, each way round in which it fits, mm."""
    for quarters in ways(piece, room):
        wide, high = piece.size_mm[::-1] if quarters else piece.size_mm
        columns = max(1, math.floor((room[0] + apart_mm) / (wide + apart_mm) + 1e-9))
        steps = (wide + apart_mm, high + apart_mm)
        yield [
            PlacedPiece(piece, (n % columns * steps[0], n // columns * steps[1]), quarters)
            for n in range(piece.quantity)
        ]
