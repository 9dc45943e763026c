"""The floor and the press page, in the technician's words."""

import pytest
from django.db import IntegrityError, transaction

from tempermark.web.presses.models import Element
from tests.support import room


def test_states_in_words(browse, technician, element):
    wren = room.element("Wren", place=2)
    room.survey(technician, element, days_ago=40, truth=lambda x, y: 189.0)
    text = room.words(browse.get("/"))
    assert "Heron is overdue for a survey." in text
    assert "Wren has never been surveyed." in text
    assert "reads 6 K high" in text
    assert "survey 10 days overdue" in text
    assert wren.press.name in text


def test_an_empty_room_says_what_to_do(browse):
    assert "No presses yet" in room.words(browse.get("/"))


def test_floor_counts_its_queries(browse, technician, django_assert_max_num_queries):
    for name in ("Heron", "Grebe", "Coot"):
        room.survey(technician, room.element(name), grid="3x3")
    # Four of them ask how far a new room's first steps are, one for the clocks, one whether what
    # surveys tell has changed.
    with django_assert_max_num_queries(25):
        browse.get("/")


def test_press_page_tells_what_to_set_and_where(browse, technician, element):
    room.survey(technician, element)
    text = room.words(browse.get("/presses/heron/"))
    assert "Set Heron to 201 °C. Keep prints inside the marked" in text
    assert "back left corner stays" in text
    assert "% sure" in text


def test_using_the_setting_notes_the_dial(browse, technician, element):
    browse.post("/presses/heron/setting/", {"set_c": "201.0"})
    element.press.refresh_from_db()
    assert element.press.dial_c == 201.0
    assert browse.post("/presses/heron/setting/", {"set_c": "nine"}).status_code == 400
    assert browse.post("/presses/heron/setting/", {"set_c": "999"}).status_code == 400


def test_unknown_press_is_said_so(browse):
    response = browse.get("/presses/none/")
    assert response.status_code == 404
    assert "no such page" in room.words(response)


def test_the_database_itself_refuses_a_platen_of_ten_metres(element):
    with pytest.raises(IntegrityError), transaction.atomic():
        Element.objects.create(press=element.press, width_mm=10_000, height_mm=500)


def test_drift_is_told_with_its_interval_and_drawn(browse, technician, element):
    """−1 K every three weeks, with the room's own pattern of noise."""
    for step in range(7):
        level = 194.0 - step
        room.survey(
            technician,
            element,
            grid="3x3",
            days_ago=130 - 21 * step,
            truth=lambda x, y, level=level: level + 0.2 * ((x + y) % 3 - 1),
        )
    page = browse.get("/presses/heron/")
    text = room.words(page)
    assert "will be out of ± 5 K in about" in text
    assert "The last survey is unusual:" in text
    assert len(room.soup(page).select("svg path title")) >= 1
    assert "will be out of ± 5 K in about 3 months" in room.words(browse.get("/"))


def test_a_steady_press_says_so(browse, technician, element):
    for age in (100, 70, 40, 10):
        room.survey(technician, element, grid="3x3", days_ago=age, truth=lambda x, y: 193.0)
    text = room.words(browse.get("/presses/heron/"))
    assert "within its usual limits" in text
    assert "will leave" not in text


def test_a_spot_check_counts_for_drift_and_keeps_the_map(browse, technician, element):
    room.survey(technician, element, days_ago=10, truth=lambda x, y: 190.0 + x / 100)
    spot = room.survey(
        technician, element, grid="spot", days_ago=1, truth=lambda x, y: 187.0 + x / 100
    )
    assert spot.mean_true_c == pytest.approx(189.0, abs=0.3)
    text = room.words(browse.get("/presses/heron/"))
    assert "Set Heron to" in text
    assert "reads 6 K high" in text
    page = room.words(browse.get(f"/surveys/{spot.pk}/"))
    assert "The middle of Heron is at 189.0 °C true." in page


@pytest.mark.parametrize(
    ("place", "said"),
    [
        ({"x_mm": "20", "y_mm": "480"}, "Back left corner, 20, 480\u00a0mm:"),
        ({"x_mm": "8 in", "y_mm": "250"}, "Middle, 203, 250\u00a0mm:"),
        ({"x_mm": "450", "y_mm": "250"}, "450, 250\u00a0mm is off Heron’s platen."),
        ({"x_mm": "here", "y_mm": "250"}, "“here” is not a number"),
    ],
)
def test_what_to_set_for_one_place(browse, technician, element, place, said):
    room.survey(technician, element)
    text = browse.get("/presses/heron/place/", place).content.decode()
    assert said in text
    if "corner" in said:
        told = text.replace("\u00a0", " ")
        assert "true with the dial at 201 °C. For 195 °C true there, set 2" in told
        assert int(told.split("there, set ")[1].split()[0]) >= 206


def test_a_place_without_a_map_says_so(browse, element):
    text = browse.get("/presses/heron/place/", {"x_mm": "20", "y_mm": "20"}).content.decode()
    assert "has no map" in text


def test_a_spot_check_that_jumps_is_said_on_the_floor(browse, technician, element):
    for age in range(70, 0, -10):
        room.survey(technician, element, grid="3x3", days_ago=age, truth=lambda x, y: 190.0)
    assert "not as usual" not in room.words(browse.get("/"))
    room.survey(technician, element, grid="spot", truth=lambda x, y: 186.0)
    told = room.words(browse.get("/"))
    assert "Heron has an unusual last survey." in told
    assert "unusual last survey: one survey beyond 3σ" in told
