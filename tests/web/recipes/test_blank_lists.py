"""Which blanks are offered for a recipe, which an element takes, and the art they bring."""

import pytest

from tempermark.core.vocabulary.things import BLANK_KINDS
from tempermark.web.presses.models import Element, ElementRole, Press
from tempermark.web.recipes.blanks.art_size import art_size_mm, face_mm
from tempermark.web.recipes.blanks.choice import ShopBlankField, offered, sizes_on
from tempermark.web.recipes.blanks.takes import kinds_taken, takes
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tempermark.web.recipes.models import Blank, RecipeVersion
from tests.support import room


@pytest.fixture
def vest_recipe(db):
    load_shipped_recipes()
    return RecipeVersion.objects.get(recipe__slug="dye-on-a-polyester-vest")


@pytest.mark.parametrize(
    ("size", "expected"),
    [
        ((200, 100), (200, 100)),
        ((480, 300), (300, 480)),
        ((400, 500), (400, 500)),
        ((600, 500), None),
        ((None, 100), None),
    ],
)
def test_art_covers_a_blank_that_fits_the_platen(element, size, expected):
    blank = Blank(name="x", kind="panel", width_mm=size[0], height_mm=size[1])
    assert art_size_mm(blank, element) == expected


def test_a_blank_without_a_size_has_that_of_its_kind(db):
    kind_only = Blank(name="x", kind="tile", like="ceramic_tile")
    assert face_mm(kind_only) == face_mm(Blank(name="y", kind="tile", like="ceramic_tile"))
    assert face_mm(Blank(name="z", kind="tile")) is None


def test_a_vessel_s_face_is_what_goes_round_it(db):
    cup = Blank(name="c", kind="mug", top_diameter_mm=80, bottom_diameter_mm=70, height_mm=95)
    assert face_mm(cup) == (pytest.approx(251.3, abs=0.1), 95)


def test_only_blanks_of_the_recipe_s_kind_are_offered(vest_recipe, element):
    vest = room.blank(name="Vest", thickness_mm=0.5)
    cotton = room.blank(name="Cotton tee", thickness_mm=0.6, polyester=0.0)
    mug = room.blank(name="Mug", kind="mug", polyester=None)
    (own, rows), (rest, others) = offered(vest_recipe)
    assert rows == [(str(vest.pk), "Vest")]
    assert others == [(str(cotton.pk), "Cotton tee")]
    assert (own, rest) == ("for this recipe", "others of its kind")
    field = ShopBlankField(queryset=Blank.objects.all())
    field.offer(vest_recipe, element)
    shown = [name for _, group in list(field.choices)[1:] for _, name in group]
    assert "Mug" not in shown
    # A link may still name another.
    assert field.clean(str(mug.pk)) == mug


def test_rows_carry_the_art_they_ask_for(element):
    small = room.blank(name="Small", width_mm=120, height_mm=90)
    large = room.blank(name="Large", width_mm=900, height_mm=900)
    assert sizes_on(element, [str(small.pk), str(large.pk), ""]) == {str(small.pk): (120, 90)}


def test_what_each_press_takes(element):
    assert "mug" not in kinds_taken(element)
    assert set(kinds_taken(element)) == set(BLANK_KINDS) - {"mug", "tumbler"}
    sleeve = Element(press=Press(kind="wrap"), role=ElementRole.SLEEVE)
    assert kinds_taken(sleeve) == ["mug", "tumbler"]
    cap = Element(press=Press(kind="cap"), role=ElementRole.UPPER)
    assert kinds_taken(cap) == ["cap"]
    assert not takes(cap, "garment")
