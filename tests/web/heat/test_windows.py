"""Windows: shared settings, the room a press has, and dwells for other conditions."""

import re

import numpy as np
import pytest

from tempermark.core.recipes.windows import SettingWindow, shared
from tempermark.web.heat.windows.words import shared_sentence, split_sentence
from tempermark.web.kit.units import METRIC
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tempermark.web.recipes.models import RecipeVersion
from tests.support import room

PAGE = "/windows/"


@pytest.fixture
def ask(browse, element):
    load_shipped_recipes()
    vest = room.blank(name="Vest", thickness_mm=0.5)

    def asked(slug="dye-on-a-polyester-vest", **more):
        given = {
            "recipe": pk(slug),
            "element": element.pk,
            "blank": vest.pk,
            "set_c": "200",
            "dwell_s": "55",
            "humidity": "50",
            "material": "parchment",
        }
        return browse.get(PAGE, given | more)

    return asked


def pk(slug):
    return RecipeVersion.objects.get(recipe__slug=slug).pk


def chance(response, words):
    return int(re.search(words, room.words(response))[1])


def test_the_better_a_press_is_known_the_surer_its_window(ask, technician, element):
    never = ask()
    assert "its display has never been checked" in room.words(never)
    room.survey(technician, element, truth=lambda x, y: 195.0)
    known = ask()
    words = r"is (\d+)\s% likely to stay inside the window"
    assert chance(known, words) > chance(never, words)
    ellipses = [room.soup(r).select_one("ellipse")["ry"] for r in (never, known)]
    assert float(ellipses[0]) > 2 * float(ellipses[1])


def test_a_setting_at_the_rim_keeps_to_the_window_half_the_time(ask, technician, element):
    room.survey(technician, element, truth=lambda x, y: 195.0)
    words = r"is (\d+)\s% likely to stay inside the window"
    assert chance(ask(set_c="205"), words) == pytest.approx(50, abs=4)
    assert chance(ask(set_c="215"), words) <= 2


def test_two_sheets_more_and_another_temperature(ask):
    text = room.words(ask(sheets="2", to_c="190"))
    more = re.search(r"2 more of parchment: (\d+) s gives the same result, (\d+) s more", text)
    assert int(more[1]) > 55 and int(more[1]) - int(more[2]) == 55
    through = re.search(r"At 190 °C true, through this stack: (\d+) s", text)
    alone = re.search(r"Without the stack’s delay, by the dye alone: (\S+) s", text)
    # 200 to 190 °C: exp(120000/R · (1/463.15 − 1/473.15)) = 1.932.
    assert float(alone[1]) == pytest.approx(55 * 1.932, abs=0.6)
    assert int(through[1]) > 90
    fewer = room.words(ask(sheets="-1"))
    assert re.search(r"1 fewer of parchment: \d+ s gives the same result, \d+ s less", fewer)


def test_windows_are_shared_or_miss_each_other(ask):
    quick, slow = (
        "printed-sheet-on-dark-cotton-quick-paper",
        "printed-sheet-on-dark-cotton-slow-paper",
    )
    text = room.words(ask(quick, second=pk(slow)))
    assert "One temperature, 168 °C true, with its own dwell for each" in text
    both = room.words(ask("thin-film-on-a-tee", second=pk("film-on-a-cotton-bag")))
    assert "One setting suits" in both
    apart = room.words(ask("powder-film-on-cotton", second=pk("dye-on-a-polyester-vest")))
    assert "The windows are 50 K apart" in apart
    assert "Press Powder film on cotton, then Dye on a polyester vest" in apart


def test_sentences_of_windows_and_timers():
    windows = [SettingWindow((165, 175), (10, 15), "A"), SettingWindow((170, 185), (12, 25), "B")]
    assert shared_sentence(windows, shared(windows), METRIC).startswith("One setting suits A and B")
    assert "90 + 90 + 20" in split_sentence(200, 90)
    assert "when 70\u00a0s remain" in split_sentence(200, 90)
    assert split_sentence(80, 90) == split_sentence(200, None) == ""


def test_a_stack_that_prints_nothing_and_wrong_figures_are_said(ask):
    assert "Dwell: 0 is out of range" in room.words(ask(dwell_s="0"))
    assert "More sheets" in room.words(ask(sheets="99"))
    page = room.words(ask(to_c="x"))
    assert "At another true temperature" in page


def test_windows_open_by_themselves_and_without_recipes(browse, element):
    assert "Check the marked fields" in room.words(browse.get(PAGE))
    load_shipped_recipes()
    room.blank(thickness_mm=0.5)
    assert "likely to come out well" in room.words(
        browse.get(f"{PAGE}?recipe=dye-on-a-polyester-vest")
    )


def test_the_area_shows_too_little_and_overdone(ask):
    drawn = room.soup(ask(dwell_s="190", set_c="215")).select_one("svg.chart")
    assert drawn.select("path[fill='url(#fall-left)']")
    assert drawn.select("path[fill='url(#fall-right)']")
    assert np.isfinite(float(drawn.select_one("ellipse")["rx"]))
