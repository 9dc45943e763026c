"""From an empty room to a setting that is known: what somebody does who has read nothing."""

import io

import pytest
from django.core.management import call_command
from selenium.webdriver.common.keys import Keys

from tempermark.web.accounts.models import User
from tempermark.web.measure.models import Instrument
from tempermark.web.presses.models import Press
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tempermark.web.run.models import TestPress
from tests.browser.person import Person

READ_F = ("372", "376", "374", "375", "378", "377", "370", "371", "371")


@pytest.fixture
def newcomer(chromium, live_server, transactional_db, settings):
    """Somebody before the link that `serve` has printed, in a room with nothing in it."""
    settings.DEMO = False
    load_shipped_recipes()
    chromium.delete_all_cookies()
    person = Person(chromium, live_server.url)
    yield person
    chromium.get("about:blank")


def link(address):
    out = io.StringIO()
    call_command("first_link", base=address, stdout=out)
    return out.getvalue().partition("begin: ")[2].splitlines()[0]


def test_from_the_printed_link_to_a_logged_piece_in_inches(newcomer):
    lead = newcomer
    lead.driver.get(link(lead.address))
    lead.sees("Who are you?")
    lead.fill("name", "sunna")
    lead.fill("password", "first-light-42")
    lead.find("input[value=imperial]").click()
    lead.press("Begin")
    lead.sees("No presses yet.")

    lead.follow("Add your first press")
    lead.fill("name", "Merlin")
    lead.fill("width_mm", "16")
    lead.fill("height_mm", "20 in")
    assert lead.text("[data-platen-height]") == "20.0 in"
    lead.press("Add the press")
    lead.sees("Merlin has never been surveyed.")

    step(lead, "Survey")
    lead.wait(lambda: lead.find("input[value=infrared]"))
    lead.find("input[value=infrared]").click()
    lead.choose("grid", "3 × 3, quick look")
    lead.press("Start reading")
    for figure in READ_F[:-1]:
        lead.enter(figure)
    lead.find("#typed").send_keys(READ_F[-1], Keys.ENTER)
    lead.press("Finish the survey")
    lead.sees("Set Merlin to 38")

    step(lead, "Recipe and blank")
    lead.wait(lambda: lead.find("#find"))
    lead.find("#find").send_keys("polyester vest")
    lead.follow("Dye on a polyester vest")
    lead.fill("name", "Club vest")
    lead.press("Add the blank")
    lead.sees("Set Merlin by feel for Club vest: medium.")
    lead.press("It is right for this piece")
    lead.sees("Leave Merlin’s knob where it is")

    step(lead, "Test press")
    lead.follow("Dye on a polyester vest")
    lead.press("Save the test press")
    lead.sees("how did it come out?")
    assert not lead.find_all(".guide")

    assert User.objects.get().units.length == "in"
    assert Press.objects.get().display_unit == "f"
    assert Instrument.objects.get().kind == "infrared"
    assert TestPress.objects.get().blank.name == "Club vest"


def step(person, words):
    """Go on to a step of the row under the navigation."""
    path = f"//nav[@aria-label='First steps']//a[normalize-space()='{words}']"

    def go_on():
        person.driver.find_element("xpath", path).click()
        return True

    person.wait(go_on)


def test_a_recipe_is_found_by_typing_and_others_stay_folded(isla):
    load_shipped_recipes()
    isla.sign_in()
    isla.go("/presses/heron/test-presses/new/")
    isla.sees("Recipes that fit Heron")
    assert "Dye on a mug in a wrap press" not in isla.text()
    isla.find("#find").send_keys("mug wrap")
    isla.sees("Dye on a mug in a wrap press")
    assert "Dye on a polyester vest" not in isla.text()
    isla.find("#find").send_keys(" nothing")
    isla.sees("No recipe matches.")
