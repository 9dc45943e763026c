"""Outcomes, dwells and steps in a row: exact where they can be, and what must always hold."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad

from tempermark.core.thermal.result import dye
from tempermark.core.thermal.result.advise import best_setting
from tempermark.core.thermal.result.dwell import area, cumulated, dwell_for
from tempermark.core.thermal.result.outcome import (
    BONDED_KPA_S,
    DENTS_KPA_S,
    HALVED_KPA_S,
    Adhesive,
    Piece,
    activated,
    bond,
    fluidity,
    outcome,
    reached,
)
from tempermark.core.thermal.solver import closing as press
from tempermark.core.thermal.solver.closing import Closing
from tempermark.core.thermal.solver.in_a_row import (
    OPEN_W_M2K,
    Phase,
    hover_contact_m2k_w,
    opened,
    run_phases,
    state_after,
)
from tempermark.core.thermal.solver.places import press_places, spread_over
from tempermark.core.thermal.solver.stack import Layer
from tests.core.test_thermal import garment

GLUE = Adhesive(136.0)
FILM = Piece(1, is_dye=False, adhesive=GLUE)


def even(true_c, dwell_s, kpa=30.0, **more):
    """A sheet at one temperature from the start: every integral is a product."""
    layers = [Layer(0.5, 0.2, 1000, 1000, initial_c=true_c)] * 2
    closing = Closing(
        layers,
        true_c,
        dwell_s,
        np.array([true_c]),
        None,
        pressure_kpa=np.array([kpa]),
        contacts=np.zeros(1),
    )
    return replace(closing, **more)


def told(closing, piece):
    made = reached(press.press(closing), piece, closing.pressure_kpa)
    return made, outcome(made, piece, closing.pressure_kpa)


def test_what_is_reached_at_one_temperature_is_rate_times_time():
    piece = Piece(
        0,
        adhesive=Adhesive(130.0),
        scorch_c=200.0,
        softens_c=150.0,
        migrates_c=165.0,
        dyed=0.5,
        share=0.65,
    )
    made, out = told(even(200.0, 60.0), piece)
    assert made.uptake[0] == pytest.approx(4.0)
    assert out.density[0] == pytest.approx(0.65 * (1 - np.exp(-4.0)))
    assert made.scorch[0] == pytest.approx(1.0)
    assert out.risks["scorch"][0] == pytest.approx(0.5)
    assert made.flow_kpa_s[0] == pytest.approx(30 * 60 * np.exp((200 - 150) / 12), rel=1e-6)
    assert made.flows_s[0] == pytest.approx(60.0)
    assert made.dents[0] == pytest.approx(30 * 60 / DENTS_KPA_S)
    shift = 120_000 / 8.31446 * (1 / 438.15 - 1 / 473.15)
    assert made.migration[0] == pytest.approx(0.5 * 4 * np.exp(shift), rel=1e-4)


def test_a_bond_rises_to_full_and_falls_once_half_is_pressed_out():
    assert bond(0, GLUE) == 0
    assert bond(BONDED_KPA_S / 4, GLUE) == pytest.approx(0.5, rel=0.01)
    assert bond(BONDED_KPA_S, GLUE) == 1
    assert bond(HALVED_KPA_S, GLUE) == pytest.approx(1.0)
    assert bond(5 * HALVED_KPA_S, GLUE) == pytest.approx(0.5)
    stiff = Adhesive(136.0, 4 * BONDED_KPA_S, 4 * HALVED_KPA_S)
    assert bond(BONDED_KPA_S, stiff) == pytest.approx(0.5, rel=0.01)
    assert bond(20 * HALVED_KPA_S, stiff) == pytest.approx(0.5)


def test_an_adhesive_is_solid_below_and_falls_e_fold_in_twelve_kelvin():
    flows = fluidity(136.0)
    assert flows(172.0) / flows(160.0) == pytest.approx(np.e, rel=1e-3)
    assert flows(120.0) < 0.01 * flows(156.0)
    at = activated(210.0, 60.0, 150_000.0)
    assert at(210.0) == pytest.approx(1 / 60)


@given(st.floats(120, 210), st.floats(5, 60), st.floats(8, 80))
@settings(max_examples=25)
def test_hotter_longer_and_harder_never_lessens_what_is_reached(true_c, dwell_s, kpa):
    piece = replace(FILM, is_dye=True, softens_c=150.0, migrates_c=165.0, dyed=1.0)
    base = garment(upper_c=np.array([true_c]), time_s=dwell_s, pressure_kpa=np.array([kpa]))
    first, _ = told(base, piece)
    for changed in (
        replace(base, upper_c=np.array([true_c + 5])),
        replace(base, time_s=dwell_s * 1.2),
        replace(base, pressure_kpa=np.array([kpa * 1.3])),
    ):
        more, _ = told(changed, piece)
        for name in ("uptake", "flow_kpa_s", "scorch", "migration", "dents"):
            assert getattr(more, name)[0] >= getattr(first, name)[0] * (1 - 1e-6), name


def test_gas_spreads_where_a_surface_says_and_a_bare_side_takes_nothing():
    closing = even(205.0, 90.0)
    cloth, hard = (told(closing, Piece(0, spreads_from=limit))[1] for limit in (4.0, 12.0))
    assert cloth.risks["blowout"][0] > 0.5 > hard.risks["blowout"][0]
    uptake = told(closing, Piece(0))[0].uptake[0]
    at_limit = told(closing, Piece(0, spreads_from=uptake))[1]
    assert at_limit.risks["blowout"][0] == pytest.approx(0.5)
    harder = even(205.0, 40.0, kpa=80.0)
    softer = even(205.0, 40.0, kpa=30.0)
    risks = [told(c, Piece(0))[1].risks["blowout"][0] for c in (softer, harder)]
    assert risks[1] > risks[0]
    assert told(closing, Piece(0, share=0.0))[1].density[0] == 0


def test_a_lattice_carries_what_is_reached_to_the_places():
    rng = np.random.default_rng(2)
    places = garment(
        upper_c=150 + 8 * rng.random(40),
        pressure_kpa=20 + 25 * rng.random(40),
        lower_c=np.full(40, 22.0),
    )
    piece = replace(FILM, migrates_c=165.0, dyed=1.0)
    platen = press_places(places)
    lattice_kpa = platen.lattice.nodes.pressure_kpa
    carried = reached(platen.lattice.course, piece, lattice_kpa).carried(
        lambda values: platen.over(lambda _: values)
    )
    each = reached(press.press(places), piece, places.pressure_kpa)
    assert carried.flow_kpa_s == pytest.approx(each.flow_kpa_s, rel=0.02)
    assert bond(carried.flow_kpa_s, GLUE) == pytest.approx(bond(each.flow_kpa_s, GLUE), abs=0.01)
    assert carried.scorch == pytest.approx(each.scorch, rel=0.01)


def test_cumulated_ends_at_the_whole_and_a_dwell_gives_the_dose_back():
    closing = garment()
    course = press.press(closing)
    sums = cumulated(course, dye.rate_per_s, 1)
    assert sums[-1] == pytest.approx(press.dose(course, 1))
    assert (np.diff(sums[:, 0]) >= 0).all()
    assert dwell_for(closing, Piece(1), float(sums[-1, 0])) == pytest.approx(45.0, abs=0.05)


def test_a_thicker_cover_asks_for_a_longer_dwell_and_none_may_do():
    closing = garment()
    dose = float(press.dose(press.press(closing), 1)[0])
    sheet = closing.layers[0]
    thicker = replace(closing, layers=[sheet, sheet, *closing.layers])
    assert 50 < dwell_for(thicker, Piece(3), dose) < 90
    blocked = replace(closing, layers=[replace(sheet, thickness_mm=30.0), *closing.layers[1:]])
    assert dwell_for(blocked, Piece(1), dose) is None
    film_flow = float(told(closing, FILM)[0].flow_kpa_s[0])
    assert dwell_for(closing, FILM, film_flow) == pytest.approx(45.0, abs=0.2)


def test_an_area_is_what_each_setting_alone_gives():
    piece = Piece(1)
    found = area(garment(), piece, (185.0, 215.0), (20.0, 80.0))
    for w, t in ((5, 10), (24, 30), (40, 55)):
        alone = garment(upper_c=found.warm_c[w : w + 1], time_s=float(found.time_s[t]))
        assert found.outcome.density[w, t] == pytest.approx(
            told(alone, piece)[1].density[0], abs=0.003
        )
    everywhere = np.ones_like(found.outcome.density, bool)
    assert found.chance(everywhere, 200.0, 2.0, 50.0) == pytest.approx(1.0, abs=1e-6)
    hot = np.broadcast_to((found.warm_c >= 200.0)[:, None], everywhere.shape)
    assert found.chance(hot, 200.0, 3.0, 50.0) == pytest.approx(0.5, abs=0.06)
    assert found.chance(hot, 206.0, 3.0, 50.0) == pytest.approx(0.977, abs=0.03)
    faster = found.with_rate(2.0, piece, 30.0)
    assert faster.density[24, 30] == pytest.approx(1 - (1 - found.outcome.density[24, 30]) ** 2)


def test_one_dwell_cut_in_two_without_an_opening_is_the_same():
    closing = garment(humidity=0.8)
    keys = tuple("abcde")
    half = replace(closing, time_s=22.5)
    first, second = run_phases([Phase("press", half, keys), Phase("press", half, keys)])
    whole = press.press(closing)
    assert second.final_c == pytest.approx(whole.final_c, abs=0.05)
    both = press.dose(first, 1) + press.dose(second, 1)
    assert both == pytest.approx(press.dose(whole, 1), rel=1e-3)
    assert np.abs(second.imbalance).max() < 1e-9
    water = first.evaporated + second.evaporated
    assert water == pytest.approx(whole.evaporated, rel=1e-3)


def test_what_boiled_off_does_not_come_back_in_the_next_step():
    damp = garment(humidity=0.9)
    keys = tuple("abcde")
    open_s = opened(damp, 22.0, 60.0, first=2)
    first, between, again = run_phases(
        [
            Phase("dry", damp, keys),
            Phase("open", open_s, ("air", *keys[2:])),
            Phase("press", damp, keys),
        ]
    )
    assert between.evaporated[0] == pytest.approx(0, abs=1e-6)
    assert again.evaporated[0] < 0.05 * first.evaporated[0]
    assert between.below_c[-1, 0, 0] < first.below_c[-1, 0, 1] - 40


def test_an_open_lump_cools_as_newton_says():
    plate = Layer(1.1, 150, 2700, 900, initial_c=190.0)
    closing = even(190.0, 1.0, lower_c=None, layers=[plate, plate])
    lying = opened(closing, 22.0, 120.0)
    course = run_phases([Phase("open", lying, ("air", "a", "b"))])[0]
    capacity = 2 * 1.1e-3 * 2700 * 900
    expected = 22 + 168 * np.exp(-120 * OPEN_W_M2K / capacity)
    plates = course.final_c[0, press.cells_of(lying).first[1] :]
    assert plates.mean() == pytest.approx(expected, abs=0.6)


def test_fresh_sheets_come_from_the_room_and_known_things_stay_warm():
    closing = garment()
    before = [Phase("pre-press", closing, ("s1", "t", "blank", "s2", "pad"))]
    state = state_after(before, closing, ("s3", "t2", "blank", "s4", "pad"))
    cells = press.cells_of(closing)
    start = [state.now_c[0, cells.first[i]] for i in range(5)]
    assert start[0] == start[1] == start[3] == 22.0
    assert start[2] > 150 and start[4] > 120
    warm = replace(closing, begins=state)
    assert press.dose(press.press(warm), 1)[0] > press.dose(press.press(closing), 1)[0]


def test_a_nearer_hover_warms_more():
    assert hover_contact_m2k_w(3) < hover_contact_m2k_w(15) < 1 / 12.3


def test_advice_for_a_film_stays_below_the_rim():
    closing = garment(time_s=15.0)
    warm, kpa = np.array([184.0, 185.0, 186.0, 185.0]), np.array([60.0, 60.0, 60.0, 45.0])
    spread = spread_over(closing, FILM, (150.0, 220.0), (45.0, 60.0))
    advice = best_setting(spread, FILM, warm, kpa, lambda out: out.bond, 0.95, 0.8, 0.5)
    assert advice.shift_c is not None and advice.shift_c < 0
    places = replace(
        closing,
        upper_c=warm + advice.shift_c,
        pressure_kpa=kpa,
        lower_c=np.full(4, 22.0),
    )
    _, out = told(places, FILM)
    assert out.bond.min() == pytest.approx(advice.least, abs=0.01)
    assert out.worst_risk.max() == pytest.approx(advice.risk, abs=0.02)
    assert advice.risk < 0.5


def test_a_generous_lattice_is_kept_and_as_exact():
    rng = np.random.default_rng(3)
    warm, kpa = 198 + 4 * rng.standard_normal(60), 25 + 15 * rng.random(60)
    closing, piece = garment(), Piece(1)
    spread = spread_over(closing, piece, (160.0, 235.0), (20.0, 45.0))
    assert spread_over(garment(), piece, (161.0, 234.0), (20.0, 45.0)) is spread
    assert spread_over(garment(time_s=46.0), piece, (160.0, 235.0), (20.0, 45.0)) is not spread
    each = replace(closing, upper_c=warm, pressure_kpa=kpa, lower_c=np.full(60, 22.0))
    exact, _ = told(each, piece)
    carried = spread.at(warm, kpa)
    assert carried.uptake == pytest.approx(exact.uptake, rel=2e-3)
    assert carried.last_c == pytest.approx(exact.last_c, abs=0.05)


def test_dose_of_a_ramp_is_the_integral_by_quadrature():
    """The face's own course, integrated by another hand."""
    closing = garment()
    course = press.press(closing)

    def rate(t):
        return float(dye.rate_per_s(press.at_times(course, np.array([t]))[0, 0, 1]))

    exact, _ = quad(rate, 0, 45, limit=200, epsabs=1e-4, epsrel=1e-4)
    assert reached(course, Piece(1), closing.pressure_kpa).uptake[0] == pytest.approx(
        exact, rel=2e-3
    )
