"""Contact pressure, knobs, scales, hands: against arithmetic done by hand and hidden truth."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tempermark.core.errors import InputError
from tempermark.core.pressure.press import contact, hand, knob, scale
from tempermark.core.pressure.press.spring import SpringPad, learned_pad, usual_pad

SPONGE = usual_pad("silicone")


def test_the_handbooks_cylinder():
    force = contact.cylinder_force_n(550, 100, 1)
    assert force == pytest.approx(4320, abs=1)
    area = contact.loaded_area_m2((400, 500), (300, 300), rigid=False)
    assert contact.contact_kpa(force, area) == pytest.approx(21.6, abs=0.01)
    assert contact.line_for_kpa(21.6, area, 100, 1) == pytest.approx(550, abs=0.5)


def test_a_rigid_blank_takes_only_what_lies_under_the_platen():
    assert contact.loaded_area_m2((400, 500), (300, 300), True) == pytest.approx(0.09)
    assert contact.loaded_area_m2((400, 500), (900, 300), True) == pytest.approx(0.12)
    assert contact.loaded_area_m2((400, 500), None, True) == pytest.approx(0.2)


@pytest.mark.parametrize(
    ("kpa", "name"),
    [(3, "resting"), (7, "light"), (19.99, "light"), (20, "medium"), (45, "firm"), (300, "firm")],
)
def test_classes_meet_at_their_bounds(kpa, name):
    assert contact.class_of(kpa) == name


@given(st.floats(0, 500), st.floats(2, 30), st.floats(5, 200))
def test_a_pads_law_is_its_own_inverse(kpa, thickness, quarter):
    pad = SpringPad(thickness, quarter)
    assert pad.pressure_kpa(pad.compression_mm(kpa)) == pytest.approx(kpa, rel=1e-9, abs=1e-9)
    assert pad.pressure_kpa(thickness / 4) == pytest.approx(quarter)


def test_readings_of_this_press_replace_the_starting_stiffness():
    stiff = SpringPad(8.0, 75.0)
    at = np.array([1.0, 1.5, 2.0])
    learned = learned_pad(SPONGE, at, stiff.pressure_kpa(at), 0.05)
    assert learned.quarter_kpa == pytest.approx(75, rel=0.02)
    assert learned.quarter_sd_share < 0.03
    once = learned_pad(SPONGE, at[:1], stiff.pressure_kpa(at[:1]), 0.25)
    assert 48 < once.quarter_kpa < 75


SHIMS = np.array([0.0, 1.0, 2.0, 3.0])


@pytest.mark.parametrize("tightens", ["clockwise", "counterclockwise"])
def test_shims_tell_lift_direction_and_zero(tightens):
    sense = 1 if tightens == "clockwise" else -1
    turns = 3.25 - sense * SHIMS / 1.5
    learned = knob.learn_knob(SHIMS, turns)
    assert learned.lift_mm_per_turn == pytest.approx(1.5)
    assert learned.tightens == tightens
    assert learned.zero_clockwise == pytest.approx(3.25)
    assert learned.rotation(-0.5) == knob.OPPOSITE[tightens]
    assert learned.rotation(0) == "none"


def test_the_learned_lift_holds_the_true_one_as_often_as_it_says():
    rng = np.random.default_rng(3)
    held = 0
    for _ in range(300):
        noise = np.hypot(knob.TURN_SD, knob.TOUCH_SD_MM / 1.25)
        learned = knob.learn_knob(SHIMS, 1 - SHIMS / 1.25 + noise * rng.standard_normal(4))
        held += abs(learned.lift_mm_per_turn - 1.25) < 2 * learned.lift_sd_mm
    assert 0.92 < held / 300 <= 1.0


@pytest.mark.parametrize(
    ("shims", "turns", "code"),
    [
        ([0, 1, 2], [1, 1, 1], "no_lift"),
        ([0, 1, 2], [0, 40, 80], "no_lift"),
        ([0, 1, 2, 3], [0, 1, 3.5, 3], "no_line"),
        ([1], [1], "bad_value"),
        ([1, 1.2], [0, 0.1], "bad_value"),
        ([-1, 2], [0, 2], "bad_value"),
    ],
)
def test_sessions_that_teach_nothing_are_refused_with_the_reason(shims, turns, code):
    with pytest.raises(InputError) as caught:
        knob.learn_knob(np.array(shims, float), np.array(turns, float))
    assert caught.value.problems[0].code == code


@given(
    st.floats(0.3, 6),
    st.floats(0, 12),
    st.floats(0, 12),
    st.floats(7, 80),
    st.floats(7, 80),
)
def test_setting_for_a_then_b_then_a_ends_where_it_began(lift, a, b, kpa_a, kpa_b):
    learned = knob.Knob(lift, "clockwise")
    start = knob.position_for(learned, SPONGE, a, kpa_a)
    stands = start
    stands += knob.position_for(learned, SPONGE, b, kpa_b) - stands
    stands += knob.position_for(learned, SPONGE, a, kpa_a) - stands
    assert stands == start
    assert (start / knob.STEP_TURNS).is_integer()


@given(st.floats(0.3, 6), st.floats(0, 12), st.floats(0.1, 12))
def test_thicker_means_looser_by_the_contracts_turns(lift, before, more):
    turns = knob.turns_for_change(lift, before, before + more)
    assert turns == pytest.approx(-more / lift)
    learned = knob.Knob(lift, "counterclockwise")
    moved = knob.position_for(learned, SPONGE, before + more, 30) - knob.position_for(
        learned, SPONGE, before, 30
    )
    assert moved == pytest.approx(turns, abs=knob.STEP_TURNS)


def test_a_thick_stack_after_a_thin_one_presses_far_harder():
    learned = knob.Knob(1.5, "clockwise", 0.02, 0.0, 0.05)
    stands = knob.position_for(learned, SPONGE, 1.0, 32.5)
    right = knob.contact_at(learned, SPONGE, stands, 1.0)
    unchanged = knob.contact_at(learned, SPONGE, stands, 3.4)
    assert contact.class_of(right.value) == "medium"
    assert right.low < 32.5 < right.high
    assert unchanged.value > 80
    assert knob.contact_at(learned, SPONGE, stands - 3, 1.0).value == 0


def test_a_scale_is_a_wide_guess_before_and_true_after_readings():
    true = lambda s: 6.0 * s**1.2  # noqa: E731
    before = scale.learn_scale(np.array([]), np.array([]), np.array([]))
    assert before.contact_kpa(5).high / before.contact_kpa(5).low > 5
    assert not before.is_learned_at(5)
    figures = np.array([2.0, 4.0, 6.0, 8.0])
    after = scale.learn_scale(figures, true(figures), np.full(4, 0.05))
    for s in (3.0, 5.0, 7.0):
        told = after.contact_kpa(s)
        assert told.low < true(s) < told.high
        assert told.value == pytest.approx(true(s), rel=0.05)
    assert after.figure_for(true(5.0)) == pytest.approx(5.0, abs=0.15)
    assert after.figure_for(500) is None


def test_a_falling_scale_is_refused():
    with pytest.raises(InputError, match="higher figure"):
        scale.learn_scale(np.array([2.0, 5.0, 8.0]), np.array([60.0, 30.0, 12.0]), np.full(3, 0.05))


def test_a_leaning_person_is_a_wide_estimate():
    told = hand.body_weight_kpa(0.12**2)
    assert told.value == pytest.approx(75 * 9.80665 * 0.4 / 0.0144 / 1000, rel=1e-6)
    assert told.high / told.low > 3.5
    known = hand.body_weight_kpa(0.12**2, 75)
    assert known.high / known.low < told.high / told.low


@pytest.mark.parametrize(
    ("pulls", "name"),
    [(["drags"] * 9, "light"), (["holds"] * 9, "medium"), (["tears"] * 9, "firm")],
)
def test_strips_tell_a_class(pulls, name):
    told = hand.pulled_class(pulls)
    assert told.name == name
    assert sum(told.chance.values()) == pytest.approx(1)
    assert told.contact_kpa.low < told.contact_kpa.value < told.contact_kpa.high
    single = hand.pulled_class(pulls[:1])
    assert (
        single.contact_kpa.high / single.contact_kpa.low
        > told.contact_kpa.high / told.contact_kpa.low
    )
