"""What the heat does to a recipe's stack: the page says what the solver says."""

import re
from dataclasses import replace

import pytest

from tempermark.core.pressing.closing import press_once, receiving_share
from tempermark.core.pressing.layout import build_layout
from tempermark.core.pressing.request import main_request
from tempermark.web.recipes.blanks.core import core_blank
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tempermark.web.recipes.materials.library import shop_materials
from tempermark.web.recipes.models import Recipe
from tests.support import room
from tests.web.pressure.test_maps import left_weak, strips

VEST = "/recipes/dye-on-a-polyester-vest/heat/"


@pytest.fixture
def vest(element):
    load_shipped_recipes()
    return room.blank(name="Vest", thickness_mm=0.5, polyester=1.0)


def version(slug="dye-on-a-polyester-vest"):
    return Recipe.objects.get(slug=slug).versions.get()


def ask(browse, element, blank, path=VEST, **more):
    given = {
        "element": element.pk,
        "blank": blank.pk,
        "set_c": "200",
        "dwell_s": "50",
        "contact_kpa": "32",
        "humidity": "50",
        "at_s": "50",
    }
    return browse.get(path, given | more)


def density(response):
    return int(re.search(r"(\d+)\s%", room.words(response))[1])


def test_the_page_tells_the_outcome_at_this_presss_true_temperature(
    browse, technician, element, vest
):
    never = ask(browse, element, vest)
    assert "it has never been surveyed" in room.words(never)
    room.survey(technician, element)
    measured = ask(browse, element, vest)
    assert "at 195 °C true" in room.words(measured)
    assert density(measured) < density(never)


def test_longer_and_hotter_is_darker_until_it_spreads(browse, element, vest):
    told = [density(ask(browse, element, vest, dwell_s=s)) for s in ("15", "30", "60")]
    assert told == sorted(told)
    late = room.words(ask(browse, element, vest, dwell_s="180", set_c="210"))
    assert "Blowout: more dye" in late
    assert "Scorch:" in late


def request(blank, recipe="dye-on-a-polyester-vest", **more):
    given = {"humidity": 0.5, "true_c": 200.0, "dwell_s": 50.0, "kpa": 32.0, "dips": False}
    core = core_blank(blank, shop_materials())
    return main_request(version(recipe).sheet, core, **given | {"pad_c": 22.0} | more)


def test_a_blank_brings_its_own_layer_and_share(vest):
    cotton = request(room.blank(name="Cotton", polyester=0.0, thickness_mm=0.9))
    layout = build_layout(cotton, shop_materials())
    at = layout.interface
    assert [y.name for y in layout.layers][at : at + 2] == ["transfer_paper", "cotton_jersey"]
    assert layout.layers[at + 1].thickness_mm == 0.9
    assert layout.left_out == ()
    assert receiving_share(cotton) == 0
    tile = request(room.blank(name="Tile", kind="tile", coating="factory"))
    assert receiving_share(tile) == 1
    assert receiving_share(replace(cotton, stack=("laminate_film",))) == 1
    bare = replace(request(vest), stack=("polyester_jersey uncoated side up",))
    assert receiving_share(bare) == 0


def test_what_the_library_does_not_know_is_left_out_and_said(browse, element, vest):
    text = room.words(ask(browse, element, vest, layer=["gauze", *version().sheet.main.stack]))
    assert "Left out, not in the library: gauze." in text


def test_a_vessel_is_heated_through_to_the_air_inside(vest):
    mug = room.blank(name="Mug", kind="mug", coating="factory", thickness_mm=4.0)
    made = press_once(request(mug, "dye-on-a-mug-in-a-wrap-press", dwell_s=240.0), shop_materials())
    assert made.layout.left_out == ()
    # Still air inside takes little: the wall comes within a few K of the sleeve.
    assert 190 < made.reached.last_c[0] < 200
    assert made.density > 0.9


def test_a_heated_lower_platen_warms_from_below(vest):
    cap = room.blank(name="Cap", kind="cap", thickness_mm=1.2)
    given = {"true_c": 140.0, "dwell_s": 120.0}
    patch = request(cap, "leather-patch-on-a-structured-cap", **given)
    cold = replace(patch, step=replace(patch.step, lower_c=None))
    below = [press_once(r, shop_materials()).course.final_c[0, -1] for r in (patch, cold)]
    assert below[0] > 150 > 40 > below[1]


def test_film_bonds_and_damp_cotton_holds_it_back(browse, element, vest):
    bag = room.blank(name="Bag", kind="bag", polyester=0.0, thickness_mm=0.9)
    path = "/recipes/film-on-a-cotton-bag/heat/"
    more = {"set_c": "150", "dwell_s": "6", "at_s": "6", "pad_c": "22"}

    def bond(humidity):
        text = room.words(ask(browse, element, bag, path, **more, humidity=humidity))
        return int(re.search(r"(\d+)\s%", text)[1]), text

    dry, damp = bond("0"), bond("90")
    assert damp[0] < dry[0]
    cold = room.words(ask(browse, element, bag, path, **more | {"set_c": "110"}))
    assert "Adhesive never melts" in cold
    hard = more | {"set_c": "175", "dwell_s": "40", "contact_kpa": "90"}
    assert "Squeeze-out" in room.words(ask(browse, element, bag, path, **hard))


