"""Recipes are made, changed, copied, retired and carried from shop to shop; versions stay."""

import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tempermark.files.recipe import read_recipe, to_document
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tempermark.web.recipes.materials.library import shop_materials
from tempermark.web.recipes.models import Recipe
from tests.support import room

BAG = "/recipes/film-on-a-cotton-bag/"


@pytest.fixture
def leads(browse_as, lead):
    load_shipped_recipes()
    return browse_as(lead)


def sent(page, **changes):
    """The editing form as the page shows it, with changes."""
    form = room.soup(page).select_one("form[novalidate]")
    fields = {}
    for part in form.select("[name]"):
        name = part["name"]
        if part.name == "textarea":
            fields[name] = part.text.strip("\n")
        elif part.name == "select":
            chosen = [o["value"] for o in part.select("option[selected]")]
            if chosen or not part.has_attr("multiple"):
                fields[name] = chosen if part.has_attr("multiple") else (chosen or [""])[0]
        elif part.get("type") == "checkbox":
            if part.has_attr("checked"):
                fields[name] = "on"
        elif part.name == "input":
            fields[name] = part.get("value", "")
    fields.pop("csrfmiddlewaretoken", None)
    return fields | {"op": "save", "change": "hotter, blacks were weak"} | changes


def main_prefix(recipe):
    sheet = recipe.versions.first().sheet
    return f"step-{sheet.steps.index(sheet.main)}"


def test_a_change_is_a_new_version_and_pieces_keep_theirs(leads, browse, technician, element):
    recipe = Recipe.objects.get(slug="film-on-a-cotton-bag")
    first = recipe.versions.get()
    piece = room.piece(technician, element, recipe=first, stack=first.stack)
    page = leads.get(f"{BAG}change/")
    at = main_prefix(recipe)
    kept = leads.post(f"{BAG}change/", sent(page, **{f"{at}-high_c": "166", f"{at}-low_c": "320f"}))
    assert kept.status_code == 302
    newest = recipe.versions.first()
    assert (newest.number, newest.low_c, newest.high_c) == (2, 160.0, 166.0)
    assert newest.sheet.schools == first.sheet.schools
    assert newest.change == "hotter, blacks were weak"
    piece.refresh_from_db()
    assert piece.recipe == first
    told = room.words(browse.get(f"{BAG}versions/1/"))
    assert "This is version 1, kept for the pieces pressed with it" in told
    listed = room.words(browse.get(f"{BAG}versions/"))
    assert "hotter, blacks were weak" in listed and "2 versions" in listed
    leads.post(f"{BAG}versions/1/restore/")
    assert recipe.versions.first().low_c == first.low_c
    assert recipe.versions.count() == 3


def test_only_a_lead_changes_recipes(browse, leads):
    for path in (f"{BAG}change/", "/recipes/new/", "/recipes/import/"):
        assert browse.get(path).status_code == 403
    for path in (f"{BAG}retire/", f"{BAG}versions/1/restore/"):
        assert browse.post(path).status_code == 403


@pytest.mark.parametrize(
    ("field", "value", "said"),
    [
        ("low_c", "300", "out of range"),
        ("low_c", "164", "The temperature ends before it begins"),
        ("low_s", "", ""),
        ("stack", "gauze\nfilm with adhesive", "The library has no “gauze”"),
        ("stack", "", "The press needs its stack"),
        ("pressure", "", "The press needs its pressure"),
        ("do", "", "This field is required"),
    ],
)
def test_what_is_wrong_is_said_and_kept(leads, field, value, said):
    recipe = Recipe.objects.get(slug="film-on-a-cotton-bag")
    at = main_prefix(recipe)
    page = leads.get(f"{BAG}change/")
    answer = leads.post(f"{BAG}change/", sent(page, **{f"{at}-{field}": value}))
    if not said:
        # One end of a span alone stands for both.
        assert recipe.versions.first().low_s == recipe.versions.first().high_s == 15
        return
    assert answer.status_code == 422
    assert said in room.words(answer)
    shown = room.soup(answer).select_one(f"[name={at}-{field}]")
    assert (shown.text.strip("\n") if shown.name == "textarea" else shown.get("value", "")) in (
        value,
        value.replace("\n", "\r\n"),
        "",
    )
    assert recipe.versions.count() == 1


def test_steps_are_added_moved_and_taken_out(leads):
    page = leads.get(f"{BAG}change/")
    fields = sent(page, op="step-add")
    more = leads.post(f"{BAG}change/", fields)
    count = int(fields["step-TOTAL_FORMS"])
    assert sent(more)["step-TOTAL_FORMS"] == str(count + 1)
    down = sent(leads.post(f"{BAG}change/", sent(page, op="step-down-0")))
    assert down["step-1-do"] == fields["step-0-do"]
    assert down["step-0-do"] == fields["step-1-do"]
    out = sent(leads.post(f"{BAG}change/", sent(page, op="step-out-0")))
    assert out["step-TOTAL_FORMS"] == str(count - 1)
    assert out["step-0-do"] == fields["step-1-do"]
    school = sent(leads.post(f"{BAG}change/", sent(page, op="school-out-2")))
    assert school["school-TOTAL_FORMS"] == "2"


def test_a_recipe_without_a_press_is_none(leads):
    page = leads.get(f"{BAG}change/")
    at = main_prefix(Recipe.objects.get(slug="film-on-a-cotton-bag"))
    answer = leads.post(f"{BAG}change/", sent(page, **{f"{at}-kind": "prepare"}))
    assert "A recipe needs a step of the kind press" in room.words(answer)


