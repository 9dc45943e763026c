"""The heat of a recipe in the browser: scrub through the dwell, move the art, take the advice."""

import re

import pytest

from tempermark.web.floor.models import Element
from tempermark.web.setup.actions import load_shipped_recipes
from tests.support import room

pytestmark = pytest.mark.browser


def advised(isla):
    found = re.search(r"Set (\d+)\s°C for this art", isla.find("#heat-platen").text)
    return int(found[1]) if found else None


def test_art_moved_to_the_cold_corner_asks_for_more_and_the_advice_is_right(signed_in):
    isla = signed_in
    load_shipped_recipes()
    room.blank(name="Vest", thickness_mm=0.5, polyester=1.0)
    cold = lambda x, y: 190.0 - (4 if x < 150 and y > 350 else 0)  # noqa: E731
    room.survey(room.person("maren", "lead"), Element.objects.get(), truth=cold)
    isla.go("/recipes/dye-on-a-polyester-vest/heat/")
    isla.sees("truly 201 °C")
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
