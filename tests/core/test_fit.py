"""Seams, pillows, places, vessels, caps, wear and the strips' map: against independent answers."""

from datetime import date, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import lsq_linear

from tempermark.core.errors import InputError
from tempermark.core.metrology.map.usable import Rectangle
from tempermark.core.phrases import metric
from tempermark.core.pressure.map.field import map_strips
from tempermark.core.pressure.map.pulls import pull_survey
from tempermark.core.pressure.pieces.cap import CapFront, crossing
from tempermark.core.pressure.pieces.placing import grown, nearest_clear, overlaps
from tempermark.core.pressure.pieces.shadow import (
    reach_length_mm,
    shadow,
    thinnest_pillow_mm,
    with_pillow,
)
from tempermark.core.pressure.pieces.vessel import Tube, rim_zone_mm, seat, second_press
from tempermark.core.pressure.press.spring import SpringPad, usual_pad
from tempermark.core.pressure.press.wear import life

SPONGE = usual_pad("silicone")


def solved_reach(step_mm: float, pressed_mm: float, length_mm: float) -> float:
    """The shadow by minimum energy: ∫ w² + λ² w'² with w ≥ δ under the cloth, w(0) = δ + h."""
    cell = length_mm / 40
    count = int(30 * length_mm / cell / 2)
    rows = np.eye(count)
    slopes = (np.eye(count) - np.eye(count, k=-1)) * (length_mm / cell)
    fixed = np.zeros(2 * count)
    fixed[count] = (pressed_mm + step_mm) * length_mm / cell
    solved = lsq_linear(np.vstack([rows, slopes]), fixed, bounds=(pressed_mm, np.inf)).x
    return cell * np.count_nonzero(solved > pressed_mm * (1 + 1e-4))


@pytest.mark.parametrize(("step", "pressed"), [(0.5, 1.5), (2.0, 1.5), (3.0, 0.6)])
def test_a_shadow_reaches_as_far_as_the_least_energy_says(step, pressed):
    length = reach_length_mm(SPONGE)
    found = shadow(step, SPONGE, float(SPONGE.pressure_kpa(pressed)))
    assert found.reach_mm.value == pytest.approx(solved_reach(step, pressed, length), rel=0.06)
    assert found.reach_mm.low < found.reach_mm.value < found.reach_mm.high


@given(st.floats(0.1, 6), st.floats(8, 70))
def test_a_higher_step_darkens_more_and_more_pressure_less(step, kpa):
    here = shadow(step, SPONGE, kpa).reach_mm.value
    assert shadow(step * 1.2, SPONGE, kpa).reach_mm.value > here
    assert shadow(step, SPONGE, kpa * 1.2).reach_mm.value < here
    assert shadow(step, SPONGE, kpa).on_step_kpa > kpa


def test_nothing_raised_darkens_nothing_and_without_pressure_all_is_dark():
    assert shadow(0, SPONGE, 30).reach_mm.high == 0
    assert np.isinf(shadow(1, SPONGE, 0).reach_mm.value)


def test_a_pillow_clears_what_it_is_still_thicker_than():
    pillow = usual_pad("pillow", 10)
    raised = with_pillow(3.0, pillow, SPONGE, 32.5)
    assert raised.pressed_mm == pytest.approx(10 * 36 / (36 + 32.5), rel=1e-6)
    assert raised.clears
    assert raised.shadow.reach_mm.value == 0
    assert not with_pillow(8.0, pillow, SPONGE, 32.5).clears
    thinnest = thinnest_pillow_mm(3.0, pillow, 32.5)
    assert with_pillow(3.0, usual_pad("pillow", thinnest * 1.001), SPONGE, 32.5).clears
    assert not with_pillow(3.0, usual_pad("pillow", thinnest * 0.999), SPONGE, 32.5).clears


boxes = st.builds(
    Rectangle, st.integers(0, 90), st.integers(0, 90), st.integers(1, 40), st.integers(1, 40)
)


@pytest.mark.long
@given(boxes, st.lists(boxes, max_size=4))
def test_the_nearest_clear_place_is_clear_and_none_is_nearer(print_, shadows):
    within = Rectangle(0, 0, 130, 130)
    move = nearest_clear(print_, shadows, within)
    free = []
    for x in range(130 - int(print_.width_mm) + 1):
        for y in range(130 - int(print_.height_mm) + 1):
            there = Rectangle(x, y, print_.width_mm, print_.height_mm)
            if not any(overlaps(there, s) for s in shadows):
                free.append(np.hypot(x - print_.x_mm, y - print_.y_mm))
    if move is None:
        assert not free
    else:
        assert np.hypot(*move) == pytest.approx(min(free))


def test_growing_goes_every_way():
    assert grown(Rectangle(10, 20, 5, 6), 2) == Rectangle(8, 18, 9, 10)


BEAKER = Tube(88, 60, 110)


def test_a_taper_wants_its_own_sleeve():
    own = seat(BEAKER, Tube(91, 63, 110))
    assert own.fits
    assert own.widest_mm == pytest.approx(0)
    assert own.closed_by_mm == pytest.approx(3)
    straight = seat(BEAKER, Tube(92, 92, 110))
    assert not straight.fits
    assert straight.bottom_gap_mm == pytest.approx((92 - 4 - 60) / 2)
    assert "bottom" in metric(straight.reason)


