"""Preparing in the browser: a list ticked with the keyboard and at phone width, a clock that rings,
and a template measured on the screen.
"""

import base64

import pypdfium2
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tempermark.core.preparing.vessels.template import flat_template, outline
from tempermark.files.preparing.template_svg import template_svg
from tempermark.web.jobs.models import Clock, Job
from tempermark.web.jobs.queries import ticked
from tempermark.web.presses.models import Element, Press
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tests.browser.labels import resize
from tests.support import room
from tests.support.pictures import quartered

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


def make_list(isla, recipe="dye-on-a-polyester-vest", press="Heron", **fields):
    isla.go(f"/recipes/{recipe}/")
    isla.follow("Prepare a piece")
    isla.sees(f"What are you preparing on {press}?")
    for name, text in fields.items():
        isla.fill(name, text)
    isla.press("Make the list")
    isla.sees("Before the press closes")


def tick_all(isla, act):
    """Every line of the list, by `act` on its box, until the piece is ready."""
    for _ in range(30):
        if "Ready to press" in isla.headline():
            return
        before = isla.headline()
        act(isla.find(".checklist li:not(.done) .tick"))
        isla.wait(lambda before=before: isla.headline() != before)


def no_wider_than_the_screen(isla):
    wide = "return document.documentElement.scrollWidth - innerWidth"
    assert isla.driver.execute_script(wide) <= 1


def test_from_recipe_to_ready_to_press_by_keyboard(signed_in, vest):
    isla = signed_in
    make_list(isla)
    tick_all(isla, lambda box: box.send_keys(Keys.ENTER))
    isla.sees("Ready to press on Heron.")
    isla.follow("Log one by hand")
    isla.sees("What was done")
    assert isla.value("[name=either_transfer]") == "transfer_fixed"
    assert {"lint", "fix", "dial"} <= ticked(Job.objects.get())


@pytest.fixture
def long_board(transactional_db):
    load_shipped_recipes()
    coot = Press.objects.create(name="Coot", slug="coot", kind="draw")
    Element.objects.create(press=coot, width_mm=1600.0, height_mm=700.0)
    return room.board(name="Long board", width_mm=1500, height_mm=500)


def test_a_panel_of_a_metre_and_a_half_by_mouse_with_its_art(signed_in, long_board, tmp_path):
    isla = signed_in
    isla.go("/recipes/dye-on-a-large-coated-aluminium-panel/prepare/?press=coot")
    isla.press("Make the list")
    isla.sees("Print the art 1508.2 mm × 504.1 mm.")
    isla.follow("choose or load it")
    picture = tmp_path / "banner.png"
    quartered(2400, 900).save(picture)
    isla.find("[name=file]").send_keys(str(picture))
    isla.press("Add it")
    isla.sees("The art covers the blank and its bleed.")
    isla.sees("40 dpi at this size: edges look coarse.")
    drag(isla, "svg[data-outline]", 0, 40)
    isla.wait(lambda: "White will show" in isla.headline())
    dragged = Job.objects.get().outline_top_mm
    isla.find("svg[data-outline]").send_keys(Keys.SHIFT, Keys.ARROW_UP)
    isla.wait(lambda: Job.objects.get().outline_top_mm == pytest.approx(dragged - 10, abs=0.6))
    isla.press("As small as covers, in the middle")
    isla.wait(lambda: "covers the blank" in isla.headline())
    assert Job.objects.get().outline_top_mm is None
    isla.follow("The preparation list")
    tick_all(isla, lambda box: box.click())
    isla.sees("Ready to press on Coot.")
    assert {"size", "film_off", "dry"} <= ticked(Job.objects.get())


def drag(isla, selector, x, y):
    svg = isla.find(selector)
    chain = ActionChains(isla.driver)
    chain.move_to_element(svg).click_and_hold().move_by_offset(x, y).release().perform()


