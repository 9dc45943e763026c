"""Fault knowledge to work is said to work, on the shop's own blanks; what is not is said first."""

import re

import pytest

from tempermark.core.recipes.blank_types import blank_types
from tempermark.web.heat.lessons import lessons
from tempermark.web.heat.models import LessonRequest
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tempermark.web.recipes.models import Blank, RecipeVersion
from tempermark.web.run.pieces import actions as runs
from tests.support import room

VEST = "/recipes/dye-on-a-polyester-vest/heat/"
TILE = "ceramic-tile-laminate-coat-then-dye"


@pytest.fixture
def recipes(element):
    load_shipped_recipes()


def version(slug):
    return RecipeVersion.objects.get(recipe__slug=slug)


def like(code, **fields):
    """A blank of the shop as the library has it."""
    kind = blank_types()[code]
    given = {"name": kind.label, "like": code, "kind": kind.kind, "material": kind.material}
    given |= {"coating": kind.coating, "thickness_mm": kind.thickness_mm}
    return room.blank(**given | {"polyester": kind.polyester, "colour": kind.colour} | fields)


def scored(technician, element, count, outcome="good", black=5, **fields):
    for _ in range(count):
        piece = room.piece(technician, element, **fields)
        runs.score(technician, piece, runs.Scored(outcome, scores={"black": black}))


def test_good_pieces_lead_where_the_computation_calls_them_pale(
    browse, browse_as, technician, lead, element, recipes
):
    room.survey(technician, element, truth=lambda x, y: 195.0)
    vest = room.blank(thickness_mm=0.5)
    given = {"element": element.pk, "blank": vest.pk, "set_c": "185", "dwell_s": "40"}
    given |= {"contact_kpa": "32", "humidity": "50"}
    pale = room.words(browse.get(VEST, given), "h1")
    assert "pale" in pale.lower()
    scored(technician, element, 5, set_c=186.0, dwell_s=42.0)
    page = browse.get(VEST, given)
    said = room.words(page, "h1")
    assert said.endswith("pale, but 5 of your 5 pieces were good.")
    assert pale in room.words(page)
    assert room.soup(page).select_one("a[href='/lessons/#polyester_cloth']")
    # A technician asks, the lead sees it on the floor, accepts, and the request is gone.
    browse.post("/lessons/polyester_cloth/ask/", {"note": "five good vests"})
    browse.post("/lessons/polyester_cloth/ask/")
    assert LessonRequest.objects.count() == 1
    assert "A lead has been asked" in room.words(browse.get(VEST, given))
    assert "asks you to accept" not in room.words(browse.get("/"))
    leads = browse_as(lead)
    floor = room.words(leads.get("/"))
    assert "asks you to accept what pieces teach about dye on polyester cloth" in floor
    assert "five good vests" in floor
    leads.post("/lessons/polyester_cloth/accept/")
    assert "asks you to accept" not in room.words(leads.get("/"))
    assert "but 5 of your 5" not in room.words(browse.get(VEST, given), "h1")


def test_pale_pieces_lead_where_the_computation_calls_them_full(
    browse, technician, element, recipes
):
    vest = room.blank(thickness_mm=0.5)
    given = {"element": element.pk, "blank": vest.pk, "set_c": "200", "dwell_s": "52"}
    given |= {"contact_kpa": "32", "humidity": "50"}
    scored(technician, element, 1, "faulty", 2, set_c=200.0)
    assert room.words(browse.get(VEST, given), "h1").startswith("Full density")
    scored(technician, element, 2, "faulty", 2, set_c=200.0)
    said = room.words(browse.get(VEST, given), "h1")
    assert said == "Computed full density, but 3 of your 3 pieces came out pale."


def test_film_that_held_leads_where_the_bond_is_computed_weak(browse, technician, element, recipes):
    bag = like("cotton_bag")
    made = version("film-on-a-cotton-bag")
    for _ in range(2):
        piece = room.piece(
            technician, element, recipe=made, blank=bag, stack=made.stack, set_c=158.0, dwell_s=6.0
        )
        runs.score(technician, piece, runs.Scored("good", scores={"bond": 5}))
    given = {"element": element.pk, "blank": bag.pk, "set_c": "158", "dwell_s": "6"}
    given |= {"contact_kpa": "32", "humidity": "50"}
    page = browse.get("/recipes/film-on-a-cotton-bag/heat/", given)
    assert room.words(page, "h1").endswith("but 2 of your 2 pieces were good.")
    pieces = room.soup(page).select_one("#heat a.act")["href"]
    assert browse.get(pieces).status_code == 200


