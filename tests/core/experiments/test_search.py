"""Search for a setting: scores are read as they are meant, weights follow them, hidden shops are
found with fewer blanks than a ladder takes.
"""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from benchmarks.search import is_good, scored
from tempermark.core.experiments.search import (
    FILLED_FROM,
    OVERDONE_FROM,
    SEEN,
    ScoredPress,
    score_of,
    search,
)
from tempermark.core.experiments.surface import RECIPE_OF, drawn_shops, surface
from tempermark.core.pressing.recipe_outcome import recipe_outcome
from tempermark.core.recipes.shipped import shipped_recipes

WINDOWS = {
    "cloth": ((180.0, 215.0), (15.0, 120.0), "medium"),
    "hard_coat": ((180.0, 215.0), (20.0, 160.0), "medium"),
    "plastic": ((150.0, 200.0), (10.0, 60.0), "light"),
    "hot_melt": ((130.0, 175.0), (3.0, 30.0), "medium"),
}
DISPLAY_SD_K = 3.0


@pytest.mark.parametrize(
    ("share", "score"), [(0.95, 5), (0.9, 5), (0.8, 4), (0.6, 3), (0.4, 2), (0.1, 1)]
)
def test_density_is_scored_by_the_contract_s_steps(share, score):
    assert score_of(np.array([share]), FILLED_FROM, rises=True)[0] == score


@pytest.mark.parametrize(
    ("risk", "score"), [(0.0, 5), (0.1, 5), (0.2, 4), (0.3, 4), (0.5, 3), (0.8, 2), (0.9, 1)]
)
def test_overdone_is_scored_by_the_contract_s_steps(risk, score):
    assert score_of(np.array([risk]), OVERDONE_FROM, rises=False)[0] == score


def test_what_is_seen_is_right_four_times_in_five():
    assert SEEN.sum(axis=1) == pytest.approx(np.ones(5))
    assert np.diag(SEEN) == pytest.approx(np.full(5, 0.8), abs=0.02)


@pytest.mark.parametrize("receiver", RECIPE_OF)
def test_the_surface_agrees_with_the_recipe_that_stands_for_it(receiver):
    """An average shop at the middle of the recipe's window fills as the recipe does."""
    sheet = next(s for s in shipped_recipes() if s.code == RECIPE_OF[receiver])
    true_c, time_s = sum(sheet.main.temperature_c) / 2, sum(sheet.main.time_s) / 2
    average = drawn_shops(1, 0.0, 0.0, 1)
    average = type(average)(**{name: np.zeros(1) for name in vars(average)})
    table = surface(receiver, sheet.main.pressure)
    found = table.expected(average, np.array([true_c]), np.array([time_s]))
    whole = recipe_outcome(sheet, true_c, time_s, draws=False).pressed
    assert found.filled[0, 0] == pytest.approx(whole.filled, abs=0.06)


@pytest.mark.long
@settings(max_examples=8)
@given(st.sampled_from(sorted(WINDOWS)), st.integers(1, 5), st.integers(1, 5))
def test_what_is_answered_lies_in_the_window_and_is_a_chance(receiver, density, overdone):
    warm, dwell, pressure = WINDOWS[receiver]
    tested = [ScoredPress(sum(warm) / 2, sum(dwell) / 2, density, overdone)]
    found = search(surface(receiver, pressure), warm, dwell, tested, DISPLAY_SD_K)
    for one in (*found.region, found.best):
        assert 0 <= one.chance <= 1
        assert warm[0] <= one.set_c <= warm[1]
        assert dwell[0] <= one.time_s <= dwell[1]
    assert found.best.chance >= max(one.chance for one in found.region) - 0.011
    assert found.stops == (found.next_press is None)


def test_a_pale_piece_sends_it_hotter_or_longer_and_an_overdone_one_back():
    warm, dwell, pressure = WINDOWS["cloth"]
    table = surface("cloth", pressure)
    middle = (195.0, 45.0)
    pale = search(table, warm, dwell, [ScoredPress(*middle, 2, 5)] * 2, DISPLAY_SD_K).best
    spoiled = search(table, warm, dwell, [ScoredPress(*middle, 5, 2)] * 2, DISPLAY_SD_K).best

    def strength(best):
        return best.time_s * 2 ** ((best.set_c - 200) / 10)

    assert strength(pale) > strength(spoiled)


def test_without_a_press_it_never_stops_and_a_confirmed_one_ends_it():
    warm, dwell, pressure = WINDOWS["cloth"]
    table = surface("cloth", pressure)
    assert not search(table, warm, dwell, [], DISPLAY_SD_K).stops
    best = search(table, warm, dwell, [], DISPLAY_SD_K).best
    good = [ScoredPress(best.set_c, best.time_s, 5, 5)] * 2
    assert search(table, warm, dwell, good, DISPLAY_SD_K).stops


def test_scores_that_contradict_each_other_are_said():
    warm, dwell, pressure = WINDOWS["cloth"]
    odd = [ScoredPress(185, 25, 5, 1), ScoredPress(212, 110, 1, 5)] * 2
    assert search(surface("cloth", pressure), warm, dwell, odd, DISPLAY_SD_K).contradicts


def test_the_same_question_has_the_same_answer():
    warm, dwell, pressure = WINDOWS["cloth"]
    tested = [ScoredPress(195, 40, 3, 5)]
    first, second = (
        search(surface("cloth", pressure), warm, dwell, tested, DISPLAY_SD_K) for _ in range(2)
    )
    assert first == second


def test_hidden_shops_are_found_with_fewer_blanks_than_a_ladder():
    """Six shops of another draw: presses until it stops, against a ladder of dwells."""
    warm, dwell, pressure = WINDOWS["cloth"]
    table = surface("cloth", pressure)
    hidden = drawn_shops(6, DISPLAY_SD_K, table.rate_share, 991)
    rng = np.random.default_rng(5)
    blanks, good = [], 0
    ladder = []
    for n in range(6):
        shop = hidden.chosen(np.array([n]))
        tested = []
        for _ in range(6):
            found = search(table, warm, dwell, tested, DISPLAY_SD_K)
            if found.stops:
                break
            press = found.next_press
            tested.append(scored(table, shop, press.set_c, press.time_s, rng))
        blanks.append(len(tested))
        good += is_good(table, shop, found.best.set_c, found.best.time_s)
        ladder.append(rungs(table, shop, rng))
    assert good >= 5
    assert np.mean(blanks) <= np.mean(ladder)


def rungs(table, shop, rng):
    """Blanks of a ladder of dwells at the middle dial, until one is full and not overdone."""
    for count, time_s in enumerate(np.arange(20.0, 121.0, 10.0), 1):
        press = scored(table, shop, 197.5, time_s, rng)
        if press.density_score == 5 and press.overdone_score >= 4:
            return count + 1  # and once more, to confirm it
    return count
