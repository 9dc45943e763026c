"""Circles and outlines placed closer than their boxes, by the strip packing of spyrrow.

Method: a strip as wide as the sheet is high is packed within a second; what it answers is measured
again and taken only where it fits. Range: that no more would fit is not proved.
"""

import math
import time
from collections.abc import Sequence

import numpy as np
import spyrrow
from shapely import Polygon, affinity

from tempermark.core.preparing.size.nesting.pieces import SLACK_MM, ArtPiece, PlacedPiece, is_apart

# More shaped pieces than this are not placed at once.
MOST_SHAPED = 60
# Seconds for one strip, and for all that are tried.
STRIP_S, ALL_S = 1, 8.0
# Arcs drawn as chords lie inside them: what keeps pieces apart is a little wider.
WIDER = 1.02
SEED = 20_261


def closer(
    piece: ArtPiece, room: tuple[float, float], apart_mm: float, at_least: int
) -> list[PlacedPiece]:
    """More of one shaped kind than its boxes allow, searched for within the bound of seconds."""
    widened = piece.shape.buffer(apart_mm / 2).area
    most = math.floor((room[0] + apart_mm) * (room[1] + apart_mm) / widened)
    low, high = at_least, min(most, MOST_SHAPED, piece.quantity)
    best: list[PlacedPiece] = []
    until = time.monotonic() + ALL_S
    while low < high and time.monotonic() < until:
        count = (low + high + 1) // 2
        placed = _strip([piece.times(count)], room, apart_mm)
        if placed:
            best, low = placed, count
        else:
            high = count - 1
    return best


def shaped_sheets(
    pieces: Sequence[ArtPiece], room: tuple[float, float], apart_mm: float, most_sheets: int
) -> list[list[PlacedPiece]]:
    """Shaped pieces on fewer sheets than their boxes take, mm; nothing where that is not found."""
    rest = sorted(
        (piece.times(1) for piece in pieces for _ in range(piece.quantity)),
        key=lambda piece: -piece.shape.area,
    )
    until = time.monotonic() + ALL_S
    sheets: list[list[PlacedPiece]] = []
    while rest and len(sheets) < most_sheets and time.monotonic() < until:
        taken = _taken_by(rest, room, until, apart_mm)
        if not taken:
            return []
        sheets.append(taken)
        rest = rest[len(taken) :]
    return [] if rest else sheets


def _taken_by(
    rest: list[ArtPiece], room: tuple[float, float], until: float, apart_mm: float
) -> list[PlacedPiece]:
    """The longest beginning of a list that is found to fit a sheet."""
    covered = np.cumsum([piece.shape.area for piece in rest])
    count = int(np.searchsorted(covered, room[0] * room[1], side="right"))
    while count and time.monotonic() < until:
        placed = _strip(rest[:count], room, apart_mm)
        if placed:
            return placed
        count = min(count - 1, math.floor(count * 0.9))
    return []


def _strip(
    pieces: Sequence[ArtPiece], room: tuple[float, float], apart_mm: float
) -> list[PlacedPiece]:
    """Shaped pieces in a room, as the strip packer places them; nothing where they do not fit,
    or where they do not measure up.
    """
    found = _strip_of(pieces, room[1], apart_mm)
    inside = [placed for placed in found if placed.shape.bounds[2] <= room[0] + SLACK_MM]
    return found if len(inside) == len(found) and is_apart(found, room, apart_mm) else []


def _strip_of(pieces: Sequence[ArtPiece], across_mm: float, apart_mm: float) -> list[PlacedPiece]:
    """Pieces along a strip from x = 0 on, 0 to `across_mm` up."""
    by_name = {str(number): piece for number, piece in enumerate(pieces)}
    items = [
        spyrrow.Item(
            name,
            list(_widened(piece, apart_mm).exterior.coords),
            demand=piece.quantity,
            allowed_orientations=[0.0, 90.0, 180.0, 270.0] if piece.may_turn else [0.0],
        )
        for name, piece in by_name.items()
    ]
    strip = spyrrow.StripPackingInstance("sheet", across_mm + apart_mm, items)
    limits = spyrrow.StripPackingConfig(
        total_computation_time=STRIP_S, seed=SEED, num_workers=1, early_termination=True
    )
    found = []
    for placed in strip.solve(limits).placed_items:
        piece = by_name[placed.id]
        turned = affinity.rotate(piece.shape, placed.rotation, origin=(0, 0))
        moved = affinity.translate(turned, *placed.translation)
        # The widened strip begins half a gap outside the room.
        corner = (moved.bounds[0] - apart_mm / 2, moved.bounds[1] - apart_mm / 2)
        found.append(PlacedPiece(piece, corner, round(placed.rotation / 90) % 4))
    return found


def _widened(piece: ArtPiece, apart_mm: float) -> Polygon:
    """A piece with half the gap round it."""
    return piece.shape.buffer(apart_mm / 2 * WIDER) if apart_mm else piece.shape


def along_strip(
    pieces: Sequence[ArtPiece], room: tuple[float, float], apart_mm: float
) -> list[PlacedPiece]:
    """Shaped pieces along a roll, mm; nothing where the packer's answer does not measure up."""
    along = [_upright(placed, room[0]) for placed in _strip_of(pieces, room[0], apart_mm)]
    return along if is_apart(along, room, apart_mm) else []


def _upright(placed: PlacedPiece, across: float) -> PlacedPiece:
    """A strip that ran to the right, turned by a quarter to run upwards."""
    low_x, _, _, high_y = placed.shape.bounds
    return PlacedPiece(placed.piece, (across - high_y, low_x), (placed.quarters + 1) % 4)