def test_a_lead_may_leave_it_as_it_is(browse, browse_as, technician, lead, element, recipes):
    lessons.request_lesson(technician, "polyester_cloth")
    assert browse.post("/lessons/polyester_cloth/decline/").status_code == 403
    browse_as(lead).post("/lessons/polyester_cloth/decline/")
    assert LessonRequest.objects.get().answered_at is not None
    assert browse.post("/lessons/cheese/ask/").status_code == 404


def test_a_recipe_opens_with_a_blank_it_is_for_or_with_the_library_s(browse, element, recipes):
    like("cotton_bag")
    page = browse.get(f"/recipes/{TILE}/heat/")
    text = room.words(page)
    assert "None of your blanks is for this recipe: computed for the library’s ceramic tile" in text
    assert room.words(page, "h1").startswith("Full density")
    mesh = browse.get("/recipes/dye-on-a-mesh-sports-bag/heat/")
    assert "library’s mesh sports bag" in room.words(mesh)
    assert "library’s ceramic tile" in room.words(browse.get(f"/recipes/{TILE}/"))
    log = browse.get(f"/presses/heron/test-presses/new/?recipe={version(TILE).pk}")
    assert "None of your blanks is for Ceramic tile" in room.words(log)
    pressure = browse.get(f"/presses/heron/pressure/?recipe={version(TILE).pk}")
    assert "Which blank are you pressing?" in room.words(pressure)
    tile = like("ceramic_tile")
    page = room.soup(browse.get(f"/recipes/{TILE}/heat/"))
    assert page.select_one("[name=blank] option[selected]")["value"] == str(tile.pk)
    pressure = room.soup(browse.get(f"/presses/heron/pressure/?recipe={version(TILE).pk}"))
    assert pressure.select_one("[name=blank] option[selected]")["value"] == str(tile.pk)


@pytest.mark.parametrize(
    "slug",
    [
        TILE,
        "dye-on-a-coated-aluminium-panel",
        "dye-on-a-hardboard-plate",
        "dye-on-a-tapered-steel-beaker",
        "dye-on-a-varnished-wood-disc",
        "dye-on-a-printed-plastic-tag",
        "glitter-film-on-a-cap",
        "quick-film-on-delicate-polyester",
        "powder-film-on-cotton",
    ],
)
def test_a_first_look_at_a_known_good_setting_is_good(browse, element, recipes, slug):
    page = browse.get(f"/recipes/{slug}/heat/")
    assert re.match(r"(Full density|Bonded)", room.words(page, "h1"))
    assert "Blowout" not in room.words(page)
    assert "Outside the recipe" not in room.words(page)


def test_powder_that_hovers_melts_when_it_is_turned(browse, element, recipes):
    element.press.kind = "clamshell"
    element.press.save()
    step = [s.kind for s in version("powder-film-on-cotton").sheet.steps].index("hover")
    page = browse.get(f"/recipes/powder-film-on-cotton/heat/?step={step}")
    first = room.soup(page)
    given = {f["name"]: f.get("value", "") for f in first.select("#heat-form input[name]")}
    given |= {"element": element.pk, "blank": "like:cotton_tee", "set_c": "141"}
    given |= {"dwell_s": "210", "pad_c": "22", "step": step}
    page = browse.get("/recipes/powder-film-on-cotton/heat/", given)
    said = room.words(page, "h1")
    assert said.startswith("The powder melts everywhere if you turn the piece half-way")
    assert "bond" not in said.lower()
    assert [r.th.text for r in room.soup(page).select("#heat table tr")[1:4]] == [
        "Back",
        "Middle",
        "Front",
    ]


