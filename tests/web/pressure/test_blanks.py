"""Blanks: added and changed with what pressure and fit need of them."""

import pytest

from tempermark.web.recipes.models import Blank
from tests.support import room

MUG = {
    "name": "Mug",
    "kind": "mug",
    "thickness_mm": "4",
    "height_mm": "95",
    "top_diameter_mm": "82",
    "bottom_diameter_mm": "3.2 in",
    "limit_kpa": "6 psi",
    "features": ["curved", "hollow"],
    "panels": "",
}


def test_a_blank_is_added_and_changed(browse, db):
    assert browse.post("/blanks/new/", MUG).status_code == 302
    mug = Blank.objects.get()
    assert mug.bottom_diameter_mm == pytest.approx(81.28)
    assert mug.limit_kpa == pytest.approx(41.37, abs=0.01)
    assert (mug.features, mug.panels, mug.polyester) == (["curved", "hollow"], None, None)
    page = room.soup(browse.get(f"/blanks/{mug.pk}/"))
    assert page.select_one("[name=top_diameter_mm]")["value"] == "82"
    browse.post(f"/blanks/{mug.pk}/", MUG | {"thickness_mm": "4,5"})
    assert Blank.objects.get().thickness_mm == 4.5


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"thickness_mm": "-1"}, "-1 is out of range. Right is 0.01 to 200 mm."),
        ({"thickness_mm": "thin"}, "is not a number"),
        ({"thickness_mm": ""}, "This field is required"),
        ({"name": "crew vest"}, "There is a blank named crew vest already."),
        ({"polyester": "65"}, "less than or equal to 1"),
        ({"panels": "7"}, "Select a valid choice"),
    ],
)
def test_wrong_blanks_are_said_and_kept(browse, db, change, said):
    room.blank()
    response = browse.post("/blanks/new/", MUG | change)
    assert response.status_code == 422
    assert said in room.words(response)
    name, value = next(iter(change.items()))
    field = room.soup(response).select_one(f"[name={name}]")
    if field.name == "input":
        assert field.get("value", "") == value
    assert Blank.objects.count() == 1


def test_a_clerk_changes_no_blank(client, clerk):
    client.force_login(clerk)
    assert client.post("/blanks/new/", MUG).status_code == 403
