"""Seams under prints, vessels in sleeves, caps: what the pages say."""

import re

import pytest

from tempermark.web.presses.models import Element, Press
from tempermark.web.pressure.models import RaisedPart
from tests.support import room

PRINT = {
    "print_x_mm": "100",
    "print_y_mm": "100",
    "print_width_mm": "200",
    "print_depth_mm": "200",
    "contact_kpa": "32",
    "pillow_mm": "0",
    "threaded": "0",
}


@pytest.fixture
def shirt(db):
    blank = room.blank(name="Shirt", thickness_mm=2.4, width_mm=480, height_mm=560)
    fields = {"width_mm": 12, "depth_mm": 300, "rises_mm": 3.0}
    RaisedPart.objects.create(blank=blank, kind="zip", x_mm=290, y_mm=200, **fields)
    return blank


def page(browse, blank, **changes):
    return room.words(browse.get(f"/pieces/{blank.pk}/", PRINT | changes))


def test_a_zip_under_the_print_shades_it_and_a_move_is_told(browse, shirt):
    text = page(browse, shirt)
    assert "The zip takes contact from this print." in text
    move = re.search(r"Move the print (\d+) mm left", text)
    assert move, text
    clear = page(browse, shirt, print_x_mm=str(100 - int(move[1]) - 1))
    assert "The print is clear of everything raised." in clear
    near = page(browse, shirt, print_x_mm=str(100 - int(move[1]) + 2))
    assert "The zip takes contact" in near


def test_a_pillow_clears_it(browse, shirt):
    needed = re.search(r"a pillow of (\d+) mm or more", page(browse, shirt))
    thick = str(int(needed[1]) + 1)
    assert "The pillow lifts it above" in page(browse, shirt, pillow_mm=thick)
    assert "takes contact" in page(browse, shirt, pillow_mm="1")


def test_threading_leaves_out_what_is_behind(browse, shirt):
    RaisedPart.objects.update(on_back=True)
    assert "The zip behind takes contact" in page(browse, shirt)
    text = page(browse, shirt, threaded="1")
    assert "one layer of 2.4 mm is pressed instead of 4.8 mm, and 1 part behind stays out" in text


def test_parts_are_drawn_and_removed(browse, shirt):
    part = {"kind": "button", "x_mm": "10", "y_mm": "20", "width_mm": "12", "depth_mm": "12"}
    browse.post(f"/pieces/{shirt.pk}/", part | {"rises_mm": "2,5"})
    made = RaisedPart.objects.get(kind="button")
    assert made.rises_mm == 2.5
    wrong = browse.post(f"/pieces/{shirt.pk}/", part | {"rises_mm": "-1"})
    assert wrong.status_code == 422
    assert "-1 is out of range" in room.words(wrong)
    browse.post(f"/pieces/raised/{made.pk}/remove/")
    assert RaisedPart.objects.count() == 1


def test_wrong_places_are_said_and_kept(browse, shirt):
    response = browse.get(f"/pieces/{shirt.pk}/", PRINT | {"contact_kpa": "0"})
    assert "Contact: 0 is out of range" in room.words(response)
    assert room.soup(response).select_one("[name=contact_kpa]")["value"] == "0"
    assert "runs off the piece" in page(browse, shirt, print_x_mm="400")


@pytest.fixture
def sleeve(db):
    press = Press.objects.create(name="Dipper", slug="dipper", kind="wrap", mechanism="toggle")
    return Element.objects.create(
        press=press,
        role="sleeve",
        label="tapered sleeve",
        shape="tapered",
        width_mm=240,
        height_mm=110,
        top_diameter_mm=91,
        bottom_diameter_mm=63,
    )


def vessel(browse, **changes):
    given = {"top_mm": "88", "bottom_mm": "60", "height_mm": "110", "art_mm": "200"}
    return browse.get("/vessels/", given | changes)


def test_the_sleeve_of_the_right_taper_is_named(browse, sleeve):
    text = room.words(vessel(browse))
    assert "use Dipper’s tapered sleeve." in text
    assert "survey it" in text
    straight = room.words(vessel(browse, bottom_mm="88", top_mm="60"))
    assert "No sleeve of the shop fits" in straight


