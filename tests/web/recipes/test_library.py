"""The library: shipped values, the shop's own above them, and where each came from."""

import json

import pytest

from tempermark.core.recipes.blank_types import blank_types
from tempermark.core.recipes.layers import entry_text, read_layer, thickness_of
from tempermark.core.thermal.library.materials import GROUPS, materials
from tempermark.core.vocabulary.things import (
    BLANK_COATINGS,
    BLANK_COLOURS,
    BLANK_FEATURES,
    BLANK_KINDS,
)
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tempermark.web.recipes.materials.library import limits_of, shop_materials
from tempermark.web.recipes.models import Blank, OwnMaterial
from tests.support import room

JERSEY = "/library/materials/cotton_jersey/"


@pytest.fixture
def leads(browse_as, lead):
    return browse_as(lead)


def test_every_kind_of_blank_is_whole():
    kinds = blank_types().values()
    assert {k.kind for k in kinds} == set(BLANK_KINDS)
    for kind in kinds:
        assert kind.material in materials(), kind.code
        assert kind.colour in BLANK_COLOURS and kind.coating in BLANK_COATINGS
        assert set(kind.features) <= set(BLANK_FEATURES)
        assert kind.thickness_mm > 0 and kind.source


def test_every_material_has_its_group_and_label():
    for material in materials().values():
        assert material.group in GROUPS and material.label
        limits = (material.scorch_c, material.softens_c, material.flows_c, material.most_c)
        assert material.limit_source or limits == (None,) * 4


def test_own_values_stand_above_shipped_ones_and_are_taken_back(leads, browse, db):
    assert "as shipped" in room.words(browse.get(JERSEY))
    fields = {"conductivity_w_mk": "0,08", "source": "plate meter, March"}
    assert leads.post(JERSEY, fields).status_code == 302
    merged = shop_materials()["cotton_jersey"]
    assert merged.conductivity_w_mk == 0.08
    assert merged.density_kg_m3 == materials()["cotton_jersey"].density_kg_m3
    told = room.words(browse.get(JERSEY))
    assert "0.08 W/mK 0.06 ours : plate meter, March" in told
    assert "starting table" in told
    assert "ours" in room.words(browse.get("/library/?q=cotton+jersey"))
    leads.post(f"{JERSEY}withdraw/")
    assert shop_materials()["cotton_jersey"].conductivity_w_mk == 0.06
    assert "(taken back" in room.words(browse.get(JERSEY))
    assert leads.post(f"{JERSEY}withdraw/").status_code == 404


def test_own_values_change_what_the_heat_does(leads, browse, element):
    load_shipped_recipes()
    room.blank(thickness_mm=0.5)
    path = "/recipes/dye-on-a-polyester-vest/heat/"
    before = room.words(browse.get(path), "h1")
    values = {"conductivity_w_mk": "0.02", "source": "tried"}
    leads.post("/library/materials/parchment/", values)
    assert room.words(browse.get(path), "h1") != before


def test_a_material_of_ones_own_is_whole_and_usable(leads, browse):
    fields = {
        "label": "felt of reeds",
        "group": "cover",
        "conductivity_w_mk": "0.05",
        "density_kg_m3": "300",
        "specific_heat_j_kgk": "1300",
        "thickness_mm": "2",
        "regain": "0.1",
        "source": "weighed here",
    }
    missing = leads.post("/library/materials/new/", fields | {"regain": ""})
    assert missing.status_code == 422
    leads.post("/library/materials/new/", fields)
    assert shop_materials()["felt_of_reeds"].label == "felt of reeds"
    again = leads.post("/library/materials/new/", fields)
    assert "There is a material named felt of reeds already" in room.words(again)
    assert "felt of reeds" in room.words(browse.get("/library/"))


@pytest.mark.parametrize(
    ("fields", "said"),
    [
        ({"conductivity_w_mk": "-1", "source": "x"}, "greater than or equal to 0.005"),
        ({"conductivity_w_mk": "0.1"}, "This field is required"),
        ({"source": "x"}, "Fill in at least one value"),
        ({"scorch_c": "5000", "source": "x"}, "out of range"),
    ],
)
def test_wrong_values_are_said(leads, fields, said):
    answer = leads.post(JERSEY, fields)
    assert answer.status_code == 422 and said in room.words(answer)
    assert not OwnMaterial.objects.exists()


def test_only_a_lead_changes_values_and_unknown_ones_are_not_there(browse):
    assert browse.post(JERSEY, {"conductivity_w_mk": "1", "source": "x"}).status_code == 403
    assert browse.get("/library/materials/gauze/").status_code == 404


def test_the_library_as_a_file(leads, browse):
    leads.post(JERSEY, {"conductivity_w_mk": "0.08", "source": "plate meter"})
    document = json.loads(browse.get("/library/library.json").content)
    assert document["format"] == "tempermark.library/1"
    row = next(m for m in document["materials"] if m["name"] == "cotton_jersey")
    assert row["conductivity_w_mk"] == 0.08 and row["own"] == "plate meter"
    assert len(document["blank_kinds"]) == len(blank_types())


def test_a_blank_begins_from_its_kind_and_inherits_its_limits(browse, db):
    page = browse.get("/blanks/new/?like=petg_tag")
    assert "Based on “PETG tag”" in room.words(page)
    assert "empty: 80 °C, as PETG tag" in room.words(page)
    fields = {"name": "Oar tag", "kind": "plastic", "thickness_mm": "2", "like": "petg_tag"}
    browse.post("/blanks/new/", fields)
    tag = Blank.objects.get()
    assert tag.softens_c is None and limits_of(tag).softens_c == 80
    browse.post(f"/blanks/{tag.pk}/", fields | {"softens_c": "176f"})
    assert limits_of(Blank.objects.get()).softens_c == pytest.approx(80.0)
    tag.like = ""
    assert limits_of(tag).softens_c is None


@pytest.mark.parametrize(
    ("typed", "entry"),
    [
        ("plain tissue, inside", "plain_paper inside"),
        ("Plain Tissue", "plain_paper"),
        ("wicking cloth, 0,2 mm", "wicking_cloth 0.2 mm"),
        ("transfer_paper face up", "transfer_paper face up"),
        ("sleeve", "sleeve"),
    ],
)
def test_layers_are_read_as_people_write_them(typed, entry):
    assert read_layer(typed, materials()) == entry
    assert read_layer(entry_text(entry, materials()), materials()) == entry


def test_a_layer_that_is_none_and_a_thickness_that_is_none():
    for typed, said in (
        ("parchmint", "Perhaps parchment"),
        ("parchment, 900 mm", "not a thickness"),
    ):
        with pytest.raises(ValueError, match=said):
            read_layer(typed, materials())
    assert thickness_of("wicking_cloth 0.25 mm") == 0.25
    assert thickness_of("parchment") is None
