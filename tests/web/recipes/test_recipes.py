"""Recipes that ship, and their cards."""

from tempermark.core.recipes.layers import SLEEVE, code_of
from tempermark.core.recipes.shipped import shipped_recipes
from tempermark.core.recipes.steps import KINDS
from tempermark.core.thermal.library.materials import materials
from tempermark.core.vocabulary.methods import METHODS
from tempermark.core.vocabulary.settings import PEELS, PRESSURE_CLASSES
from tempermark.core.vocabulary.things import BLANK_KINDS
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tempermark.web.recipes.models import Recipe
from tests.support import room
from tests.support.contract_codes import SYMPTOMS


def test_shipped_recipes_are_whole():
    sheets = shipped_recipes()
    for sheet in sheets:
        assert sheet.method in METHODS and sheet.blank_kind in BLANK_KINDS
        assert sheet.normal, sheet.name
        assert sheet.cautions and set(sheet.faults) <= set(SYMPTOMS), sheet.name
        mains = [school.applied(sheet.main) for school in sheet.schools]
        for step in (*sheet.steps, *mains):
            assert step.kind in KINDS
            assert step.do and len(step.do) < 300, sheet.name
            if step.kind != "set" and step.is_heated:
                low, high = step.temperature_c
                short, long = step.time_s
                assert 100 <= low < high <= 230, sheet.name
                assert 0 < short <= long <= 600, sheet.name
                assert step.kind == "hover" or step.pressure in PRESSURE_CLASSES
                assert step.stack and not unknown_layers(step), (sheet.name, step.stack)
        assert {step.peel for step in sheet.steps} <= {"", *PEELS}
        assert len(sheet.schools) != 1, "a school stands beside another"


def unknown_layers(step):
    return {code_of(entry) for entry in step.stack} - set(materials()) - {SLEEVE}


def test_shipped_recipes_cover_the_trade():
    sheets = shipped_recipes()
    assert {job for sheet in sheets for job in sheet.jobs} == set(range(1, 21))
    assert {sheet.method for sheet in sheets} == set(METHODS)
    assert {sheet.blank_kind for sheet in sheets} == set(BLANK_KINDS)
    assert len(sheets) >= 25
    assert sum(bool(sheet.schools) for sheet in sheets) >= 15


def test_long_and_lower_has_the_dose_of_the_main_press():
    sheet = next(s for s in shipped_recipes() if s.name == "Dye on a large coated aluminium panel")
    lower = sheet.main_by("Long and lower")
    # 201 to 180 °C: exp(120000/R · (1/453.15 − 1/474.15)) = 4.098; 60 s and 120 s.
    assert lower.time_s == (246, 492)
    assert lower.stack == sheet.main.stack
    assert sheet.main_by("none of these") == sheet.main


def test_loading_again_keeps_a_shop_s_own_version(db):
    load_shipped_recipes()
    recipe = Recipe.objects.get(slug="film-on-a-cotton-bag")
    first = recipe.versions.get()
    recipe.versions.create(number=2, low_c=150, high_c=155, low_s=9, high_s=12, pressure="light")
    recipe.starting_point = False
    recipe.save()
    assert load_shipped_recipes() == 0
    assert recipe.versions.count() == 2
    first.refresh_from_db()
    assert first.number == 1


def test_a_starting_point_nobody_changed_follows_its_revision(db):
    load_shipped_recipes()
    recipe = Recipe.objects.get(slug="film-on-a-cotton-bag")
    old = recipe.versions.get()
    old.steps = old.steps[:-1]
    old.blank_like = ""
    old.save()
    assert load_shipped_recipes() == 1
    assert [v.change for v in recipe.versions.all()] == [
        "shipped starting point, revised",
        "shipped starting point",
    ]
    assert recipe.versions.first().blank_like == "cotton_bag"
    assert load_shipped_recipes() == 0


def test_a_card_tells_the_dial_of_each_press(browse, technician, element):
    load_shipped_recipes()
    room.element("Wren", place=2)
    room.survey(technician, element)
    vest = room.words(browse.get("/recipes/dye-on-a-polyester-vest/"))
    assert "Heron no good piece yet 206 °C 200 °C true, by its survey at 195 °C" in vest
    assert "Wren no good piece yet 200 °C true, never surveyed" in vest
    film = room.words(browse.get("/recipes/film-on-a-cotton-bag/"))
    assert "a guess: surveyed at 195 °C only" in film


def test_cards(browse):
    load_shipped_recipes()
    text = room.words(browse.get("/recipes/"))
    for recipe in Recipe.objects.all():
        assert recipe.name in text
        card = room.words(browse.get(recipe.get_absolute_url()))
        assert "Stack, top to bottom" in card
        assert "true" in card
    assert browse.get("/recipes/none/").status_code == 404
