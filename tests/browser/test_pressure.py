"""Pressure at the bench: learn a knob, change blanks, map by strips, with the keyboard only."""

import re

import pytest
from selenium.webdriver.common.keys import Keys

from tempermark.web.presses.models import Press
from tempermark.web.pressure import queries
from tempermark.web.pressure.models import PressureSurvey, RaisedPart
from tests.support import room

pytestmark = pytest.mark.browser
PAGE = "/presses/heron/pressure/"


def tab_to(isla, words):
    """Go on by Tab until the focus is on something that says so."""
    for _ in range(60):
        focused = isla.driver.switch_to.active_element
        own = focused.tag_name != "body" and words in (focused.text or "")
        if focused.get_attribute("name") == words or (own and not words.islower()):
            return focused
        isla.type(Keys.TAB)
    raise AssertionError(f"Tab never reaches “{words}”")


@pytest.fixture
def blanks(db):
    room.blank(name="Crew vest", kind="garment", thickness_mm=0.5)
    room.blank(name="Hooded sweatshirt", kind="garment", thickness_mm=2.0)


def learn(isla):
    isla.go(f"{PAGE}learn/")
    tab_to(isla, "form-0-shim_mm")
    for shim, turns in (("0", "2"), ("1", "1,375"), ("2", "0,625"), ("4", "-0.625")):
        isla.type(shim, Keys.TAB, turns, Keys.TAB)
    isla.type(Keys.ENTER)
    isla.sees("clockwise tightens")


def choose(isla, blank):
    """Another blank by its first letter; the answer follows by itself."""
    field = tab_to(isla, "blank")
    before = isla.text("#summary")
    field.send_keys(blank[0])
    isla.wait(lambda: isla.text("#summary") != before)


def test_learn_a_knob_change_blanks_and_come_back(signed_in, blanks):
    isla = signed_in
    learn(isla)
    isla.go(PAGE)
    isla.sees("From the touch point")
    tab_to(isla, "Done: it is set")
    isla.type(Keys.ENTER)
    isla.sees("for 1.3 mm (Crew vest), medium")
    first = queries.state(Press.objects.get()).position_turns
    choose(isla, "Hooded sweatshirt")
    assert re.match(r"Back off 2 turns, counter-clockwise on this press\.", isla.headline())
    isla.sees("more than firm")
    tab_to(isla, "Done: it is set")
    isla.type(Keys.ENTER)
    isla.sees("(Hooded sweatshirt), medium")
    choose(isla, "Crew vest")
    assert re.match(r"Tighten 2 turns, clockwise on this press\.", isla.headline())
    tab_to(isla, "Done: it is set")
    isla.type(Keys.ENTER)
    isla.sees("(Crew vest), medium")
    assert queries.state(Press.objects.get()).position_turns == first


def test_another_blank_brings_its_layers(signed_in, blanks):
    isla = signed_in
    room.blank(name="Plate", kind="hardboard", thickness_mm=3.2)
    learn(isla)
    isla.go(PAGE)
    layers = isla.find("#load [name=layers]")
    assert layers.get_attribute("value") == "2"
    choose(isla, "Plate")
    isla.wait(lambda: isla.value("#load [name=layers]") == "1")
    isla.sees("for a stack of 3.5 mm")
    assert isla.driver.switch_to.active_element.get_attribute("name") == "blank"


def test_map_by_strips(signed_in, blanks):
    isla = signed_in
    isla.go(f"{PAGE}strips/")
    field = tab_to(isla, "stack_mm")
    field.send_keys(Keys.BACKSPACE * 4, "1,1", Keys.ENTER)
    isla.wait(lambda: isla.station() == "A1")
    for typed in ("1", "h", "2", "t", "H", "1", "d"):
        before = isla.station()
        isla.type(typed, Keys.ENTER)
        isla.wait(lambda before=before: isla.station() != before)
    isla.type("x", Keys.ENTER)
    isla.sees("describes no strip")
    isla.wait(lambda: isla.marked() == "x")
    isla.type("2", Keys.ENTER)
    isla.wait(lambda: isla.station() == "C3")
    tab_to(isla, "Undo")
    isla.type(Keys.ENTER)
    isla.wait(lambda: isla.station() == "B3")
    for typed in ("2", "3"):
        before = isla.station()
        isla.type(typed, Keys.ENTER)
        isla.wait(lambda before=before: isla.station() != before)
    tab_to(isla, "Finish the map")
    isla.type(Keys.ENTER)
    isla.sees("Heron has less pressure on the left.")
    isla.sees("Shim under the pad at the left")
    isla.wait(lambda: PressureSurvey.objects.get().verdict == "fail")