def test_a_sleeve_that_cannot_close_that_far_leaves_a_gap_all_round():
    loose = seat(Tube(80, 80, 95), Tube(90, 90, 95))
    assert not loose.fits
    assert loose.top_gap_mm == loose.bottom_gap_mm == pytest.approx(2)
    assert "closes by" in metric(loose.reason)


def test_a_vessel_larger_than_its_sleeve_is_refused():
    with pytest.raises(InputError, match="never force it") as caught:
        seat(Tube(95, 60, 110), Tube(91, 63, 110))
    assert caught.value.problems[0].code == "larger_than_sleeve"


def test_the_second_press_turns_the_opening_onto_what_is_done():
    even = np.full(60, 185.0)
    full = second_press(even, heated_mm=220, around_mm=250, art_mm=250, unheated_c=120)
    gap_deg = 30 / 250 * 360
    assert full.before_c == 120
    assert full.coolest_c == pytest.approx(185)
    assert gap_deg <= full.turn_deg <= gap_deg + 15
    narrow = second_press(even, 220, 250, 150, 120)
    assert narrow.turn_deg == 0
    assert narrow.gained_c == 0


def test_a_cool_rim_has_its_width():
    rows = np.array([170, 178, 184, 185, 185, 185, 185, 184, 176, 165.0])
    assert rim_zone_mm(rows, 100, 180) == pytest.approx((20, 20))
    assert rim_zone_mm(rows, 100, 200) == (100, 100)


def test_six_panels_have_a_seam_in_front_and_five_none():
    felt = usual_pad("felt")
    six = crossing(CapFront.of(6), 80, 0, felt, 30)
    assert six.crosses
    assert six.thinnest_stroke_mm == pytest.approx(six.without_contact_mm)
    assert not crossing(CapFront.of(5), 80, 0, felt, 30).crosses
    assert not crossing(CapFront.of(6), 30, 45, felt, 30).crosses
    harder = crossing(CapFront.of(6), 80, 0, felt, 60)
    assert harder.thinnest_stroke_mm < six.thinnest_stroke_mm


TODAY = date(2026, 11, 25)


def test_a_pad_is_due_by_what_comes_first():
    since = TODAY - timedelta(days=300)
    by_pace = life(since, 15_000, 6000, TODAY, 20_000, 730)
    assert by_pace.by == "closings"
    assert by_pace.due_on == TODAY + timedelta(days=50)
    by_age = life(since, 500, 100, TODAY, 20_000, 365)
    assert (by_age.by, by_age.due_on) == ("age", since + timedelta(days=365))
    hard = life(since, 500, 100, TODAY, 20_000, 730, hardened=16)
    assert hard.by == "hardness"
    assert hard.is_due(TODAY)
    assert life(None, 25_000, 0, TODAY, 20_000, 730).is_due(TODAY)
    assert life(None, 10, 0, TODAY, 20_000, 730).due_on is None


def strips_of(field, count=5, size=(400.0, 500.0)):
    across, along = (np.linspace(20, n - 20, count) for n in size)
    places = np.column_stack([a.ravel() for a in np.meshgrid(across, along)])
    kpa = SPONGE.pressure_kpa(field(places / size))
    bounds = np.array([2.0, 15.0, 70.0])
    names = np.array(["free", "drags", "holds", "tears"])
    return places, list(names[np.searchsorted(bounds, kpa, side="right")])


def test_strips_find_a_tilt_with_its_direction_and_size():
    places, pulls = strips_of(lambda at: 0.9 + 1.6 * (at[:, 0] - 0.5))
    found = map_strips(places, pulls, SPONGE, (400.0, 500.0))
    assert abs(found.right_mm - 1.6) < 2 * found.right_sd_mm
    assert found.right_mm > 2 * found.right_sd_mm
    assert abs(found.back_mm) < 2 * found.back_sd_mm
    left, right = found.map.at(np.array([[30.0, 250.0], [370.0, 250.0]]))
    assert left < 10 < right


def test_strips_map_holds_the_truth_as_often_as_it_says():
    rng = np.random.default_rng(8)
    inside, count = 0, 0
    for _ in range(40):
        level, right, back, hollow = rng.standard_normal(4) * [0.6, 0.6, 0.6, 0.4]

        def field(at, level=1.3 + level, slope=(right, back), hollow=hollow):
            away = (((at - 0.5) / 0.28) ** 2).sum(axis=1)
            return level + (at - 0.5) @ slope - abs(hollow) * np.exp(-away)

        places, pulls = strips_of(field, 4)
        found = map_strips(places, pulls, SPONGE, (400.0, 500.0))
        truth = found.map.grid.shaped(field(found.map.grid.places_mm / (400.0, 500.0)))
        pressed = truth > 0
        off = np.abs(truth - found.map.compression_mm) < 2 * found.map.sd_mm
        inside += off[pressed].sum()
        count += pressed.sum()
    assert 0.9 < inside / count <= 1.0


def test_pulls_keep_the_contracts_verdict():
    places, pulls = strips_of(lambda at: np.full(len(at), 1.5))
    steps = np.array([{"free": 0, "drags": 1, "holds": 2, "tears": 3}[p] for p in pulls])
    assert pull_survey(400, 500, places, steps).verdict == "pass"
    even = map_strips(places, pulls, SpringPad(8, 48), (400.0, 500.0))
    chance = even.map.chance_between(7, 80)
    assert chance.min() > 0.7