def test_dyed_polyester_tints_a_film_and_soft_plastic_dents(browse, element, vest):
    dyed = room.blank(name="Dyed tee", colour="dark", like="polyester_tee_dyed")
    path = "/recipes/thin-film-on-a-tee/heat/"
    hot = ask(browse, element, dyed, path, set_c="185", dwell_s="40")
    assert "Migration: the cloth’s own dye" in room.words(hot)
    dyed.migrates_c = 250.0
    dyed.save()
    hot = ask(browse, element, dyed, path, set_c="185", dwell_s="40")
    assert "Migration" not in room.words(hot)
    tag = room.blank(name="Tag", kind="plastic", like="petg_tag", thickness_mm=2.0)
    path = "/recipes/dye-on-a-printed-plastic-tag/heat/"
    assert "Dents" not in room.words(ask(browse, element, tag, path, contact_kpa="2", dwell_s="25"))
    assert "Dents" in room.words(ask(browse, element, tag, path, contact_kpa="30", dwell_s="60"))


def test_the_section_shows_the_heat_going_in(browse, element, vest):
    early = room.soup(ask(browse, element, vest, at_s="1"))
    late = room.soup(ask(browse, element, vest, at_s="50"))
    lines = [p.select("path[stroke='#a8490f']")[0]["d"] for p in (early, late)]
    assert lines[0] != lines[1]
    label = early.select_one(".thing svg")["aria-label"]
    assert "5 layers" in label and "after 1 s" in label


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"dwell_s": "0"}, "Dwell: 0 is out of range"),
        ({"set_c": "hot"}, "Dial:"),
        ({"humidity": "130"}, "less than or equal to 100"),
        ({"contact_kpa": "-4"}, "Contact: -4 is out of range"),
    ],
)
def test_wrong_settings_are_said_and_kept(browse, element, vest, change, said):
    response = ask(browse, element, vest, **change)
    assert said in room.words(response)
    name, value = next(iter(change.items()))
    assert room.soup(response).select_one(f"[name={name}]")["value"] == value


def test_degrees_are_the_persons_own(browse, technician, element, vest):
    technician.temperature_unit = "f"
    technician.save()
    page = room.soup(browse.get(VEST))
    assert page.select_one("[name=set_c]")["value"] == "392"
    assert "°F" in page.select_one("h1").text


def test_how_sure_follows_what_is_known_of_the_platen(browse, technician, element, vest):
    given = {"element": element.pk, "blank": vest.pk, "set_c": "200", "dwell_s": "50"}
    given |= {"contact_kpa": "32", "humidity": "50"}

    def interval():
        text = text_of(browse.get(f"{VEST}uncertainty/", given))
        low, high = re.search(r"density, (\d+)\s°C to (\d+)\s°C under", text).groups()
        return int(high) - int(low)

    never = interval()
    room.survey(technician, element)
    assert 0 < interval() < never


def over_the_platen(browse, element, blank, **more):
    given = {
        "element": element.pk,
        "blank": blank.pk,
        "set_c": "206",
        "dwell_s": "52",
        "contact_kpa": "32",
        "humidity": "50",
    }
    return browse.get(f"{VEST}platen/", given | more)


def text_of(response):
    return " ".join(room.soup(response).get_text(" ").split())


def test_the_cold_corner_comes_out_palest(browse, technician, element, vest):
    assert "has no map yet" in text_of(over_the_platen(browse, element, vest))
    room.survey(technician, element)
    page = over_the_platen(browse, element, vest)
    assert "the back left corner gets least" in text_of(page).replace("\u00a0", " ")
    assert "Pressure is assumed even" in text_of(page)
    assert room.soup(page).select("path.corner")
    hot = text_of(over_the_platen(browse, element, vest, set_c="245", dwell_s="300"))
    assert "No place on this platen is good: all of it is overdone" in hot


def test_a_weak_side_shows_in_the_outcome(browse, technician, element, vest):
    room.survey(technician, element, truth=lambda x, y: 195.0)
    even = text_of(over_the_platen(browse, element, vest))
    strips(technician, element, left_weak)
    weak = text_of(over_the_platen(browse, element, vest))
    assert even != weak
    assert "With the pressure map’s shape" in weak
    assert "left" in weak


ART = {"art_x_mm": "0", "art_y_mm": "380", "art_width_mm": "120", "art_height_mm": "120"}


def advised(page):
    found = re.search(r"Set (\d+)\s°C for this art", text_of(page))
    return float(found[1]) if found else None


def test_art_over_a_cold_place_asks_for_a_hotter_dial_that_then_is_right(
    browse, technician, element, vest
):
    room.survey(technician, element, truth=lambda x, y: 190.0 - (3 if x < 150 and y > 350 else 0))
    middle = advised(over_the_platen(browse, element, vest, set_c="195"))
    corner = advised(over_the_platen(browse, element, vest, set_c="195", **ART))
    assert corner > middle > 195
    then = text_of(over_the_platen(browse, element, vest, set_c=str(corner), **ART))
    assert "The dial is right for this art" in then


def test_where_no_dial_does_it_says_so(browse, technician, element, vest):
    room.survey(technician, element, truth=lambda x, y: 195.0 + (x - 200) / 400 * 50)
    whole = {"art_x_mm": "0", "art_y_mm": "0", "art_width_mm": "400", "art_height_mm": "500"}
    text = text_of(over_the_platen(browse, element, vest, **whole))
    assert "No setting between 195 °C and 205 °C true suits the whole print" in text
    assert "smaller art" in text


def test_a_wrong_stack_is_said_with_its_reason(browse, element, vest):
    assert "dye work" not in room.words(ask(browse, element, vest))
    element.press.cover = "ptfe"
    element.press.save()
    vest.features = ["zip"]
    vest.save()
    text = room.words(ask(browse, element, vest))
    assert "Take the PTFE cover off for dye work: a fixed PTFE cover keeps the moisture in" in text
    assert (
        "Keep trims off the platen, or put a pillow under the print: the heat melts or marks zip"
        in text
    )
