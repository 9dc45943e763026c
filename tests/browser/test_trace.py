"""From the log of a piece to a closed case by keyboard alone; areas marked by two taps."""

import pytest
from selenium.webdriver.common.keys import Keys

from tempermark.web.presses.models import Element
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tempermark.web.recipes.models import RecipeVersion
from tempermark.web.run.models import Mark, TestPress
from tempermark.web.trace.models import FaultCase
from tests.support import room

pytestmark = pytest.mark.browser


@pytest.fixture
def vest(signed_in):
    load_shipped_recipes()
    room.blank(thickness_mm=0.5)
    room.survey(room.person("maren", "lead"), Element.objects.get())
    return RecipeVersion.objects.get(recipe__slug="dye-on-a-polyester-vest")


def log_by_keys(isla, vest):
    isla.go(f"/presses/heron/test-presses/new/?recipe={vest.pk}")
    isla.sees("Set Heron to")
    isla.reach("blank")
    isla.type("Crew vest")
    isla.reach("set_c")
    isla.type("202")
    for name, value in (("art_width_mm", "240"), ("art_height_mm", "240")):
        isla.reach(name)
        isla.type(value)
    for name, value in (("art_x_mm", "20"), ("art_y_mm", "240")):
        isla.reach(name)
        isla.type(value)
    isla.type(Keys.ENTER)
    isla.sees("how did it come out?")


def test_from_log_to_closed_case_by_keyboard_alone(signed_in, vest):
    isla = signed_in
    log_by_keys(isla, vest)
    isla.reach("symptom")
    isla.type("Fades towards")
    isla.reach("where")
    isla.type("at the back left")
    isla.press_by_key("Add the mark")
    isla.sees("Fades towards a margin, at the back left")
    isla.press_by_key("Trace this fault")
    isla.sees("What this is based on")
    assert isla.find("[data-cause]").get_attribute("data-cause") == "cold_zone"
    # A check's result moves the order.
    before = isla.text("[data-cause] .chance")
    isla.press_by_key("Nothing found")
    isla.wait(lambda: isla.text("[data-cause] .chance") != before)
    room.minutes_later(10)
    isla.press_by_key("Press again with this")
    isla.sees("Try the remedy on Heron")
    isla.press_by_key("dwell_s")
    isla.sees("how did it come out?")
    isla.reach("outcome")
    isla.type(Keys.SPACE)
    isla.press_by_key("Save the outcome")
    isla.sees("good.")
    isla.go(FaultCase.objects.get().get_absolute_url())
    isla.reach("Close the case")
    if isla.driver.execute_script("return document.activeElement.tagName") == "SUMMARY":
        isla.press_by_key("Close the case")
    isla.sees("proved by")
    case = FaultCase.objects.get()
    assert case.cause == "cold_zone" and case.proof == TestPress.objects.get(outcome="good")
    assert case.first_thought and case.last_thought
    isla.sees("After this case")


def test_an_area_is_marked_by_two_taps(signed_in, vest):
    isla = signed_in
    log_by_keys(isla, vest)
    isla.choose("symptom", "Light patches")
    isla.choose("shape", "over an area")
    isla.tap("svg[data-tap=mark]", 0.4, 0.4)
    isla.tap("svg[data-tap=mark]", 0.6, 0.5)
    isla.press("Add the mark")
    isla.sees("Light patches")
    mark = Mark.objects.get()
    assert mark.half_x_mm > 20 and mark.half_y_mm != 0
    assert isla.find("svg rect[stroke-width='2.5']")


def test_more_marks_of_one_fault_are_a_tap_each(signed_in, vest):
    isla = signed_in
    log_by_keys(isla, vest)
    isla.choose("symptom", "White specks")
    for number, share in enumerate((0.3, 0.5, 0.7), start=1):
        isla.tap("svg[data-tap=mark]", share, 0.5)
        isla.press("Add the mark")
        isla.sees(f"{number} White specks")
    marks = Mark.objects.all()
    assert [m.symptom for m in marks] == ["white_specks"] * 3
    assert len({round(m.x_mm) for m in marks}) == 3


def test_a_fault_is_found_by_its_picture_and_marked(signed_in, vest):
    isla = signed_in
    log_by_keys(isla, vest)
    isla.follow("Find it by its picture")
    isla.follow("Light patches")
    isla.follow("Cloudy mottle")
    isla.follow("What it looks like: severe")
    isla.tap("svg[data-tap=mark]", 0.5, 0.5)
    isla.press("Add the mark")
    isla.sees("1 Cloudy mottle")
    mark = Mark.objects.get()
    assert (mark.symptom, mark.severity) == ("moisture_mottle", 3)


def test_the_picture_of_a_fault_is_one_tap_from_the_board_and_back(signed_in, vest):
    isla = signed_in
    piece = room.piece(room.User.objects.get(username="isla"), Element.objects.get())
    room.mark(piece.pressed_by, piece)
    isla.go(piece.get_absolute_url())
    isla.press("Trace this fault")
    isla.follow("Fades towards a margin")
    isla.sees("Mistaken for")
    assert len(isla.find_all(".fault-row svg")) == 3
    isla.follow("Back to the case")
    isla.sees("What this is based on")
