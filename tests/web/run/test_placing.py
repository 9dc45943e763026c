"""Where the art goes, and what that place will do."""

from html import unescape

import pytest

from tempermark.web.kit.units import IMPERIAL
from tempermark.web.recipes.models import Recipe, RecipeVersion
from tempermark.web.run.pieces import placing
from tempermark.web.run.pieces.words import place_summary
from tests.support import room

ART = {"art_width_mm": "200", "art_height_mm": "200"}


@pytest.fixture
def version(db):
    room.load_shipped_recipes()
    return Recipe.objects.get(slug="dye-on-a-polyester-vest").versions.get()


def told(browse, version, **fields):
    data = {"recipe": version.pk, "set_c": "210", "art_x_mm": "0", "art_y_mm": "300", **ART}
    return browse.get("/presses/heron/under-the-art/", data | fields)


def test_without_a_map_it_says_so(browse, element, version):
    page = room.soup(told(browse, version))
    assert page.get_text().startswith("Heron has no map")
    assert page.select_one(".watch")


def test_the_cold_corner_is_named(browse, technician, element, version):
    room.survey(technician, element)
    cold = unescape(told(browse, version, set_c="203").content.decode())
    assert "below the window at the platen’s back left corner" in cold
    good = room.soup(told(browse, version, set_c="206", art_x_mm="150", art_y_mm="60"))
    assert good.get_text().strip().endswith("inside the window.")
    assert not good.select_one(".watch")
    hot = room.soup(told(browse, version, set_c="222", art_x_mm="150", art_y_mm="60"))
    assert "above the window" in hot.get_text()
    assert hot.select_one(".watch")


def test_art_past_the_plate_is_said(browse, technician, element, version):
    room.survey(technician, element)
    text = told(browse, version, art_x_mm="300").content.decode()
    assert "hangs over the platen’s edge" in text


def test_half_typed_figures_say_nothing(browse, element, version):
    assert told(browse, version, art_x_mm="").status_code == 204
    assert told(browse, version, set_c="20x").status_code == 204


def test_new_art_lies_in_the_middle_of_the_usable_part(browse, technician, element, version):
    room.survey(technician, element)
    part = placing.usable_rectangle(element)
    page = room.soup(browse.get(f"/presses/heron/test-presses/new/?recipe={version.pk}"))
    value = {i["name"]: i.get("value") for i in page.select("form#log input")}
    assert float(value["art_y_mm"]) + float(value["art_height_mm"]) <= part.y_mm + part.height_mm
    centre = float(value["art_x_mm"]) + float(value["art_width_mm"]) / 2
    assert centre == pytest.approx(part.x_mm + part.width_mm / 2, abs=1)


def test_recipes_of_this_press_come_first_with_its_own_setting(browse, technician, element):
    room.survey(technician, element)
    room.piece(technician, element)
    page = room.soup(browse.get("/presses/heron/test-presses/new/"))
    rows = [" ".join(r.get_text(" ").split()) for r in page.select("a.floor-row")]
    assert rows[0].startswith("Dye on a polyester vest set 206 °C here")
    assert len(rows) == RecipeVersion.objects.count()
    film = next(row for row in rows if row.startswith("Film on a cotton bag"))
    assert "here, a guess" in film
    assert "guess" not in rows[0]


def test_a_setting_far_from_the_survey_is_called_a_guess(browse, technician, element):
    room.survey(technician, element)
    room.piece(technician, element)
    film = Recipe.objects.get(slug="film-on-a-cotton-bag").versions.get()
    near = RecipeVersion.objects.get(recipe__slug="dye-on-a-polyester-vest")
    address = "/presses/heron/test-presses/new/?recipe={}"
    assert "the setting is a guess" in room.words(browse.get(address.format(film.pk)))
    assert "the setting is a guess" not in room.words(browse.get(address.format(near.pk)))


def test_sentence_is_in_the_reader_s_unit(technician, element, version):
    room.survey(technician, element)
    under = placing.queries.heat_at(
        placing.queries.ArtPlace(element, 150, 60, 50, 50, 206.0, room.timezone.now())
    )
    assert "°F" in place_summary(under, version.pressed(None), element, IMPERIAL).text
