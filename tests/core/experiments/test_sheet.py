"""The ladder sheet: what its scores say, curve and span."""

import numpy as np
import pytest

from tempermark.core.experiments.search import ScoredPress
from tempermark.core.experiments.sheet import answer, fitted_curve
from tempermark.core.experiments.surface import press_tables, surface
from tempermark.core.pressing.request import shipped_blank
from tempermark.core.recipes.shipped import shipped_recipes

WINDOW = ((180.0, 215.0), (15.0, 120.0))
SD_K = 3.0


@pytest.fixture(scope="module")
def cloth():
    return surface("cloth", "medium")


def test_the_span_holds_the_best_and_lies_in_the_window(cloth):
    found = answer(cloth, WINDOW, (ScoredPress(197, 50, 5, 5),), SD_K)
    best = found.result.best
    assert found.dials_c[0] <= best.set_c <= found.dials_c[1]
    assert found.dwells_s[0] <= best.time_s <= found.dwells_s[1]
    assert WINDOW[0][0] <= found.dials_c[0]
    assert found.dials_c[1] <= WINDOW[0][1]


def test_scores_narrow_the_band_about_what_they_say(cloth):
    before = fitted_curve(cloth, WINDOW, (), SD_K, "time_s", 195.0)
    tested = (ScoredPress(195, 30, 3, 5), ScoredPress(195, 50, 4, 5), ScoredPress(195, 70, 5, 5))
    after = fitted_curve(cloth, WINDOW, tested, SD_K, "time_s", 195.0)

    def width(curve):
        return float(np.mean(curve.filled[:, 2] - curve.filled[:, 0]))

    assert width(after) < 0.75 * width(before)
    at = np.interp([30, 50], after.values, after.filled[:, 1])
    assert 0.5 < at[0] < 0.8
    assert 0.7 < at[1] < 0.93
    assert (np.diff(after.filled[:, 1]) >= -1e-9).all()


def test_along_the_dial_what_is_pale_gets_full_and_then_overdone(cloth):
    curve = fitted_curve(cloth, WINDOW, (), SD_K, "set_c", 60.0)
    assert curve.filled[0, 1] < curve.filled[-1, 1]
    assert curve.risk[0, 1] < curve.risk[-1, 1]
    inner = curve.chance.max()
    assert inner > curve.chance[0]
    assert inner > curve.chance[-1]


def test_how_many_more_presses_halve_the_doubt_is_few_or_not_said(cloth):
    found = answer(cloth, WINDOW, (ScoredPress(190, 30, 3, 5),), SD_K)
    assert found.more_to_halve is None or 1 <= found.more_to_halve <= 6


@pytest.mark.long
def test_every_shipped_recipe_s_own_stack_can_be_searched():
    missing = [
        sheet.code
        for sheet in shipped_recipes()
        if press_tables(sheet, shipped_blank(sheet.blank), sheet.main.pressure or "medium") is None
    ]
    assert missing == []


def test_a_thick_tile_is_slower_than_a_thin_panel():
    by_code = {sheet.code: sheet for sheet in shipped_recipes()}
    share = {}
    for code in ("coated-tile", "coated-panel"):
        sheet = by_code[code]
        tables = press_tables(sheet, shipped_blank(sheet.blank), "medium")
        share[code] = fitted_curve(tables, WINDOW, (), SD_K, "time_s", 198.0).filled[15, 1]
    assert share["coated-tile"] < share["coated-panel"] - 0.1
