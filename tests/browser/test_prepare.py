"""Preparing in the browser: a list ticked with the keyboard and at phone width, a clock that rings,
and a template measured on the screen.
"""

import pytest
from selenium.webdriver.common.keys import Keys

from tempermark.core.preparing.vessels.template import flat_template, outline
from tempermark.files.preparing.template_svg import template_svg
from tempermark.web.jobs.models import Clock, Job
from tempermark.web.jobs.queries import ticked
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tests.browser.labels import resize
from tests.support import room

# CSS says that an inch is 96 px.
PX_PER_MM = 96 / 25.4
MEASURED = """
const frame = document.createElement("div");
frame.innerHTML = arguments[0];
document.body.append(frame);
const size = (name) => frame.querySelector(name).getBoundingClientRect();
const whole = size("svg"), ruler = size("#ruler"), line = size("#outline");
frame.remove();
return [whole.width, whole.height, ruler.width, line.width, line.height];
"""


@pytest.fixture
def vest(transactional_db):
    load_shipped_recipes()
    return room.blank(name="Vest", thickness_mm=0.5)


def make_list(isla):
    isla.go("/recipes/dye-on-a-polyester-vest/")
    isla.follow("Prepare a piece")
    isla.sees("What are you preparing on Heron?")
    isla.press("Make the list")
    isla.sees("Before the press closes")


def test_from_recipe_to_ready_to_press_by_keyboard(signed_in, vest):
    isla = signed_in
    make_list(isla)
    for _ in range(20):
        if "Ready to press" in isla.headline():
            break
        before = isla.headline()
        isla.find(".checklist li:not(.done) .tick").send_keys(Keys.ENTER)
        isla.wait(lambda before=before: isla.headline() != before)
    isla.sees("Ready to press on Heron.")
    isla.follow("Log the press")
    isla.sees("What was done")
    assert isla.find("[name=either_transfer]").get_attribute("value") == "transfer_fixed"
    assert {"lint", "fix", "dial"} <= ticked(Job.objects.get())


def test_a_list_is_ticked_with_a_thumb_on_a_phone(signed_in, vest):
    isla = signed_in
    make_list(isla)
    resize(isla.driver, 390, 844)
    try:
        tick = isla.find(".checklist .tick")
        assert tick.rect["height"] >= 44
        tick.click()
        isla.wait(lambda: isla.find_all(".checklist .done"))
        wide = "return document.documentElement.scrollWidth - innerWidth"
        assert isla.driver.execute_script(wide) <= 1
    finally:
        resize(isla.driver, 1280, 800)


def test_a_clock_counts_down_survives_a_reload_and_rings_until_heard(signed_in, vest):
    isla = signed_in
    isla.go("/clocks/")
    isla.fill("name", "hover")
    isla.fill("seconds", "3")
    isla.press("Start it")
    isla.wait(lambda: isla.find("#clocks [data-left]").text in ("0:03", "0:02", "0:01"))
    isla.go("/test-presses/")
    isla.wait(lambda: isla.find("#clocks .ringing"))
    isla.press("Heard", "//section[@id='clocks']")
    isla.wait(lambda: not isla.find_all("#clocks .clock"))
    assert Clock.objects.get().rung_at is not None


def test_a_template_is_drawn_at_one_to_one(signed_in, vest):
    """Within a tenth of a millimetre on the screen."""
    template = flat_template(88, 60, 110)
    signed_in.go("/template/")
    found = signed_in.driver.execute_script(MEASURED, template_svg(template, 3.0))
    width, height, ruler, wide, tall = (px / PX_PER_MM for px in found)
    ring = outline(template, 3.0)
    expected = ring.max(axis=0) - ring.min(axis=0)
    assert (wide, tall) == pytest.approx(tuple(expected), abs=0.1)
    assert ruler == pytest.approx(100, abs=0.1)
    assert (width, height) == pytest.approx((expected[0] + 20, expected[1] + 36), abs=0.1)
