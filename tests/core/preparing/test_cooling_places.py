"""Cooling by where a piece is laid: against exact solutions, and against what the recipes say."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from tempermark.core.phrases import metric
from tempermark.core.preparing.after_press import after_lines
from tempermark.core.preparing.checklist import PieceToPrepare
from tempermark.core.preparing.heat import cooling_places
from tempermark.core.preparing.heat.cooling_places import (
    AIR_AT_C,
    AIR_W_M2K,
    PACK_C,
    PLACES,
    LeavingPiece,
    cooling_time,
    leaving_piece,
    places_for,
)
from tempermark.core.pressing.request import main_request, shipped_blank
from tempermark.core.recipes.shipped import shipped_recipes
from tempermark.core.thermal.cooling import TOUCH_C, cooling_time_s

SHEETS = {sheet.name: sheet for sheet in shipped_recipes()}
PANEL = LeavingPiece(2673.0, 190.0, "aluminium_panel")


def test_with_constant_surfaces_it_is_newton_s_law(monkeypatch):
    monkeypatch.setattr(cooling_places, "AIR_W_M2K", (10.0, 10.0))
    found = cooling_time(PANEL, PLACES["air"], 48.0, 22.0)
    assert found.seconds == pytest.approx(cooling_time_s(190, 22, 48, 2673 / 20), rel=1e-5)


def test_against_the_equation_stepped_in_time():
    def falls(_, t):
        return -2 * np.interp(t, AIR_AT_C, AIR_W_M2K) * (t - 22.0) / PANEL.heat_j_m2k

    found = cooling_time(PANEL, PLACES["air"], 48.0, 22.0).seconds
    course = solve_ivp(falls, (0, found), [190.0], rtol=1e-9, atol=1e-9)
    assert course.y[0, -1] == pytest.approx(48.0, abs=0.02)


@given(
    st.floats(200, 20_000),
    st.floats(60, 220),
    st.floats(10, 35),
    st.sampled_from(sorted(PLACES)),
    st.sampled_from(["aluminium_panel", "ceramic_tile", "steel_wall", "hardboard"]),
)
def test_more_heat_a_warmer_start_and_a_warmer_room_take_longer(heat, start, room, code, material):
    piece, place = LeavingPiece(heat, start, material), PLACES[code]
    base = cooling_time(piece, place, 48.0, room)
    assert base.low_s <= base.seconds <= base.high_s
    assert cooling_time(replace(piece, heat_j_m2k=2 * heat), place, 48.0, room).seconds == (
        pytest.approx(2 * base.seconds)
    )
    assert cooling_time(replace(piece, start_c=start + 5), place, 48.0, room).seconds > base.seconds
    assert cooling_time(piece, place, 48.0, room + 5).seconds > base.seconds
    assert cooling_time(piece, place, 50.0, room).seconds < base.seconds


def test_a_cold_table_is_quicker_than_a_rack_and_a_cloth_slower():
    times = {code: cooling_time(PANEL, place, 48, 22).seconds for code, place in PLACES.items()}
    assert times["table"] < times["weight"] < times["air"] < times["rack"] < times["cloth"]


def test_a_room_as_warm_and_a_piece_already_there():
    assert cooling_time(PANEL, PLACES["rack"], 48.0, 48.0) is None
    assert cooling_time(replace(PANEL, start_c=40), PLACES["rack"], 48.0, 22.0).seconds == 0


def leaving(name, **changes):
    sheet = SHEETS[name]
    request = main_request(sheet, shipped_blank(sheet.blank), **changes)
    return leaving_piece(sheet, request)


def test_the_start_is_what_the_solver_leaves():
    """A thin panel is nearly as hot as its platen, a tile far behind; longer is hotter."""
    panel = leaving("Dye on a coated aluminium panel")
    tile = leaving("Dye on a factory-coated tile")
    assert 175 < panel.start_c < 200
    assert tile.start_c < panel.start_c
    assert leaving("Dye on a factory-coated tile", dwell_s=400.0).start_c > tile.start_c
    assert tile.heat_j_m2k == pytest.approx(2200 * 850 * 0.006, rel=0.1)


COOLED = [
    "Dye on a factory-coated tile",
    "Dye on a hardboard plate",
    "Dye on a coated aluminium panel",
    "Dye on a frosted glass ornament",
    "Dye on a mug in a wrap press",
    "Dye on a tapered steel beaker",
    "Dye on a varnished wood disc",
]


@pytest.mark.parametrize("name", COOLED)
def test_the_recipes_own_cooling_times_are_in_reach(name):
    """What the trade waits agrees with touching and packing within a factor of two."""
    sheet = SHEETS[name]
    blank = shipped_blank(sheet.blank)
    step = next(s for s in sheet.steps[sheet.steps.index(sheet.main) :] if s.kind == "cool")
    place = places_for(blank.kind, blank.kind == "plastic")[0]
    piece = leaving(name)
    touch = cooling_time(piece, place, TOUCH_C, 22.0)
    packed = cooling_time(piece, place, PACK_C, 22.0)
    assert touch.low_s <= step.time_s[1]
    assert packed.high_s >= step.time_s[0] / 2
    assert packed.high_s <= 2 * step.time_s[1]


def lines(name, room_c=22.0):
    sheet = SHEETS[name]
    piece = PieceToPrepare(sheet, shipped_blank(sheet.blank), (200.0, 200.0))
    return after_lines(piece, leaving(name), room_c)


def test_a_panel_is_cooled_touched_and_packed_in_that_order():
    found = lines("Dye on a coated aluminium panel")
    cool, pack = found[-2], found[-1]
    assert [w.name for w in cool.choices] == [
        "touch-safe on a cold metal table",
        "touch-safe on a rack",
    ]
    assert cool.choices[0].seconds < cool.choices[1].seconds
    assert pack.waits[0].seconds > cool.choices[0].seconds
    assert "°C a bare hand may hold it" in metric(cool.because)


def test_a_mug_is_never_laid_on_cold_metal():
    cool = next(line for line in lines("Dye on a mug in a wrap press") if line.choices)
    assert "cracks" in str(cool.caution) or "metal" in str(cool.caution)
    assert all("metal" not in wait.name for wait in cool.choices)


def test_a_cold_peel_waits_for_its_place_and_a_hot_one_does_not():
    cold = next(line for line in lines("Powder film on cotton") if "eel" in str(line.do))
    hot = next(line for line in lines("Dye on a polyester vest") if "ransfer" in str(line.do))
    assert cold.choices and not hot.choices


def test_washing_waits_a_day():
    found = lines("Cotton shirt: sprayed coat, then dye")
    assert [w.seconds for line in found for w in line.waits if w.name == "rest"] == [86_400]


@pytest.mark.parametrize("name", sorted(SHEETS))
def test_every_recipe_ends_in_lines_without_doubles(name):
    found = lines(name)
    assert found or SHEETS[name].steps[-1] == SHEETS[name].main
    assert len({line.code for line in found}) == len(found)
    for line in found:
        assert all(w.seconds >= 1 for w in (*line.waits, *line.choices))
