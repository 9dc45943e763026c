"""Nested art: inside the margins, never over each other, none lost, never worse than rows."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageDraw

from tempermark.core.errors import InputError
from tempermark.core.preparing.size.nesting.nest import nest_on_roll, nest_on_sheets
from tempermark.core.preparing.size.nesting.pieces import ArtPiece, PlacedPiece, circle, is_apart
from tempermark.core.preparing.size.sheets import SHEETS_MM, fit
from tempermark.files.art.silhouette import silhouette, to_ink

A3, A4 = SHEETS_MM["A3"], SHEETS_MM["A4"]
sides = st.floats(15, 250)
gaps = st.floats(0, 12)
rectangles = st.builds(lambda w, h, n: ((w, h), n), sides, sides, st.integers(1, 6))
TRIANGLE = ((0.0, 0.0), (100.0, 0.0), (50.0, 100.0))


def inside(sheet, size, margin):
    """Every piece inside the margin, measured from the sheet's corner."""
    for placed in sheet:
        low_x, low_y, high_x, high_y = placed.shape.bounds
        assert min(low_x, low_y) >= margin - 0.02
        assert high_x <= size[0] - margin + 0.02
        assert high_y <= size[1] - margin + 0.02
    assert is_apart(sheet, size, 0.0)


@settings(max_examples=60)
@given(st.lists(rectangles, min_size=1, max_size=4), st.floats(0, 20), gaps)
def test_rectangles_never_overlap_and_none_is_lost(kinds, margin, apart):
    pieces = [ArtPiece(str(n), size, count) for n, (size, count) in enumerate(kinds)]
    found = nest_on_sheets(pieces, A3, margin, apart)
    for sheet in found.sheets:
        inside(sheet, A3, margin)
        assert is_apart(sheet, A3, apart)
    room = (A3[0] - 2 * margin, A3[1] - 2 * margin)
    for piece in pieces:
        assert (piece in found.left) == (fit(piece.size_mm, room, 0.0) is None)
    fitting = [piece for piece in pieces if piece not in found.left]
    if len(fitting) > 1:
        placed = [p.piece.name for sheet in found.sheets for p in sheet]
        assert sorted(placed) == sorted(p.name for p in fitting for _ in range(p.quantity))


@settings(max_examples=60)
@given(sides, sides, gaps)
def test_one_kind_is_never_worse_than_straight_rows(wide, high, apart):
    way = fit((wide, high), A3, 5, apart)
    found = nest_on_sheets([ArtPiece("a", (wide, high), 400)], A3, 5, apart)
    if way is None:
        assert found.left
        return
    assert len(found.sheets[0]) >= min(way.count, 400)
    assert found.sheets_needed <= way.sheets_for(400)
    inside(found.sheets[0], A3, 5)


def test_what_fits_exactly_fits():
    assert len(nest_on_sheets([ArtPiece("a", (70, 99), 9)], A4, 0, 0).sheets[0]) == 9


def test_turned_pieces_fill_what_rows_leave():
    # Rows take two, upright or turned; two upright and one turned above them are three.
    found = nest_on_sheets([ArtPiece("a", (120, 180), 9)], (300, 310), 0, 0)
    assert fit((120, 180), (300, 310), 0).count < len(found.sheets[0]) == 3


@settings(max_examples=25)
@given(st.lists(rectangles, min_size=1, max_size=3), gaps)
def test_a_roll_holds_all_and_gives_its_length(kinds, apart):
    pieces = [ArtPiece(str(n), size, count) for n, (size, count) in enumerate(kinds)]
    found = nest_on_roll(pieces, 610, 5, apart)
    sheet = found.sheets[0]
    assert len(sheet) == sum(piece.quantity for piece in pieces)
    inside(sheet, (610, found.length_mm), 5)
    assert is_apart(sheet, (610, found.length_mm), apart)
    assert max(p.shape.bounds[3] for p in sheet) == pytest.approx(found.length_mm - 5, abs=1e-6)


def test_circles_lie_closer_than_their_boxes():
    boxes = nest_on_sheets([circle("c", 80, 40)], A3, 5, 3, closely=False)
    closer = nest_on_sheets([circle("c", 80, 40)], A3, 5, 3)
    assert len(boxes.sheets[0]) == 12
    assert len(closer.sheets[0]) > 12
    inside(closer.sheets[0], A3, 5)
    assert is_apart(closer.sheets[0], A3, 3)


def test_outlines_rectangles_and_circles_share_a_sheet():
    pieces = [
        ArtPiece("bow", (100.0, 100.0), 5, TRIANGLE),
        circle("tag", 60, 3),
        ArtPiece("plate", (90.0, 60.0), 2),
    ]
    found = nest_on_sheets(pieces, A3, 5, 3)
    assert sum(len(sheet) for sheet in found.sheets) == 10
    for sheet in found.sheets:
        inside(sheet, A3, 5)
        assert is_apart(sheet, A3, 3)


def test_outlines_along_a_roll():
    found = nest_on_roll([ArtPiece("bow", (100.0, 100.0), 6, TRIANGLE)], 300, 5, 3)
    inside(found.sheets[0], (300, found.length_mm), 5)
    boxes = nest_on_roll([ArtPiece("bow", (100.0, 100.0), 6, TRIANGLE)], 300, 5, 3, closely=False)
    assert found.length_mm < boxes.length_mm


def test_a_circle_is_drawn_from_outside():
    piece = circle("c", 80, 1)
    assert piece.shape.area >= math.pi * 40**2
    assert piece.size_mm[0] == pytest.approx(80, rel=0.003)


def test_overlap_is_seen():
    piece = ArtPiece("a", (50, 50), 1)
    over = [PlacedPiece(piece, (0, 0)), PlacedPiece(piece, (49, 0))]
    assert not is_apart(over, (200, 200), 0)
    assert not is_apart([PlacedPiece(piece, (-1, 0))], (200, 200), 0)
    assert not is_apart([PlacedPiece(piece, (0, 0)), PlacedPiece(piece, (52, 0))], (200, 200), 3)
    assert is_apart([PlacedPiece(piece, (0, 0)), PlacedPiece(piece, (53, 0))], (200, 200), 3)


def test_too_much_at_once_and_no_room_are_refused():
    with pytest.raises(InputError, match="at most 400"):
        nest_on_sheets([ArtPiece("a", (9, 9), 300), ArtPiece("b", (9, 8), 300)], A4, 5, 1)
    with pytest.raises(InputError, match="leaves nothing"):
        nest_on_sheets([ArtPiece("a", (9, 9), 3)], A4, 110, 1)
    with pytest.raises(InputError, match="leaves nothing"):
        nest_on_roll([ArtPiece("a", (9, 9), 3)], 100, 50, 1)


def test_a_silhouette_encloses_the_ink_and_little_more():
    picture = Image.new("RGBA", (200, 100), (255, 255, 255, 0))
    ImageDraw.Draw(picture).polygon(((20, 90), (100, 10), (180, 90)), fill="black")
    inked, size = to_ink(picture, (200.0, 100.0))
    assert size == pytest.approx((161, 81), abs=1)
    piece = ArtPiece("t", size, 1, silhouette(inked, size))
    assert 160 * 80 / 2 <= piece.shape.area <= 160 * 80 / 2 * 1.1


def test_white_paper_has_no_silhouette():
    with pytest.raises(InputError, match="no outline"):
        to_ink(Image.new("RGB", (20, 20), "white"), (10.0, 10.0))