def test_strips_typed_while_one_is_on_its_way_go_to_the_stations_that_follow(signed_in, blanks):
    isla = signed_in
    isla.go(f"{PAGE}strips/")
    tab_to(isla, "stack_mm").send_keys(Keys.BACKSPACE * 4, "1,1", Keys.ENTER)
    isla.wait(lambda: isla.station() == "A1")
    isla.type("1", Keys.ENTER, "h", Keys.ENTER, "3", Keys.ENTER)
    isla.sees("3 of 9 pulled")
    isla.sees("Undo “tears” at C1")


def test_a_known_press_is_pulled_in_a_few_strips(signed_in, blanks):
    """After a whole map the page leads from station to station, and says when it is enough."""
    isla = signed_in
    isla.go(f"{PAGE}strips/")
    tab_to(isla, "stack_mm").send_keys(Keys.BACKSPACE * 4, "1,1", Keys.ENTER)
    isla.wait(lambda: isla.station() == "A1")
    for _ in range(9):
        before = isla.text("#entry-box")
        isla.type("2", Keys.ENTER)
        isla.wait(lambda before=before: isla.text("#entry-box") != before)
    isla.sees("All 9 strips are pulled.")
    isla.press("Finish the map")
    isla.sees("Heron presses evenly.")
    isla.go(f"{PAGE}strips/")
    tab_to(isla, "stack_mm").send_keys(Keys.ENTER)
    isla.sees("is remembered")
    for _ in range(9):
        before = isla.text("#entry-box")
        if "are enough" in before:
            break
        isla.type("2", Keys.ENTER)
        isla.wait(lambda before=before: isla.text("#entry-box") != before)
    isla.sees("as far as strips show")
    tab_to(isla, "Finish the map")
    isla.type(Keys.ENTER)
    isla.wait(lambda: PressureSurvey.objects.first().verdict == "pass")
    isla.sees("Open it again")
    isla.open_details("Why")
    isla.sees("Rests also on")
    survey = PressureSurvey.objects.first()
    assert survey.grid == "known"
    assert survey.stations.filter(pulls__isnull=False).count() < 9


def test_a_button_is_drawn_where_it_is_tapped(signed_in, blanks):
    isla = signed_in
    blank = room.blank(name="Shirt", thickness_mm=2.0, width_mm=480, height_mm=560)
    isla.go(f"/pieces/{blank.pk}/")
    isla.find("#raised-form [name=kind]").send_keys("b")
    isla.tap("svg.piece", 0.5, 0.5)
    isla.wait(lambda: abs(int(isla.value("#raised-form [name=x_mm]")) - 240) < 9)
    isla.type("12", Keys.TAB, "12", Keys.TAB, "2,5", Keys.ENTER)
    isla.sees("The button takes contact from this print.")
    part = RaisedPart.objects.get()
    assert (part.width_mm, part.rises_mm) == (12, 2.5)


def test_a_print_is_moved_clear_by_a_tap(signed_in, blanks):
    isla = signed_in
    blank = room.blank(name="Shirt", thickness_mm=2.0, width_mm=480, height_mm=560)
    part = {"width_mm": 12, "depth_mm": 560, "rises_mm": 3.0, "x_mm": 234, "y_mm": 0}
    RaisedPart.objects.create(blank=blank, kind="zip", **part)
    isla.go(f"/pieces/{blank.pk}/")
    isla.sees("The zip takes contact from this print.")
    isla.tap("svg.piece", 0.24, 0.5)
    isla.sees("The print is clear of everything raised.")
