"""Mixes and sheets, as pages: answers in the reader's units, and what is refused."""

from uuid import uuid4

import numpy as np
import pypdfium2
import pytest
from PIL import Image, ImageDraw

from tempermark.web.accounts.models import User
from tempermark.web.printing.actions import add_art
from tempermark.web.run.models import Lot
from tests.support import room
from tests.support.pictures import encoded

MIX = {
    "concentrate_parts": "2",
    "water_parts": "5",
    "bottle_ml": "350",
    "mixed_on": "2026-03-31",
    "shelf_months": "6",
}
ART = {
    "art_width_mm": "200",
    "art_height_mm": "285",
    "quantity": "3",
    "margin_mm": "5",
    "apart_mm": "0",
}


def test_a_bottle_is_filled_and_its_last_day_said(browse, db):
    text = room.words(browse.get("/mix/", MIX))
    assert "100 ml concentrate, 250 ml distilled water." in text
    assert "Good until 30 September 2026" in text


def test_a_bottle_of_fluid_ounces_reads_in_them(browse, db):
    User.objects.update(volume_unit="floz")
    text = room.words(browse.get("/mix/", MIX | {"bottle_ml": "16"}))
    assert "fl oz" in text
    assert "ml concentrate" not in text


def test_the_bottle_is_kept_as_a_lot(browse, db):
    form = room.soup(browse.get("/mix/", MIX)).select_one("form[action='/lots/']")
    data = {i["name"]: i.get("value", "") for i in form.select("input[name]")} | {"code": "C-9"}
    browse.post("/lots/", data)
    lot = Lot.objects.get()
    assert (lot.kind, lot.code, lot.keeps_months, str(lot.since)) == (
        "coat",
        "C-9",
        6,
        "2026-03-31",
    )


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ({"concentrate_parts": "0", "water_parts": "0"}, "0 to 0 is no mix"),
        ({"bottle_ml": "0"}, "0 is out of range"),
        ({"mixed_on": "1926-03-31"}, "1926"),
        ({"shelf_months": "999"}, "less than or equal to 240"),
    ],
)
def test_a_mix_that_is_none_is_said(browse, db, changes, said):
    response = browse.get("/mix/", MIX | changes)
    assert said in room.words(response)
    assert "Good until" not in room.words(response)


def test_the_smallest_sheet_is_named_and_sheets_are_counted(browse, db):
    page = room.soup(browse.get("/sheets/", ART))
    assert " ".join(page.select_one("h1").text.split()) == "1 on A4, 3 sheets."
    rows = {r.th.text: [c.text.split() for c in r.select("td")] for r in page.select("tr")[1:]}
    assert rows["A4"][1:] == [["1"], ["1", "×", "1"], ["3"]]
    assert rows["Letter"][1] == ["too", "small"]
    assert rows["A3"][1] == ["2"]


def test_art_larger_than_any_sheet_goes_on_a_roll(browse, db):
    asked = ART | {"art_width_mm": "1507", "art_height_mm": "502"}
    assert "fits no sheet: print it in parts or on a roll." in room.words(
        browse.get("/sheets/", asked)
    )
    text = room.words(browse.get("/sheets/", asked | {"roll_mm": "610"}))
    assert "of the roll." in text


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ({"sheet": "own"}, "Give both sides of the sheet."),
        ({"sheet": "roll"}, "Give the width of the roll."),
        ({"shape": "outline"}, "Choose the art that has the outline."),
        ({"shape": "round"}, "A circle is as high as it is wide."),
        ({"margin_mm": "90", "sheet": "A4"}, "Too large for A4: this art."),
        ({"quantity": "0"}, "greater than or equal to 1"),
    ],
)
def test_a_sheet_that_is_none_is_said(browse, db, changes, said):
    assert said in room.words(browse.get("/sheets/", ART | changes))


def test_two_jobs_and_an_outline_share_a_sheet_printed_at_their_size(browse, technician, db):
    disc = Image.new("RGBA", (200, 200), (0, 0, 0, 0))
    ImageDraw.Draw(disc).ellipse((20, 20, 180, 180), fill="red")
    art = add_art(technician, encoded(disc), "Disc", 1, uuid4())
    asked = {
        "art": art.pk,
        "shape": "outline",
        "art_width_mm": "100",
        "art_height_mm": "100",
        "quantity": "4",
        "sheet": "A4",
        "margin_mm": "5",
        "apart_mm": "3",
    }
    page = room.soup(browse.get("/sheets/", asked))
    assert len(page.select("svg.sheet polygon")) == 4
    found = pypdfium2.PdfDocument(browse.get("/sheets/print.pdf", asked).content)
    assert [side * 25.4 / 72 for side in found[0].get_size()] == pytest.approx([210, 297], abs=0.01)
    picture = np.asarray(found[0].render(scale=2).to_pil().convert("RGB"))
    red = (picture[..., 0] > 200) & (picture[..., 1] < 60)
    # Four discs of 161 pixels out of 200 on 100 mm; two pixels to the point.
    area = 4 * np.pi * (161 / 200 * 100 / 2) ** 2
    assert red.sum() / (2 * 72 / 25.4) ** 2 == pytest.approx(area, rel=0.01)


def test_a_line_of_a_list_opens_its_helper_filled_in(browse, db):
    text = room.soup(browse.get("/sheets/", {"art_width_mm": "402.7 mm", "quantity": "4"}))
    assert text.select_one("[name=art_width_mm]")["value"] == "402.7 mm"
    assert text.select_one("[name=quantity]")["value"] == "4"


PANEL = {
    "material": "aluminium",
    "width_mm": "1500",
    "height_mm": "500",
    "from_c": "22",
    "to_c": "195",
    "placement_mm": "0.5",
}


def test_a_long_panel_s_art_is_larger_by_its_growth(browse, db):
    text = room.words(browse.get("/bleed/", PANEL))
    assert "Print the art 1507.0 × 503.0 mm." in text
    assert "3.0 mm longer at each end across" in text
    assert "Tape all four corners" in text


def test_a_fold_to_the_back_is_added_on_each_side(browse, db):
    asked = PANEL | {"fold_mm": "8", "thickness_mm": "2"}
    text = room.words(browse.get("/bleed/", asked))
    assert "Print the art 1527.0 × 523.0 mm." in text
    assert "its thickness and the fold" in text


def test_growth_is_the_same_in_inches(browse, db):
    User.objects.update(length_unit="in", temperature_unit="f")
    asked = PANEL | {"width_mm": "1500 mm", "height_mm": "500 mm", "from_c": "72", "to_c": "383"}
    text = room.words(browse.get("/bleed/", asked | {"placement_mm": "0.5 mm"}))
    assert "Print the art 59" in text
    assert " mm" not in text.partition("Material")[0]


@pytest.mark.parametrize(
    ("offset", "seen"), [("2.3", "2.3 mm over 280 mm: 0.5°."), ("0", "Nobody sees it.")]
)
def test_a_crooked_edge_is_an_angle(browse, db, offset, seen):
    asked = {"offset_mm": offset, "apart_mm": "280", "side_mm": "300"}
    assert seen in room.words(browse.get("/straight/", asked))


def test_every_tool_opens(browse, db):
    page = room.soup(browse.get("/tools/"))
    rows = page.select("a[data-name]")
    assert len(rows) >= 12
    assert all(browse.get(row["href"]).status_code == 200 for row in rows)
