"""What the heat does to a recipe's stack: the page says what the solver says."""

import re

import pytest

from tempermark.web.setup import heat
from tempermark.web.setup.actions import load_shipped_recipes
from tempermark.web.setup.models import Recipe
from tests.support import room
from tests.web.fit.test_maps import left_weak, strips

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
    return float(re.search(r"density (\d\.\d+)", room.words(response))[1])


def test_the_page_tells_the_outcome_at_this_presss_true_temperature(
    browse, technician, element, vest
):
    never = ask(browse, element, vest)
    assert "it was never measured" in room.words(never)
    room.survey(technician, element)
    measured = ask(browse, element, vest)
    assert "truly 195 °C" in room.words(measured)
    assert density(measured) < density(never)


def test_longer_and_hotter_is_darker_until_it_spreads(browse, element, vest):
    told = [density(ask(browse, element, vest, dwell_s=s)) for s in ("15", "30", "60")]
    assert told == sorted(told)
    late = room.words(ask(browse, element, vest, dwell_s="180", set_c="210"))
    assert "Blowout: dose" in late
    assert "Scorch:" in late


def test_a_blank_brings_its_own_layer_and_share(vest):
    cotton = room.blank(name="Cotton", polyester=0.0, thickness_mm=0.9)
    layers, interface, left_out = heat.layers_of(version(), cotton, 0.5)
    assert [y.name for y in layers][interface : interface + 2] == [
        "transfer_paper",
        "cotton_jersey",
    ]
    assert layers[interface + 1].thickness_mm == 0.9
    assert left_out == ()
    assert heat.receiving_share(cotton) == 0
    assert heat.receiving_share(room.blank(name="Tile", kind="tile", coating="factory")) == 1


def test_a_stack_without_a_known_material_says_what_is_left_out(browse, element, vest):
    found = Recipe.objects.filter(versions__stack__contains=["sleeve"]).first()
    beaker = room.blank(name="Beaker", kind="tumbler", thickness_mm=0.5, coating="factory")
    slug = found.slug
    text = room.words(ask(browse, element, beaker, f"/recipes/{slug}/heat/"))
    assert "Left out, not in the library: sleeve." in text


def test_film_flows_and_damp_cotton_holds_it_back(browse, element, vest):
    bag = room.blank(name="Bag", kind="bag", polyester=0.0, thickness_mm=0.9)
    path = "/recipes/film-on-a-cotton-bag/heat/"
    more = {"set_c": "160", "dwell_s": "12", "at_s": "12"}

    def flows(humidity):
        text = room.words(ask(browse, element, bag, path, **more, humidity=humidity))
        return float(re.search(r"flows for (\d+)", text)[1]), text

    dry, damp = flows("0"), flows("90")
    assert damp[0] <= dry[0]
    assert "of water is still in the stack" in damp[1]
    cold = room.words(ask(browse, element, bag, path, **more | {"set_c": "110"}))
    assert "The adhesive stays cold" in cold


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
        text = text_of(browse.get(f"{VEST}sure/", given))
        low, high = re.search(r"Density (\S+) to (\S+) with 90", text).groups()
        return float(high) - float(low)

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
    assert "Pressure taken as even" in text_of(page)
    assert room.soup(page).select("path.corner")
    hot = text_of(over_the_platen(browse, element, vest, set_c="245", dwell_s="300"))
    assert "Nowhere on this platen does it come out well: all of it is overdone" in hot


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
    assert "No dial does for all of this art" in text
    assert "smaller art" in text


def test_a_wrong_stack_is_said_with_its_reason(browse, element, vest):
    assert "dye work" not in room.words(ask(browse, element, vest))
    element.press.cover = "ptfe"
    element.press.save()
    vest.features = ["zip"]
    vest.save()
    text = room.words(ask(browse, element, vest))
    assert "Take it off for dye work: the PTFE fixed on the platen" in text
    assert "Trims off the platen, or a pillow under the print: zip melt or mark" in text
