"""Windows and heat while figures are typed: the verdict follows, and no label covers another."""

import pytest

from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tempermark.web.recipes.models import Recipe
from tests.browser.labels import covered_labels
from tests.support import room

PAGE = "/windows/?recipe=dye-on-a-polyester-vest"
LONG = "Dye on a polyester vest for the whole regatta crew, back and both sleeves"

# The heading, or the bar that repeats it.
IN_VIEW = """
const heading = document.querySelector("#windows h1");
const bar = document.querySelector("[data-verdict]");
const repeats = bar.textContent === heading.textContent.trim() && !bar.hidden;
return heading.getBoundingClientRect().bottom > 0 || repeats;
"""


@pytest.fixture
def vest(transactional_db):
    load_shipped_recipes()
    return room.blank(name="Vest", thickness_mm=0.5)


def test_the_verdict_follows_what_is_typed_and_stays_in_view(signed_in, vest):
    isla = signed_in
    isla.go(PAGE)
    isla.sees("likely to come out well")
    isla.fill("set_c", "165")
    isla.wait(lambda: "at 165" in isla.headline())
    last = isla.find("#window-form .row:last-child")
    isla.driver.execute_script("arguments[0].scrollIntoView({block: 'start'})", last)
    assert isla.driver.execute_script(IN_VIEW)
    isla.driver.execute_script("scrollTo(0, 0)")
    isla.wait(lambda: not isla.find("[data-verdict]").is_displayed())


def test_the_heat_s_bar_repeats_the_verdict_below_the_fold(signed_in, vest):
    isla = signed_in
    isla.go("/recipes/dye-on-a-polyester-vest/heat/")
    isla.sees("full density")
    isla.fill("pad_c", "40")
    isla.driver.execute_script("scrollTo(0, document.documentElement.scrollHeight)")
    bar = isla.find("[data-verdict]")
    isla.wait(bar.is_displayed)
    isla.wait(lambda: " ".join(isla.headline().split()) == bar.text)


def test_labels_of_three_windows_with_long_names_lie_apart(signed_in, vest):
    for recipe in Recipe.objects.filter(method="dye", blank_kind="garment"):
        recipe.name = f"{LONG} {recipe.pk}"
        recipe.save()
    isla = signed_in
    isla.go("/windows/")
    pks = [option.get_attribute("value") for option in isla.find_all("[name=second] option")][1:4]
    for name, pk in zip(("recipe", "second", "third"), pks, strict=True):
        isla.find(f"[name={name}] option[value='{pk}']").click()
    isla.wait(lambda: len(isla.find_all("#windows .legend li")) == 3)
    assert not covered_labels(isla.driver)


def test_another_blank_brings_its_art(signed_in, vest):
    room.blank(name="Small sample", thickness_mm=0.5, width_mm=120, height_mm=90)
    isla = signed_in
    isla.go("/recipes/dye-on-a-polyester-vest/heat/")
    isla.sees("full density")
    isla.choose("blank", "Small sample")
    isla.wait(lambda: isla.value("[name=art_width_mm]") == "120")
    assert isla.value("[name=art_height_mm]") == "90"