def test_a_wrong_stack_is_kept_but_said(leads):
    page = leads.get(f"{BAG}change/")
    at = main_prefix(Recipe.objects.get(slug="film-on-a-cotton-bag"))
    turned = "film with adhesive\ncarrier\ncotton canvas\nsilicone pad"
    answer = leads.post(f"{BAG}change/", sent(page, **{f"{at}-stack": turned}), follow=True)
    assert "the carrier is under its film" in room.words(answer)


def test_a_recipe_is_copied_renamed_and_its_name_is_its_own(leads):
    page = leads.get("/recipes/new/?like=film-on-a-cotton-bag")
    taken = leads.post("/recipes/new/", sent(page, name="film on a COTTON bag"))
    assert "There is a recipe named" in room.words(taken)
    leads.post("/recipes/new/", sent(page, name="Film on a jute bag"))
    made = Recipe.objects.get(slug="film-on-a-jute-bag")
    assert not made.starting_point
    assert (
        made.versions.get().sheet.steps
        == Recipe.objects.get(slug="film-on-a-cotton-bag").versions.get().sheet.steps
    )
    assert "Save the recipe" in room.words(leads.get("/recipes/new/"))


def test_a_retired_recipe_is_no_longer_offered_and_comes_back(leads, browse, element):
    name = "Film on a cotton bag"
    leads.post(f"{BAG}retire/")
    assert name not in room.words(browse.get("/recipes/"))
    assert name in room.words(browse.get("/recipes/?retired=1"))
    assert name not in room.words(browse.get("/presses/heron/test-presses/new/"))
    assert "Retired" in room.words(browse.get(BAG))
    leads.post(f"{BAG}retire/", {"back": "1"})
    assert name in room.words(browse.get("/recipes/"))


def test_recipes_are_found(leads, browse):
    text = room.words(browse.get("/recipes/?q=leather&kind=cap"), "table")
    assert "Leather patch on a structured cap" in text and "leather tag" not in text
    film = room.words(browse.get("/recipes/?method=powder_film"), "table")
    assert "Powder film on cotton" in film and "Dye on a" not in film
    assert "No recipe matches" in room.words(browse.get("/recipes/?q=concrete"))


def test_a_recipe_goes_out_and_comes_in_the_same(leads):
    for recipe in Recipe.objects.all():
        sheet = recipe.versions.get().sheet
        document = json.loads(json.dumps(to_document(sheet)))
        assert read_recipe(document, set(shop_materials())) == sheet
    file = leads.get(f"{BAG}recipe.json")
    document = json.loads(file.content)
    document["name"] = "Film from elsewhere"
    upload = SimpleUploadedFile("bag.json", json.dumps(document).encode())
    leads.post("/recipes/import/", {"file": upload})
    made = Recipe.objects.get(name="Film from elsewhere").versions.get()
    assert made.change == "from bag.json"
    upload.seek(0)
    leads.post("/recipes/import/", {"file": upload})
    assert made.recipe.versions.count() == 2


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"format": "x"}, "“tempermark.recipe/1” is needed"),
        ({"steps": []}, "at least 1 needed"),
        ({"steps": [{"kind": "peel", "do": "Peel."}]}, "hold no step of the kind press"),
        ({"steps": [{"kind": "press", "do": "x"}]}, "steps[0].temperature_c is missing"),
        ({"method": "stamping"}, "method is “stamping”"),
        ({"name": " "}, "name is empty"),
        (
            {"steps": [{"kind": "press", "do": "x", "stack": ["gauze"]}]},
            "no material of the library",
        ),
        ({"schools": [{"name": "A"}]}, "schools[0].costs is missing"),
    ],
)
def test_a_wrong_file_is_refused_with_its_reason(leads, change, said):
    document = json.loads(leads.get(f"{BAG}recipe.json").content) | change
    count = Recipe.objects.count()
    upload = SimpleUploadedFile("bag.json", json.dumps(document).encode())
    answer = leads.post("/recipes/import/", {"file": upload})
    assert answer.status_code == 422
    assert said in room.words(answer)
    assert Recipe.objects.count() == count


def test_files_that_are_none(leads):
    assert "Choose a file" in room.words(leads.post("/recipes/import/", {}))
    for content, said in (
        (b"\xff\xfe", "Not UTF-8"),
        (b"{", "Not JSON"),
        (b"x" * 300_000, "200 kB"),
    ):
        answer = leads.post("/recipes/import/", {"file": SimpleUploadedFile("a.json", content)})
        assert said in room.words(answer)


def test_proven_settings_follow_the_press_s_calibration(browse, technician, element):
    load_shipped_recipes()
    room.blank(thickness_mm=0.5)
    room.survey(technician, element, days_ago=30, truth=lambda x, y: 195.0)
    for _ in range(2):
        piece = room.piece(technician, element, days_ago=20, set_c=200.0, dwell_s=50.0)
        room.runs.score(technician, piece, room.runs.Scored("good", scores={"black": 5}))
    page = "/recipes/dye-on-a-polyester-vest/"
    row = room.words(browse.get(page))
    assert "200 °C true, 50 s, medium 2 good pieces" in row
    # The press has since grown colder by 6 K: the dial for the same truth rises by as much.
    room.survey(technician, element, truth=lambda x, y: 189.0)
    dial = room.soup(browse.get(page)).select("td.num b")[0].text
    assert dial.replace("\u00a0", " ") == "206 °C"