@pytest.fixture
def beaker(transactional_db):
    load_shipped_recipes()
    dipper = Press.objects.create(name="Dipper", slug="dipper", kind="wrap")
    Element.objects.create(
        press=dipper,
        role="sleeve",
        shape="tapered",
        top_diameter_mm=91,
        bottom_diameter_mm=63,
        closes_by_mm=6,
        width_mm=240.0,
        height_mm=110.0,
    )
    return room.blank(
        name="Beaker",
        kind="tumbler",
        like="steel_tumbler",
        coating="factory",
        material="stainless",
        features=["curved", "tapered", "hollow"],
        thickness_mm=0.5,
        top_diameter_mm=88,
        bottom_diameter_mm=60,
        height_mm=110,
    )


def test_a_tapered_beaker_by_keyboard_to_its_bent_template(signed_in, beaker):
    isla = signed_in
    make_list(isla, "dye-on-a-tapered-steel-beaker", "Dipper")
    isla.sees("Lay the art out on the vessel’s template.")
    address = isla.driver.current_url
    isla.go(f"/template/?blank={beaker.pk}")
    isla.sees("Bend the art, or keep it under 53 mm wide.")
    assert len(isla.find_all(".template-drawing .safe")) == 2
    isla.driver.get(address)
    tick_all(isla, lambda box: box.send_keys(Keys.SPACE))
    isla.sees("Ready to press on Dipper.")
    assert "template" in ticked(Job.objects.get())


@pytest.fixture
def shirt(transactional_db):
    load_shipped_recipes()
    return room.blank(name="Shirt", kind="garment", polyester=0.0, colour="white", thickness_mm=0.6)


def test_a_sprayed_cotton_shirt_on_a_phone_with_its_cures_timed(signed_in, shirt):
    isla = signed_in
    resize(isla.driver, 390, 844)
    try:
        make_list(isla, "cotton-shirt-sprayed-coat-then-dye")
        isla.sees("Spray until evenly damp.")
        no_wider_than_the_screen(isla)
        start = next(b for b in isla.find_all(".waits button") if b.text.startswith("Start 32 s"))
        start.click()
        isla.wait(lambda: isla.find_all("#clocks .clock"))
        assert Clock.objects.get().name == "Shirt: cure"
        tick_all(isla, lambda box: box.click())
        isla.sees("Ready to press on Heron.")
        no_wider_than_the_screen(isla)
        done = ticked(Job.objects.get())
        assert {"mix", "step-2", "step-3", "step-4", "step-5", "step-6"} <= done
    finally:
        resize(isla.driver, 1280, 800)


PAPER_IN = {"A4": (8.27, 11.69), "Letter": (8.5, 11.0), "A5": (5.83, 8.27), "Legal": (8.5, 14.0)}


@pytest.mark.parametrize("paper", PAPER_IN)
@pytest.mark.parametrize("wide", [False, True])
def test_a_card_is_one_page_on_any_paper(signed_in, vest, paper, wide):
    signed_in.go("/presses/heron/cards/cotton-shirt-sprayed-coat-then-dye/")
    signed_in.sees("Steps")
    size = PAPER_IN[paper]
    asked = {"paperWidth": size[0], "paperHeight": size[1], "landscape": wide}
    asked |= {"preferCSSPageSize": False, "printBackground": True}
    printed = signed_in.driver.execute_cdp_cmd("Page.printToPDF", asked)
    assert len(pypdfium2.PdfDocument(base64.b64decode(printed["data"]))) == 1


def test_a_list_is_ticked_with_a_thumb_on_a_phone(signed_in, vest):
    isla = signed_in
    make_list(isla)
    resize(isla.driver, 390, 844)
    try:
        tick = isla.find(".checklist .tick")
        assert tick.rect["height"] >= 44
        tick.click()
        isla.wait(lambda: isla.find_all(".checklist .done"))
        no_wider_than_the_screen(isla)
    finally:
        resize(isla.driver, 1280, 800)


def test_a_clock_counts_down_survives_a_reload_and_rings_until_heard(signed_in, vest):
    isla = signed_in
    isla.go("/clocks/")
    isla.fill("name", "hover")
    isla.fill("seconds", "3")
    isla.press("Start it")
    isla.wait(lambda: isla.text("#clocks [data-left]") in ("0:03", "0:02", "0:01"))
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