def test_a_setting_outside_the_window_is_said(browse, element, recipes):
    vest = room.blank(thickness_mm=0.5)
    given = {"element": element.pk, "blank": vest.pk, "set_c": "200", "dwell_s": "52"}
    given |= {"contact_kpa": "32", "humidity": "50"}
    assert "Outside" not in room.words(browse.get(VEST, given))
    said = room.words(browse.get(VEST, given | {"contact_kpa": "70", "dwell_s": "80"}))
    assert "Outside the recipe’s window: 80 s instead of 45 to 60 s; 70 kPa" in said


def test_advice_stays_inside_the_window(browse, technician, element, recipes):
    """So cold a corner that no dial of the window serves: another dwell is offered, or none."""
    room.survey(technician, element, truth=lambda x, y: 195.0 - (14 if x < 120 else 0))
    vest = room.blank(thickness_mm=0.5)
    given = {"element": element.pk, "blank": vest.pk, "set_c": "200", "dwell_s": "46"}
    given |= {"contact_kpa": "32", "humidity": "50", "art_x_mm": "0", "art_y_mm": "0"}
    given |= {"art_width_mm": "400", "art_height_mm": "500"}
    page = room.soup(browse.get(f"{VEST}platen/", given)).get_text(" ")
    found = re.search(r"Set (\d+)\s°C|at (\d+)\s°C its worst place", page)
    dial = float(found[1] or found[2])
    mean = 195.0 + (dial - 195) - 14 * 120 / 400
    assert 194 <= mean <= 206
    assert re.search(r"does suit it|Set \d+|another press", page)


def test_pla_is_refused_everywhere(browse, browse_as, lead, technician, element, recipes):
    tag = like("pla_tag")
    given = {"element": element.pk, "blank": tag.pk, "set_c": "193", "dwell_s": "27"}
    given |= {"contact_kpa": "4", "humidity": "50"}
    plastic = version("dye-on-a-printed-plastic-tag")
    heat = room.words(browse.get("/recipes/dye-on-a-printed-plastic-tag/heat/", given))
    assert f"Do not press {tag.name}" in heat
    assert "softens near 60 °C" in heat
    windows = {"recipe": plastic.pk, "material": "parchment", **given}
    assert "softens near 60 °C" in room.words(browse.get("/windows/", windows))
    told = room.words(browse.get(f"/presses/heron/pressure/?blank={tag.pk}"))
    assert f"Do not press {tag.name}" in told
    recipe = room.words(browse.get(f"/recipes/dye-on-a-printed-plastic-tag/?blank={tag.pk}"))
    assert f"Do not press {tag.name}" in recipe
    log = browse.post("/presses/heron/test-presses/new/", piece_fields(plastic, tag))
    assert log.status_code == 422
    assert "Do not press it" in room.words(log)
    # It is never the blank a recipe opens with.
    opened = room.soup(browse.get("/recipes/dye-on-a-printed-plastic-tag/heat/"))
    assert opened.select_one("[name=blank] option[selected]")["value"] == "like:petg_tag"


def piece_fields(made, blank, **more):
    given = {
        "recipe": made.pk,
        "blank": blank.pk,
        "set_c": "193",
        "dwell_s": "27",
        "closures": "1",
        "pressure": "resting",
        "art_width_mm": "60",
        "art_height_mm": "60",
        "art_x_mm": "100",
        "art_y_mm": "100",
        "stack": "",
    }
    return given | more


def test_figures_far_from_the_recipe_are_asked_about_once(browse, technician, element, recipes):
    vest = room.blank(thickness_mm=0.5)
    made = version("dye-on-a-polyester-vest")
    path = "/presses/heron/test-presses/new/"
    given = piece_fields(made, vest, set_c="380", dwell_s="52", pressure="medium")
    text = room.words(browse.post(path, given))
    assert "380 is out of range" in text
    assert "For 380 °F type 380f" in text
    given |= {"set_c": "200", "dwell_s": "600"}
    page = browse.post(path, given)
    assert page.status_code == 422
    assert "600 s, but the recipe asks for 45 to 60 s. Is that right?" in room.words(page)
    kept = room.soup(page).select_one("[name=confirmed]")["value"]
    assert browse.post(path, given | {"confirmed": kept, "dwell_s": "700"}).status_code == 422
    assert browse.post(path, given | {"confirmed": kept}).status_code == 302
    assert "6000 is out of range" in room.words(browse.post(path, given | {"dwell_s": "6000"}))