def test_a_vessel_larger_than_the_sleeve_is_refused(browse, sleeve):
    text = room.words(vessel(browse, top_mm="95"))
    assert "The vessel is 4.0 mm wider than the open sleeve at its top" in text
    assert "never force it" in text


def test_the_second_press_follows_the_sleeves_map(browse, technician, sleeve):
    room.survey(
        technician,
        sleeve,
        grid="5x5",
        truth=lambda x, y: 180 - (15 if x > 190 else 0) - (12 if y > 95 else 0),
        set_c=180.0,
        target_c=180.0,
    )
    text = room.words(vessel(browse, art_mm="230"))
    turned = re.search(r"turn the piece (\d+)° while hot", text)
    assert turned, text
    assert 45 <= int(turned[1]) <= 180
    assert re.search(r"bottom 0 mm, top \d+ mm: keep the art off", text), text


@pytest.mark.parametrize("top", ["-5", "0", "wide"])
def test_a_vessel_without_size_is_no_vessel(browse, sleeve, top):
    response = vessel(browse, top_mm=top)
    assert response.status_code == 422
    assert room.soup(response).select_one("[name=top_mm]")["value"] == top


def cap(browse, **changes):
    given = {
        "panels": "6",
        "seam_at_mm": "",
        "seam_height_mm": "1.2",
        "art_width_mm": "90",
        "art_off_mm": "0",
        "stroke_mm": "2",
        "contact_kpa": "32",
    }
    return room.words(browse.get("/caps/", given | changes))


def test_strokes_across_a_caps_seam(browse, db):
    text = cap(browse)
    least = re.search(r"must not cross this seam: (\S+) mm at least", text)
    assert least, text
    assert "may cross the seam" in cap(browse, stroke_mm=str(float(least[1]) + 0.1))
    assert "Five panels: no seam in front" in cap(browse, panels="5")
    assert "stays clear of the seam" in cap(browse, art_width_mm="30", art_off_mm="60")


def test_a_heated_lower_platen_has_its_own_setting(browse, technician, db):
    press = Press.objects.create(
        name="Plover", slug="plover", kind="cap", mechanism="scale", target_c=160.0
    )
    sizes = {"width_mm": 150, "height_mm": 90}
    upper = Element.objects.create(press=press, **sizes)
    Element.objects.create(press=press, role="lower", own_setting=True, **sizes)
    room.survey(
        technician, upper, grid="3x3", truth=lambda x, y: 155.0, set_c=160.0, target_c=160.0
    )
    text = cap(browse)
    assert "Upper platen set 165 °C for 160 °C true" in text
    assert "Lower platen, own dial never surveyed" in text


def test_blanks_are_found_by_name(browse, shirt):
    room.blank(name="Mug", kind="mug")
    names = [n.text for n in room.soup(browse.get("/pieces/?q=SHI")).select(".floor-row .who")]
    assert names == ["Shirt"]
    assert "named like “zzz”" in room.words(browse.get("/pieces/?q=zzz"))


def test_every_blank_has_its_way(browse, shirt):
    room.blank(name="Mug", kind="mug")
    room.blank(name="Cap", kind="cap", panels=6)
    links = [a["href"] for a in room.soup(browse.get("/pieces/")).select(".floor-row")]
    assert any("/vessels/" in link for link in links)
    assert any("/caps/" in link for link in links)
    assert any("/pieces/" in link for link in links)
    for link in links:
        assert browse.get(link).status_code == 200


def test_a_vessel_without_diameters_is_asked_about_and_not_fitted(browse, sleeve):
    cup = room.blank(name="Cup", kind="mug", coating="factory", thickness_mm=4.0)
    page = browse.get(f"/vessels/{cup.pk}/")
    assert "How wide is Cup at its top and bottom, and how high?" in room.words(page, "h1")
    assert "fits" not in room.words(page)
    assert room.soup(page).select_one("[name=top_mm]").get("value", "") == ""
