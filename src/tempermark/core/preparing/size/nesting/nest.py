"""Pieces of art placed close on sheets or along a roll: rectangles, circles and outlines.

Method: the best of straight rows and several rules of packing (boxes.py); shaped pieces closer
still where that is found in a bound of seconds (shapes.py).
Range: what is answered fits; that no more would fit is not proved.
"""

import math
from collections.abc import Iterator, Sequence

from tempermark.core.errors import InputError
from tempermark.core.preparing.size.nesting.boxes import (
    MOST_PIECES,
    along_roll,
    in_rows,
    packings,
    ways,
)
from tempermark.core.preparing.size.nesting.pieces import ArtPiece, Nesting, PlacedPiece
from tempermark.core.preparing.size.nesting.shapes import (
    MOST_SHAPED,
    along_strip,
    closer,
    shaped_sheets,
)
from tempermark.core.preparing.size.sheets import fit


def nest_on_sheets(
    pieces: Sequence[ArtPiece],
    sheet_mm: tuple[float, float],
    margin_mm: float,
    apart_mm: float,
    closely: bool = True,
) -> Nesting:
    """The pieces on sheets of a size, inside a margin and so far apart, all in mm; `closely`
    searches some seconds for room between shaped ones. Raises
    InputError for more pieces than are nested at once, or a margin that leaves nothing.
    """
    room = (sheet_mm[0] - 2 * margin_mm, sheet_mm[1] - 2 * margin_mm)
    if min(room) <= 0:
        raise InputError.single("margin_mm", "The margin leaves nothing of the sheet.")
    fitting, left = _sorted_out(pieces, room)
    if not fitting:
        return Nesting(sheet_mm, [], 0, left=left)
    if len(fitting) == 1:
        first = _fullest(fitting[0], room, apart_mm, closely)
        rows = fit(fitting[0].size_mm, room, 0.0, apart_mm)
        # More rows than are drawn count all the same.
        needed = math.ceil(fitting[0].quantity / max(len(first), rows.count if rows else 0))
        shown = _moved(first[: fitting[0].quantity], margin_mm)
        return Nesting(sheet_mm, [shown], needed, left=left)
    _bounded(fitting)
    sheets = [_moved(sheet, margin_mm) for sheet in _mixed(fitting, room, apart_mm, closely)]
    return Nesting(sheet_mm, sheets, len(sheets), left=left)


def nest_on_roll(
    pieces: Sequence[ArtPiece],
    width_mm: float,
    margin_mm: float,
    apart_mm: float,
    closely: bool = True,
) -> Nesting:
    """The pieces along a roll of a width, as short as is found; margins at all sides, all in mm.
    `closely` and what is raised as for sheets.
    """
    across = width_mm - 2 * margin_mm
    if across <= 0:
        raise InputError.single("margin_mm", "The margin leaves nothing of the roll.")
    endless = sum(max(p.size_mm) * p.quantity for p in pieces) + apart_mm * sum(
        p.quantity for p in pieces
    )
    fitting, left = _sorted_out(pieces, (across, endless))
    if not fitting:
        return Nesting((width_mm, 0.0), [], 0, 0.0, left)
    _bounded(fitting)
    best = min(_rolls(fitting, across, endless, apart_mm, closely), key=_length)
    length = _length(best) + 2 * margin_mm
    return Nesting((width_mm, length), [_moved(best, margin_mm)], 1, length, left)


def _sorted_out(
    pieces: Sequence[ArtPiece], room: tuple[float, float]
) -> tuple[list[ArtPiece], list[ArtPiece]]:
    """Those that fit into a room, one way or the other, and those that do not."""
    fitting: list[ArtPiece] = []
    left: list[ArtPiece] = []
    for piece in pieces:
        (fitting if ways(piece, room) else left).append(piece)
    return fitting, left


def _bounded(pieces: Sequence[ArtPiece]) -> None:
    count = sum(piece.quantity for piece in pieces)
    if count > MOST_PIECES:
        raise InputError.single(
            "quantity",
            f"{count} pieces: at most {MOST_PIECES} are nested at once. Nest a part and repeat it.",
        )


def _moved(sheet: list[PlacedPiece], margin_mm: float) -> list[PlacedPiece]:
    return [
        PlacedPiece(p.piece, (p.corner_mm[0] + margin_mm, p.corner_mm[1] + margin_mm), p.quarters)
        for p in sheet
    ]


def _fullest(
    piece: ArtPiece, room: tuple[float, float], apart_mm: float, closely: bool
) -> list[PlacedPiece]:
    """As many of one kind as are found to fit a room."""
    rows = in_rows(piece, room, apart_mm)
    boxes = math.floor(
        (room[0] + apart_mm)
        * (room[1] + apart_mm)
        / ((piece.size_mm[0] + apart_mm) * (piece.size_mm[1] + apart_mm))
    )
    most = min(MOST_PIECES, max(boxes, 1))
    best = max([rows, *_packed_once([piece.times(most)], room, apart_mm)], key=len)
    if closely and piece.outline_mm:
        best = max(best, closer(piece, room, apart_mm, len(best)), key=len)
    return best


def _packed_once(
    pieces: Sequence[ArtPiece], room: tuple[float, float], apart_mm: float
) -> Iterator[list[PlacedPiece]]:
    """The first sheet by each rule of packing."""
    for sheets in packings(pieces, room, apart_mm, 1):
        yield sheets[0] if sheets else []


def _mixed(
    pieces: Sequence[ArtPiece], room: tuple[float, float], apart_mm: float, closely: bool
) -> list[list[PlacedPiece]]:
    """Several kinds on as few sheets as are found; the last one as empty as can be."""
    count = sum(piece.quantity for piece in pieces)
    whole = [sheets for sheets in packings(pieces, room, apart_mm, count) if _all(sheets) == count]
    best = min(whole, key=lambda sheets: (len(sheets), len(sheets[-1])))
    if closely and any(piece.outline_mm for piece in pieces) and count <= MOST_SHAPED:
        best = shaped_sheets(pieces, room, apart_mm, len(best) - 1) or best
    return best


def _all(sheets: list[list[PlacedPiece]]) -> int:
    return sum(len(sheet) for sheet in sheets)


def _rolls(
    pieces: Sequence[ArtPiece], across: float, endless: float, apart_mm: float, closely: bool
) -> Iterator[list[PlacedPiece]]:
    """All pieces along a roll, by rows, by each rule of packing, and by their shapes."""
    count = sum(piece.quantity for piece in pieces)
    room = (across, endless)
    if len(pieces) == 1:
        yield from along_roll(pieces[0], room, apart_mm)
    for sheets in packings(pieces, room, apart_mm, 1):
        if _all(sheets) == count:
            yield sheets[0]
    if closely and any(piece.outline_mm for piece in pieces) and count <= MOST_SHAPED:
        along = along_strip(pieces, room, apart_mm)
        if along:
            yield along


def _length(placed: list[PlacedPiece]) -> float:
    return float(max(piece.shape.bounds[3] for piece in placed))
