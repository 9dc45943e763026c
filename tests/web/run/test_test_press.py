"""Logging, marking and scoring a test press."""

import pytest

from tempermark.web.kit.drawing.places import where_code
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tempermark.web.recipes.models import Recipe
from tempermark.web.run.models import Mark, TestPress
from tempermark.web.run.pieces.queries import under_art
from tests.support import room


def form_of(browse, **query):
    page = room.soup(browse.get("/presses/heron/test-presses/new/", query))
    form = page.select_one("form#log")
    data = {f["name"]: f.get("value", "") for f in form.select("input:not([type=checkbox])")}
    data |= {
        s["name"]: (s.select_one("[selected]") or s.option)["value"] for s in form.select("select")
    }
    return page, data | {t["name"]: t.text.strip() for t in form.select("textarea")}


@pytest.fixture
def recipe(db):
    load_shipped_recipes()
    return Recipe.objects.get(slug="dye-on-a-polyester-vest").versions.get()


def test_the_recipe_fills_in_and_the_dial_is_this_press_s(browse, technician, element, recipe):
    room.survey(technician, element, truth=lambda x, y: 189.0)
    page, data = form_of(browse, recipe=recipe.pk)
    assert "Set Heron to 206\u00a0°C" in page.h1.text
    assert (data["set_c"], data["dwell_s"], data["pressure"]) == ("206", "52", "medium")
    assert "parchment" in data["stack"]


def test_log(browse, element, recipe):
    blank = room.blank()
    _, data = form_of(browse, recipe=recipe.pk)
    data |= {
        "blank": blank.pk,
        "either_transfer": "transfer_not_fixed",
        "done": ["pillow_used"],
        "set_c": "401f",
    }
    response = browse.post("/presses/heron/test-presses/new/", data)
    browse.post("/presses/heron/test-presses/new/", data)
    piece = TestPress.objects.get()
    assert response.url == piece.get_absolute_url()
    assert piece.set_c == pytest.approx(205)
    assert piece.facts == ["transfer_not_fixed", "pillow_used"]


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"dwell_s": "0"}, "out of range"),
        ({"set_c": "900"}, "Right is 20 °C to 300 °C"),
        ({"art_x_mm": "500"}, "off the platen of 400 × 500 mm"),
        ({"closures": "0"}, "greater than or equal to 1"),
        ({"stack": "\n".join("abc" for _ in range(21))}, "At most 20 layers"),
        ({"blank": "999"}, "valid choice"),
        ({"relative_humidity": "120"}, "100"),
    ],
)
def test_wrong_entries_are_said_and_kept(browse, element, recipe, change, said):
    _, data = form_of(browse, recipe=recipe.pk)
    response = browse.post(
        "/presses/heron/test-presses/new/", data | {"blank": room.blank().pk} | change
    )
    assert response.status_code == 422
    assert said in room.words(response)
    assert not TestPress.objects.exists()
    for name, value in change.items():
        field = room.soup(response).select_one(f"form#log [name={name}]")
        if field.name == "input":
            assert field["value"] == value


def test_a_tapped_mark_gets_its_place_in_words(browse, technician, element):
    piece = room.piece(technician, element)
    page = room.soup(browse.get(piece.get_absolute_url()))
    key = page.select_one("form#mark [name=once]")["value"]
    data = {
        "symptom": "edge_fade",
        "when": "on_opening",
        "severity": "2",
        "x_mm": "30",
        "y_mm": "470",
        "once": key,
    }
    for _ in range(2):
        browse.post(f"/test-presses/{piece.pk}/marks/", data)
    mark = Mark.objects.get()
    assert mark.where == "corner_back_left"
    assert "back left" in room.words(browse.get(piece.get_absolute_url()))
    browse.post(f"/marks/{mark.pk}/withdraw/", {"why": "tapped by mistake"})
    assert not Mark.objects.exists()


def test_a_mark_needs_a_place(browse, technician, element):
    piece = room.piece(technician, element)
    response = browse.post(
        f"/test-presses/{piece.pk}/marks/",
        {"symptom": "ghosting", "when": "on_opening", "severity": "2"},
    )
    assert "Tap the place" in room.words(response)


@pytest.mark.parametrize(
    ("share", "code"),
    [
        ((0.1, 0.1), "corner_front_left"),
        ((0.5, 0.9), "edge_back"),
        ((0.9, 0.5), "edge_right"),
        ((0.5, 0.5), "centre"),
    ],
)
def test_places(share, code):
    assert where_code(*share) == code


def test_scoring(browse, technician, element):
    piece = room.piece(technician, element)
    browse.post(f"/test-presses/{piece.pk}/outcome/", {"outcome": "good", "score_edge": "4"})
    piece.refresh_from_db()
    assert (piece.outcome, piece.scores) == ("good", {"edge": 4})
    assert (
        browse.post(f"/test-presses/{piece.pk}/outcome/", {"outcome": "splendid"}).status_code
        == 422
    )


def test_heat_under_the_art_is_that_of_the_survey_then(technician, element):
    room.survey(technician, element, days_ago=9, truth=lambda x, y: 190.0 + x / 100)
    piece = room.piece(technician, element, days_ago=5, set_c=205.0)
    mark = room.mark(technician, piece, x_mm=100.0, y_mm=300.0)
    room.survey(technician, element, days_ago=1, truth=lambda x, y: 150.0)
    under = under_art(piece)
    assert under.coolest_c == pytest.approx(200.2, abs=0.4)
    assert under.hottest_c == pytest.approx(202.6, abs=0.4)
    assert under.at_mark[mark.pk][0] == pytest.approx(201.0, abs=0.4)
    assert not under.past_plate


def test_art_past_the_plate_is_noticed_and_no_survey_is_said(browse, technician, element):
    piece = room.piece(technician, element, art_x_mm=-30.0)
    assert under_art(piece) is None
    assert "No survey of Heron was valid then" in room.words(browse.get(piece.get_absolute_url()))
    room.survey(technician, element, days_ago=1)
    assert under_art(piece).past_plate


def test_search(browse, technician, element):
    room.piece(technician, element)
    assert "Crew vest" in room.words(browse.get("/logbook/", {"q": "heron"}))
    assert "Nothing matches “mug”." in room.words(browse.get("/logbook/", {"q": "mug"}))


@pytest.mark.parametrize(
    ("shape", "drawn"), [("line", "path[stroke-width='4']"), ("area", "rect[stroke-width='2.5']")]
)
def test_a_line_or_an_area_is_marked_by_both_its_ends(browse, technician, element, shape, drawn):
    piece = room.piece(technician, element)
    path = f"/test-presses/{piece.pk}/marks/"
    fields = {"symptom": "press_line", "when": "on_opening", "severity": "2", "shape": shape}
    fields |= {"x_mm": "40", "y_mm": "260"}
    alone = browse.post(path, fields)
    assert alone.status_code == 422
    assert "Tap both ends of it" in room.words(alone)
    browse.post(path, fields | {"x2_mm": "220", "y2_mm": "300"})
    mark = piece.marks.get()
    assert (mark.x_mm, mark.y_mm, mark.half_x_mm, mark.half_y_mm) == (130, 280, 90, 20)
    assert room.soup(browse.get(piece.get_absolute_url())).select(drawn)
