"""A stack is built on the page: put, moved, swapped, turned, taken out; and the rules."""

import re
from functools import partial

import pytest

from tempermark.core.thermal.library.materials import materials
from tempermark.web.heat.simulate.stack_building import changed
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tests.support import room

VEST = "/recipes/dye-on-a-polyester-vest/heat/"
STACK = ("parchment", "transfer_paper", "polyester_jersey", "plain_paper inside", "silicone_pad")


@pytest.mark.parametrize(
    ("doing", "expected"),
    [
        ("put", ("ptfe_sheet", *STACK)),
        ("up:1", ("transfer_paper", "parchment", *STACK[2:])),
        ("down:0", ("transfer_paper", "parchment", *STACK[2:])),
        ("move:0:2", ("transfer_paper", "polyester_jersey", "parchment", *STACK[3:])),
        ("move:4:0", ("silicone_pad", *STACK[:4])),
        ("swap:0", ("ptfe_sheet", *STACK[1:])),
        ("turn:1", (STACK[0], "transfer_paper face up", *STACK[2:])),
        ("turn:2", (*STACK[:2], "polyester_jersey uncoated side up", *STACK[3:])),
        ("inside:3", (*STACK[:3], "plain_paper", "silicone_pad")),
        ("out:0", STACK[1:]),
        ("up:0", STACK),
        ("down:4", STACK),
        ("turn:0", STACK),
        ("out:9", STACK),
        ("out", STACK),
        ("", STACK),
        ("move:x:y", STACK),
    ],
)
def test_each_change(doing, expected):
    assert changed(STACK, doing, "ptfe_sheet", materials()) == expected


def test_turned_twice_is_as_before_and_an_unknown_material_is_not_put():
    once = changed(STACK, "turn:1", "", materials())
    assert changed(once, "turn:1", "", materials()) == STACK
    assert changed(STACK, "put", "gauze", materials()) == STACK
    assert changed(STACK, "swap:1", "gauze", materials()) == STACK


def test_a_stack_has_an_end():
    tall = ("parchment",) * 20
    assert changed(tall, "put", "parchment", materials()) == tall


@pytest.fixture
def page(browse, element):
    load_shipped_recipes()
    vest = room.blank(name="Vest", thickness_mm=0.5)
    given = {"element": element.pk, "blank": vest.pk, "set_c": "200", "dwell_s": "50"}
    given |= {"contact_kpa": "32", "humidity": "50", "layer": list(STACK)}

    def ask(path=VEST, **more):
        return browse.get(path, given | more)

    return ask


def layers(response):
    return [i["value"] for i in room.soup(response).select("input[name=layer]")]


def test_every_wrong_stack_says_why(page):
    for doing, said in (
        ("out:3", "A sheet of plain paper inside: dye gas goes through"),
        ("turn:1", "Transfer face down, ink to the blank: the ink faces the platen"),
        ("turn:2", "Coated side to the ink: dye does not hold on a bare side"),
        ("out:0", "there is nothing between the platen and the transfer"),
        ("move:0:1", "a sheet between the transfer and the blank"),
    ):
        assert said in room.words(page(op=doing)), doing


def test_a_stack_is_put_back_and_taken_back(page):
    once = page(op="out:3")
    assert layers(once) == [*STACK[:3], "silicone_pad"]
    assert "Your own stack" in room.words(once)
    now = {"layer": layers(once), "was": list(STACK)}
    assert layers(page(**now, op="back")) == list(STACK)
    recipe = page(**now, op="recipe")
    assert layers(recipe) == list(STACK)
    assert "The recipe’s stack" in room.words(recipe)


def test_a_thicker_cover_is_cooler_and_no_transfer_prints_nothing(page):
    plain = room.words(page(), "h1")
    felt = room.words(page(op="put", material="aramid_felt"), "h1")
    assert plain != felt
    nothing = page(layer=["silicone_pad"])
    assert "Nothing in this stack receives the heat" in room.words(nothing)
    assert layers(nothing) == ["silicone_pad"]


def test_other_steps_have_their_own_stack_and_rules(page, browse):
    cure = browse.get("/recipes/cotton-shirt-sprayed-coat-then-dye/heat/?step=3")
    assert layers(cure) == ["parchment", "cotton_jersey", "wicking_cloth", "silicone_pad"]
    assert "under the cover at the end" in room.words(cure)
    path = "/recipes/cotton-shirt-sprayed-coat-then-dye/heat/"
    wet = page(path, step="3", layer=layers(cure), op="swap:0", material="plain_paper")
    assert "plain porous paper sticks fast to a wet coating" in room.words(wet)
    hover = browse.get("/recipes/powder-film-on-cotton/heat/?step=1")
    ptfe = page(
        "/recipes/powder-film-on-cotton/heat/",
        step="1",
        layer=layers(hover),
        op="put",
        material="ptfe_sheet",
    )
    assert "a PTFE cover holds the heat back from the powder" in room.words(ptfe)


def test_schools_differ_where_they_say_so(browse, page):
    path = "/recipes/dye-on-a-large-coated-aluminium-panel/heat/"
    short = room.soup(browse.get(path)).select_one("[name=dwell_s]")["value"]
    lower = room.soup(browse.get(f"{path}?school=Long+and+lower"))
    assert float(lower.select_one("[name=dwell_s]")["value"]) > 2 * float(short)
    assert lower.select_one("a.tab[aria-current][href*=school]").text == "long and lower"


def test_steps_in_a_row_carry_warmth_and_split_at_the_timer(browse, page, element):
    row = room.words(browse.get("/recipes/dye-on-a-coated-aluminium-panel/heat/row/"), "p")
    assert re.match(r"After all steps: \d+\s% of full density", row)
    element.press.timer_max_s = 90
    element.press.save()
    path = "/recipes/dye-on-a-frosted-glass-ornament/heat/row/"
    told = " ".join(room.soup(browse.get(path)).get_text(" ").split())
    assert "The timer goes up to 90 s: 3 closings" in told


def test_after_the_steps_before_a_panel_prints_darker(browse, page):
    path = "/recipes/dye-on-a-coated-aluminium-panel/heat/"
    stack = [
        "wicking_cloth 0.2 mm",
        "transfer_paper",
        "aluminium_panel",
        "plain_paper",
        "silicone_pad",
    ]
    panel = room.blank(name="Panel", kind="panel", coating="factory", like="aluminium_panel")
    page = partial(page, path, layer=["parchment", *stack], blank=panel.pk)
    cold = room.words(page(), "h1")
    warm = page(after="on")
    figure = lambda text: int(re.search(r"(\d+)\s%", text)[1])  # noqa: E731
    assert figure(room.words(warm, "h1")) > figure(cold) + 5
    starts = re.search(r"The steps before leave its face at (\d+)", room.words(warm))[1]
    row = browse.get(f"{path}row/?{warm.wsgi_request.GET.urlencode()}")
    cells = room.soup(row).select_one("tr.main-step").select("td")
    assert starts in cells[2].text


def test_a_platen_that_dips_says_how_far(page):
    told = room.words(page(dips="on"))
    assert "The platen dips to" in told
