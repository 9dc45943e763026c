"""The heat of a recipe in the browser: scrub through the dwell, move the art, take the advice."""

import re

import pytest
from selenium.webdriver.common.action_chains import ActionChains

from tempermark.web.presses.models import Element
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tempermark.web.run.pieces import actions as runs
from tests.support import room

pytestmark = pytest.mark.browser


def advised(isla):
    found = re.search(r"Set (\d+)\s°C for this art", isla.text("#heat-platen"))
    return int(found[1]) if found else None


def test_art_moved_to_the_cold_corner_asks_for_more_and_the_advice_is_right(signed_in):
    isla = signed_in
    load_shipped_recipes()
    room.blank(name="Vest", thickness_mm=0.5, polyester=1.0)
    cold = lambda x, y: 190.0 - (4 if x < 150 and y > 350 else 0)  # noqa: E731
    room.survey(room.person("maren", "lead"), Element.objects.get(), truth=cold)
    isla.go("/recipes/dye-on-a-polyester-vest/heat/")
    isla.sees("at 201 °C true")
    isla.fill("set_c", "190\t")
    before = isla.wait(lambda: advised(isla))
    isla.find("#heat-platen svg")
    isla.tap("#heat-platen svg", 0.28, 0.2)
    corner = isla.wait(lambda: advised(isla) != before and advised(isla))
    assert corner > before
    isla.fill("set_c", f"{corner}\t")
    isla.sees("The dial is right for this art")


def test_the_moment_can_be_dragged(signed_in):
    isla = signed_in
    load_shipped_recipes()
    room.blank(name="Vest", thickness_mm=0.5, polyester=1.0)
    isla.go("/recipes/dye-on-a-polyester-vest/heat/")
    line = ".thing path[stroke='#a8490f']"
    late = isla.find(line).get_attribute("d")
    isla.driver.execute_script(
        "const r = document.querySelector('[name=at_s]'); r.value = 1;"
        "r.dispatchEvent(new Event('input', {bubbles: true}));"
    )
    isla.wait(lambda: isla.find(line).get_attribute("d") != late)
    isla.wait(lambda: "after 1" in isla.find(".thing svg").get_attribute("aria-label"))


def drag(isla, part, dx, dy):
    """A finger takes hold of a part of a drawing and lets it go elsewhere."""
    found = isla.find(part)
    isla.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", found)
    chain = ActionChains(isla.driver).move_to_element(found).click_and_hold()
    for _ in range(4):
        chain = chain.move_by_offset(round(dx / 4), round(dy / 4))
    chain.release().perform()


def layers(isla):
    return [i.get_attribute("value") for i in isla.find_all("input[name=layer]")]


def test_a_stack_is_built_warned_of_and_the_dial_for_a_cold_corner_is_taken(signed_in):
    isla = signed_in
    load_shipped_recipes()
    room.blank(name="Vest", thickness_mm=0.5, polyester=1.0)
    cold = lambda x, y: 190.0 - (4 if x < 150 and y > 350 else 0)  # noqa: E731
    room.survey(room.person("maren", "lead"), Element.objects.get(), truth=cold)
    isla.go("/recipes/")
    isla.follow("Dye on a polyester vest")
    isla.follow("What the heat does")
    before = layers(isla)
    # The inside sheet comes out: dye would go through to the back.
    isla.find("button[value='out:3']").click()
    isla.sees("dye gas goes through to the back of the garment")
    assert len(layers(isla)) == len(before) - 1
    isla.press("Undo")
    isla.wait(lambda: layers(isla) == before)
    assert "dye gas goes through" not in isla.text()
    # A layer is dragged: the transfer over its cover, which then lies between.
    drag(isla, "g[data-layer='1'] rect", 0, -110)
    isla.wait(lambda: layers(isla)[0] == "transfer_paper")
    isla.sees("a sheet between the transfer and the blank")
    isla.press("Back to the recipe’s stack")
    isla.wait(lambda: layers(isla) == before)
    # A sheet more on top, from the library, cools what lies under it.
    headline = isla.headline()
    isla.choose("material", "aramid felt")
    isla.press("Put on top")
    isla.wait(lambda: layers(isla)[0] == "aramid_felt" and isla.headline() != headline)
    isla.press("Back to the recipe’s stack")
    isla.wait(lambda: layers(isla) == before)
    # The art is dragged to the cold corner at the back left, and the advised dial taken.
    isla.fill("set_c", "190\t")
    first = isla.wait(lambda: advised(isla))
    drag(isla, "#heat-platen [data-art]", -90, -110)
    corner = isla.wait(lambda: advised(isla) not in (None, first) and advised(isla))
    assert corner > first
    isla.press(f"Take {corner}")
    isla.sees("The dial is right for this art")
    assert isla.value("[name=set_c]") == str(corner)


def test_the_art_is_resized_by_its_corner(signed_in):
    isla = signed_in
    load_shipped_recipes()
    room.blank(name="Vest", thickness_mm=0.5, polyester=1.0)
    room.survey(room.person("maren", "lead"), Element.objects.get())
    isla.go("/recipes/dye-on-a-polyester-vest/heat/")
    isla.wait(lambda: isla.find("[data-art-size]"))
    drag(isla, "[data-art-size]", 40, -40)
    value = lambda name: float(isla.find(f"[name={name}]").get_attribute("value"))  # noqa: E731
    isla.wait(lambda: value("art_width_mm") > 210 and value("art_height_mm") > 260)
    assert (value("art_x_mm"), value("art_y_mm")) == (100, 125)


def test_a_recipe_is_changed_by_a_lead_in_the_browser(isla):
    load_shipped_recipes()
    room.person("maren", "lead")
    isla.sign_in("maren")
    isla.go("/recipes/film-on-a-cotton-bag/")
    isla.follow("Change it")
    isla.press("Add a step")
    isla.wait(lambda: len(isla.find_all("details.part")) > 6)
    count = int(isla.value("[name=step-TOTAL_FORMS]"))
    isla.fill(f"step-{count - 1}-do", "Fold it while warm.")
    isla.fill("change", "folding added")
    isla.press("Save as version 2")
    isla.sees("Film on a cotton bag, version 2, is saved")
    isla.sees("Fold it while warm.")


def test_what_pieces_teach_is_accepted_in_the_browser(isla):
    lead = room.person("maren", "lead")
    element = Element.objects.get()
    room.survey(lead, element, truth=lambda x, y: 195.0)
    room.blank(thickness_mm=0.5)
    for dwell_s in (25.0, 52.0):
        piece = room.piece(lead, element, dwell_s=dwell_s, set_c=200.0)
        runs.score(lead, piece, runs.Scored("good", scores={"black": 5}))
    isla.sign_in("maren")
    isla.go("/lessons/")
    isla.sees("New lessons about polyester cloth")
    isla.press("Accept it")
    isla.sees("Accepted: dye on polyester cloth")
    isla.press("Undo what was accepted")
    isla.sees("Taken back")
