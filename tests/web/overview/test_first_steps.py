"""The first steps of a new room: which is next, and when they are over."""

from uuid import uuid4

import pytest

from tempermark.web.overview.first_steps import after_recipe, first_steps
from tempermark.web.presses.models import Press
from tempermark.web.pressure import actions
from tempermark.web.pressure.setting.setting import Load, advise
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tempermark.web.recipes.models import RecipeVersion
from tests.support import room

NAMES = ["Press", "Survey", "Recipe and blank", "Pressure", "Test press"]


def next_step():
    return next(step.title for step in first_steps() if step.is_next)


def test_each_step_follows_the_one_before(technician):
    assert [step.title for step in first_steps()] == NAMES
    assert [bool(step.address) for step in first_steps()] == [True, False, True, False, False]
    assert next_step() == "Press"
    element = room.element("Merlin")
    assert next_step() == "Survey"
    assert all(step.address for step in first_steps())
    room.survey(technician, element)
    assert next_step() == "Recipe and blank"
    blank = room.blank(thickness_mm=0.5)
    assert next_step() == "Pressure"
    press = Press.objects.get()
    load = Load(blank, 2, 0.3, 0.0, "medium")
    actions.set_pressure(technician, advise(press, element, load), uuid4())
    assert next_step() == "Test press"
    load_shipped_recipes()
    room.piece(technician, element)
    assert first_steps() == []


def test_a_step_left_out_stays_the_next(technician):
    room.element("Merlin")
    room.blank(thickness_mm=0.5)
    assert next_step() == "Survey"


@pytest.fixture
def version(db):
    load_shipped_recipes()
    return RecipeVersion.objects.get(recipe__slug="dye-on-a-polyester-vest")


def test_a_chosen_recipe_leads_past_its_blank_to_the_pressure(browse, element, version):
    press = element.press
    assert after_recipe(press, version).startswith("/blanks/new/?like=")
    response = browse.get(f"/first-recipe/?recipe={version.pk}")
    page = room.soup(browse.get(response.url))
    form = page.select_one("main form")
    assert (
        form.select_one("[name=back]")["value"] == f"/presses/heron/pressure/?recipe={version.pk}"
    )
    room.blank(thickness_mm=0.5)
    assert after_recipe(press, version) == f"/presses/heron/pressure/?recipe={version.pk}"


def test_the_row_is_shown_to_who_works(browse, client, element):
    assert room.soup(browse.get("/")).select_one(".guide")
    client.force_login(room.person("tomke", "clerk"))
    assert not room.soup(client.get("/")).select_one(".guide")


@pytest.mark.parametrize("back", ["https://elsewhere.test/", "//elsewhere.test", "javascript:x"])
def test_nobody_is_sent_elsewhere_after_a_blank(browse, db, back):
    page = room.soup(browse.get("/blanks/new/", {"back": back}))
    assert not page.select_one("main [name=back]")
