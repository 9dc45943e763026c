"""The template of a vessel: its page, its files at 1:1, and what is refused."""

import io
import math
import re
from uuid import uuid4

import pypdfium2
import pytest
from PIL import Image

from tempermark.core.preparing.vessels.template import flat_template, outline
from tempermark.web.printing.actions import add_art
from tests.support import room
from tests.support.pictures import encoded, quartered

PAGE = "/template/"
BEAKER = {
    "top_diameter_mm": "88",
    "bottom_diameter_mm": "60",
    "height_mm": "110",
    "overlap_mm": "3",
    "gap_mm": "0",
    "tolerance_mm": "1",
}
POINTS_PER_MM = 72 / 25.4


def test_a_tapered_beaker_asks_for_bent_art(browse, db):
    text = room.words(browse.get(PAGE, BEAKER))
    assert "Bend the art, or keep it under 53 mm wide." in text
    assert "276 mm round at the wider end, 111 mm along the wall" in text


def test_a_straight_mug_takes_straight_art(browse, db):
    assert "Straight art fits all round" in room.words(browse.get(PAGE))


def test_a_blank_of_the_shop_brings_its_sizes(browse, db):
    cup = room.blank(
        name="Cup", kind="tumbler", top_diameter_mm=88, bottom_diameter_mm=60, height_mm=110
    )
    page = room.soup(browse.get(PAGE, {"blank": cup.pk}))
    assert page.select_one("[name=top_diameter_mm]")["value"] == "88"
    assert "Bend the art" in page.select_one("h1").text


def test_a_paper_strip_gives_the_diameter(browse, db):
    round_mm = {"top_round_mm": f"{88 * math.pi:.2f}", "top_diameter_mm": ""}
    assert "under 53 mm" in room.words(browse.get(PAGE, BEAKER | round_mm))


@pytest.mark.parametrize(("top", "bottom", "height"), [(60, 500, 5), (5, 2000, 5), (2000, 5, 2000)])
def test_a_foot_far_wider_than_the_rim_is_drawn_too(browse, db, top, bottom, height):
    """Nearly flat, its arc is nearly a whole turn; never more."""
    fields = {"top_diameter_mm": top, "bottom_diameter_mm": bottom, "height_mm": height}
    assert flat_template(top, bottom, height).arc.turn_rad < 2 * math.pi
    assert browse.get(f"{PAGE}file.svg", BEAKER | fields).status_code == 200
    assert browse.get(f"{PAGE}file.pdf", BEAKER | fields).status_code == 200


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ({"top_diameter_mm": ""}, "Give the diameter, or what goes round it."),
        ({"height_mm": "0"}, "0 is out of range"),
        ({"gap_mm": "200"}, "nothing is left to print"),
        ({"overlap_mm": "x"}, "is not a"),
    ],
)
def test_wrong_figures_are_said_and_draw_nothing(browse, db, changes, said):
    response = browse.get(PAGE, BEAKER | changes)
    assert said in room.words(response)
    assert not room.soup(response).select(".template-drawing")
    assert browse.get(f"{PAGE}file.svg", BEAKER | changes).status_code == 422


@pytest.mark.parametrize(("overlap", "gap"), [("0", "0"), ("3", "0"), ("3", "25")])
def test_the_pdf_s_page_is_as_large_as_the_template_and_its_margins(browse, db, overlap, gap):
    asked = BEAKER | {"overlap_mm": overlap, "gap_mm": gap}
    response = browse.get(f"{PAGE}file.pdf", asked)
    assert response["Content-Type"] == "application/pdf"
    box = re.search(rb"MediaBox \[ 0 0 ([\d.]+) ([\d.]+) \]", response.content)
    width, height = (float(side) / POINTS_PER_MM for side in box.groups())
    ring = outline(flat_template(88, 60, 110), float(overlap), float(gap))
    wide, tall = ring.max(axis=0) - ring.min(axis=0)
    assert width == pytest.approx(wide + 20, abs=0.1)
    assert height == pytest.approx(tall + 36, abs=0.1)


def test_the_svg_carries_its_name_and_kind(browse, db):
    cup = room.blank(name="Tall cup", kind="mug", height_mm=95)
    response = browse.get(f"{PAGE}file.svg", BEAKER | {"blank": cup.pk})
    assert response["Content-Type"] == "image/svg+xml"
    assert 'filename="template-tall-cup.svg"' in response["Content-Disposition"]


@pytest.fixture
def art(technician):
    return add_art(technician, encoded(quartered(800, 400)), "Quarters", 1, uuid4())


def picture(response):
    return Image.open(io.BytesIO(response.content)).convert("RGB")


def test_art_is_as_large_as_fits_between_the_cool_rims(browse, art):
    text = room.words(browse.get(PAGE, BEAKER | {"rim_mm": "6", "art": art.pk}))
    # 110.9 mm of wall less two rims of 6 mm; twice as wide as high.
    assert "“Quarters” covers 198 × 99 mm of the wall." in text


def test_art_in_a_cool_rim_says_where_and_how_far(browse, art):
    fields = {"rim_mm": "6", "art": art.pk, "art_width_mm": "200", "art_foot_mm": "2"}
    text = room.words(browse.get(PAGE, BEAKER | fields))
    assert "The art reaches into the sleeve’s cool rim: 4.0 mm at the foot." in text


def test_the_bent_art_is_a_png_of_300_dpi_mirrored_on_demand(browse, art):
    plain = browse.get(f"{PAGE}file.png", BEAKER | {"art": art.pk})
    mirrored = browse.get(f"{PAGE}file.png", BEAKER | {"art": art.pk, "mirrored": "1"})
    found = picture(plain)
    box = outline(flat_template(88, 60, 110), 3.0)
    sides = (box.max(axis=0) - box.min(axis=0)) / 25.4 * 300
    assert found.size == pytest.approx(tuple(sides), abs=1)
    assert Image.open(io.BytesIO(plain.content)).info["dpi"] == pytest.approx((300, 300), abs=0.1)
    wide, high = found.size
    assert found.getpixel((int(wide * 0.4), int(high * 0.3))) == (255, 0, 0)
    flipped = picture(mirrored).getpixel((wide - 1 - int(wide * 0.4), int(high * 0.3)))
    assert flipped == (255, 0, 0)


def test_the_pdf_with_art_keeps_the_page_of_the_template(browse, art):
    plain, bent = (
        pypdfium2.PdfDocument(browse.get(f"{PAGE}file.pdf", BEAKER | more).content)[0]
        for more in ({}, {"art": art.pk, "mirrored": "1"})
    )
    assert bent.get_size() == pytest.approx(plain.get_size())
    colours = {colour for _, colour in bent.render(scale=1).to_pil().getcolors(100_000)}
    assert (255, 0, 0) in colours


def test_without_art_there_is_no_png(browse, db):
    assert browse.get(f"{PAGE}file.png", BEAKER).status_code == 404


def test_marks_lie_inside_the_outline(browse, db):
    drawing = browse.get(f"{PAGE}file.svg", BEAKER | {"rim_mm": "8"}).content.decode()
    assert drawing.count('class="quarter"') == 4
    assert drawing.count('class="safe"') == 2
    none = browse.get(f"{PAGE}file.svg", BEAKER | {"rim_mm": "60"}).content.decode()
    assert 'class="safe"' not in none
