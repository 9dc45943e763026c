"""Placed art on paper: mirrored, with its bleed, at 1:1; and bent onto a vessel."""

import math

import numpy as np
import pypdfium2
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from tempermark.core.preparing.size.placed_art import PlacedArt, covering, placed_in_middle
from tempermark.core.preparing.vessels.template import flat_template, outline, unrolled
from tempermark.files.art.arc import WARP_DPI, WrapArt, warped
from tempermark.files.art.artwork import read_artwork
from tempermark.files.art.printed import art_pdf, printed_picture
from tests.support.pictures import encoded, quartered

PT_MM = 25.4 / 72
sides = st.floats(20, 1500)
ratios = st.floats(0.2, 5)


@given(ratios, st.tuples(sides, sides), st.tuples(st.floats(0, 20), st.floats(0, 20)))
def test_the_smallest_covering_art_leaves_no_rim_and_none_to_spare(ratio, outline, bleed):
    placed = covering(ratio, outline, bleed)
    assert max(placed.rims_mm.values()) < 1e-6
    page = placed.page_mm
    assert math.isclose(placed.art_mm[0], page[0], rel_tol=1e-9) or math.isclose(
        placed.art_mm[1], page[1], rel_tol=1e-9
    )
    assert placed.art_mm[1] / placed.art_mm[0] == pytest.approx(ratio)


def test_rims_are_named_by_their_side():
    placed = PlacedArt((100, 80), (90, 70), (1, 9), (2, 3))
    assert placed.rims_mm == {"left": 1, "top": 0, "right": 0, "bottom": 2}
    assert set(placed.white) == {"left", "bottom"}


def test_the_print_is_mirrored_once():
    art = read_artwork(encoded(quartered()))
    placed = placed_in_middle((80.0, 40.0), (80.0, 40.0), (0.0, 0.0))
    plain, mirrored = (printed_picture(art, placed, flag) for flag in (False, True))
    assert plain.getpixel((5, 5)) == (255, 0, 0)
    assert mirrored.getpixel((5, 5)) == (0, 255, 0)
    assert plain.size == mirrored.size == (400, 200)


def test_where_the_art_does_not_reach_the_paper_stays_white():
    art = read_artwork(encoded(quartered()))
    placed = PlacedArt((80.0, 40.0), (80.0, 40.0), (-10.0, 0.0), (0.0, 0.0))
    picture = printed_picture(art, placed, mirrored=False)
    assert picture.getpixel((10, 10)) == (255, 255, 255)
    assert picture.getpixel((60, 10)) == (255, 0, 0)


def boxes(content):
    page = pypdfium2.PdfDocument(content)[0]
    return [
        tuple(side * PT_MM for side in box)
        for box in (page.get_mediabox(), page.get_bleedbox(), page.get_trimbox())
    ]


def test_a_page_of_its_own_is_as_large_as_the_print():
    picture = quartered()
    media, bleed, trim = boxes(art_pdf(picture, (303.6, 203.2), (1.8, 1.6)))
    assert media == pytest.approx((0, 0, 303.6, 203.2), abs=0.01)
    assert bleed == pytest.approx(media, abs=0.01)
    assert trim == pytest.approx((1.8, 1.6, 301.8, 201.6), abs=0.01)


def test_on_a_sheet_it_lies_in_the_middle_turned_where_only_that_fits():
    media, bleed, _ = boxes(art_pdf(quartered(), (250.0, 120.0), (0.0, 0.0), (210.0, 297.0)))
    assert media == pytest.approx((0, 0, 210, 297), abs=0.01)
    assert bleed == pytest.approx((45, 23.5, 165, 273.5), abs=0.01)


def test_straight_lines_of_the_art_lie_where_they_roll_to():
    """A dot of the art is found on the flat template where its place on the wall unrolls to."""
    template, size = flat_template(88, 60, 110), (200.0, 100.0)
    dot = np.full((500, 1000, 3), 255, np.uint8)
    dot[120:130, 250:260] = 0
    art = WrapArt(size, right_mm=4.0, above_foot_mm=3.0)
    bent = np.asarray(warped(Image.fromarray(dot), template, art, 3.0, 0.0))
    rows, columns = np.nonzero(bent[..., 0] < 128)
    per_mm = WARP_DPI / 25.4
    ring_low, ring_high = extent(template)
    across, down = columns.mean() + 0.5, rows.mean() + 0.5
    seen = (ring_low[0] + across / per_mm, ring_high[1] - down / per_mm)
    radius = (88 + 60) / 4
    turn = ((255 / 1000 - 0.5) * size[0] + 4.0) / radius
    along = (1 - 125 / 500) * size[1] + 3.0
    height = along / template.slant_mm * template.height_mm
    expected = unrolled(template, np.array([[turn, height]]))[0]
    assert seen == pytest.approx(tuple(expected), abs=0.15)


def extent(template):
    ring = outline(template, 3.0, 0.0)
    return ring.min(axis=0), ring.max(axis=0)


def test_over_the_seam_the_overlap_repeats_the_other_edge():
    template = flat_template(80, 80, 50)
    whole = math.pi * 80
    art = np.full((100, 600, 3), 255, np.uint8)
    art[:, :12] = (255, 0, 0)
    bent = np.asarray(warped(Image.fromarray(art), template, WrapArt((whole, 50.0)), 4.0, 0.0))
    middle = bent[bent.shape[0] // 2]
    assert tuple(middle[10]) == (255, 0, 0)
    assert tuple(middle[-10]) == (255, 0, 0), "the overlap lies under the first edge"


def test_paper_beside_the_art_stays_white():
    template = flat_template(88, 60, 110)
    bent = np.asarray(warped(quartered(), template, WrapArt((50.0, 20.0)), 0.0, 30.0))
    assert tuple(bent[0, 0]) == (255, 255, 255)
    assert (bent != 255).any()
