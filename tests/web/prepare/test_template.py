"""The template of a vessel: its page, its files at 1:1, and what is refused."""

import math
import re

import pytest

from tempermark.core.preparing.template import flat_template, outline
from tests.support import room

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
