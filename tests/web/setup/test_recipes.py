"""Recipes that ship, and their cards."""

from tempermark.core.recipes.shipped import shipped_recipes
from tempermark.core.vocabulary import METHODS, PEELS, PRESSURE_CLASSES
from tempermark.web.setup.actions import load_shipped_recipes
from tempermark.web.setup.models import Recipe
from tests.support import room


def test_shipped_recipes_are_whole():
    for recipe in shipped_recipes():
        low, high = recipe["temperature_c"]
        short, long = recipe["time_s"]
        assert 100 <= low < high <= 230, recipe["name"]
        assert 0 < short <= long <= 600, recipe["name"]
        assert recipe["method"] in METHODS
        assert recipe["pressure"] in PRESSURE_CLASSES
        assert recipe.get("peel", "hot") in PEELS
        assert recipe["steps"] and recipe["stack"] and recipe["cautions"], recipe["name"]


def test_loading_again_keeps_a_shop_s_own_version(db):
    load_shipped_recipes()
    recipe = Recipe.objects.get(slug="film-on-a-cotton-bag")
    first = recipe.versions.get()
    recipe.versions.create(number=2, low_c=150, high_c=155, low_s=9, high_s=12, pressure="light")
    load_shipped_recipes()
    assert recipe.versions.count() == 2
    first.refresh_from_db()
    assert first.number == 1


def test_a_card_tells_the_dial_of_each_press(browse, technician, element):
    load_shipped_recipes()
    room.element("Wren", place=2)
    room.survey(technician, element)
    vest = room.words(browse.get("/recipes/dye-on-a-polyester-vest/"))
    assert "Heron by its survey at 195 °C 206 °C pressure Wren not measured" in vest
    film = room.words(browse.get("/recipes/film-on-a-cotton-bag/"))
    assert "Heron a guess: surveyed at 195 °C only" in film


def test_cards(browse):
    load_shipped_recipes()
    text = room.words(browse.get("/recipes/"))
    for recipe in Recipe.objects.all():
        assert recipe.name in text
        card = room.words(browse.get(recipe.get_absolute_url()))
        assert "Stack, top to bottom" in card
        assert "true" in card
    assert browse.get("/recipes/none/").status_code == 404