def test_under_the_art_counts_dwell_and_pressure_too(browse, technician, element, recipes):
    room.survey(technician, element, truth=lambda x, y: 200.0, set_c=200.0, target_c=200.0)
    made = version("dye-on-a-polyester-vest")
    given = {"set_c": "200", "recipe": made.pk, "art_width_mm": "100", "art_height_mm": "100"}
    given |= {"art_x_mm": "100", "art_y_mm": "100", "dwell_s": "52", "pressure": "medium"}
    path = "/presses/heron/under-the-art/"

    def said(**more):
        return browse.get(path, given | more).content.decode()

    assert "inside the window" in said()
    off = said(dwell_s="20", pressure="firm")
    assert "inside the window" not in off
    assert "20 s instead of 45 to 60 s" in off
    assert "firm pressure instead of medium" in off
    assert "inside the window" in said(pressure="unknown")


def test_an_overloaded_blank_is_the_first_thing_said(browse, element, recipes):
    glass = like("frosted_glass")
    given = {"element": element.pk, "blank": glass.pk, "set_c": "185", "dwell_s": "230"}
    given |= {"contact_kpa": "95", "humidity": "50"}
    head = room.soup(browse.get("/recipes/dye-on-a-frosted-glass-ornament/heat/", given))
    first = head.select_one("#heat .head > *")
    assert "Too much pressure for frosted glass ornament: 95" in first.text
    assert "it breaks" in first.text


def test_a_library_blank_brings_its_raised_parts(browse, element, recipes):
    page = browse.get("/blanks/new/?like=baby_suit")
    fields = {
        i["name"]: i.get("value", "")
        for i in room.soup(page).select("form input[name]")
        if i.get("type") not in ("checkbox", "submit")
    }
    fields |= {"name": "Crew baby suit", "kind": "garment", "like": "baby_suit"}
    browse.post("/blanks/new/?like=baby_suit", fields)
    suit = Blank.objects.get(name="Crew baby suit")
    assert suit.raised_parts.filter(kind="button").count() == 3
    for code in ("cotton_bag", "five_panel_cap", "six_panel_cap"):
        assert blank_types()[code].raised, code


def test_pieces_at_another_pressure_do_not_speak(browse, technician, element, recipes):
    vest = room.blank(thickness_mm=0.5)
    given = {"element": element.pk, "blank": vest.pk, "set_c": "200", "dwell_s": "52"}
    given |= {"contact_kpa": "32", "humidity": "50"}
    scored(technician, element, 3, "faulty", 2, set_c=200.0, pressure="light")
    assert room.words(browse.get(VEST, given), "h1").startswith("Full density")
    said = room.words(browse.get(VEST, given | {"contact_kpa": "14"}), "h1")
    assert said.endswith("3 of your 3 pieces came out pale.")


def test_a_sweatshirt_is_no_shirt(browse, element, recipes):
    like("hooded_sweatshirt")
    page = browse.get("/recipes/dye-on-a-half-polyester-shirt/heat/")
    assert "None of your blanks is for this recipe" in room.words(page)


def test_a_recipe_opens_on_the_press_it_was_proven_on_or_that_is_made_for_it(
    browse, technician, element, recipes
):
    plate = room.element("Wren", mechanism="hand", place=9)
    plate.press.kind = "handheld"
    plate.press.save()
    chosen = "[name=element] option[selected]"

    def opens_on(slug):
        return room.soup(browse.get(f"/recipes/{slug}/heat/")).select_one(chosen)["value"]

    assert opens_on("film-on-a-cotton-bag") == str(element.pk)
    assert opens_on("film-on-a-caps-peak-by-hand-plate") == str(plate.pk)
    made, bag = version("film-on-a-cotton-bag"), like("cotton_bag")
    piece = room.piece(technician, plate, recipe=made, blank=bag, stack=made.stack)
    assert opens_on("film-on-a-cotton-bag") == str(element.pk)
    runs.score(technician, piece, runs.Scored("good", scores={"bond": 5}))
    assert opens_on("film-on-a-cotton-bag") == str(plate.pk)
    asked = room.soup(browse.get("/recipes/film-on-a-cotton-bag/heat/?press=heron"))
    assert asked.select_one(chosen)["value"] == str(element.pk)
