"""What strips of a known press bound, by whose arm, and what presses of a kind teach."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tempermark.core.metrology.map.censored import bounded_normal
from tempermark.core.metrology.memory.learning import SurveyStep
from tempermark.core.pressure.map.field import MEAN_MM, SPREAD_MM
from tempermark.core.pressure.memory.kept import keep_pressure
from tempermark.core.pressure.memory.learning import FoundClosing, learned_pressure, with_kind
from tempermark.core.pressure.memory.looks import (
    MOST_ARM,
    PressureRates,
    arm_mm,
    bounds_of,
    covariance_mm2,
    strips_look,
    today,
)
from tempermark.core.pressure.memory.recall import recall_pressure
from tempermark.core.pressure.press.hand import STRIP_SD_SHARE
from tests.support.strips import EVEN, PAD, SIZE, STATIONS, known, pulls_at


@given(
    moved=st.lists(st.floats(-5, 5), max_size=12),
    new=st.integers(0, 30),
    more=st.integers(0, 30),
)
def test_rates_stay_in_their_range(moved, new, more):
    steps = [SurveyStep(60.0, size, 0.1) for size in moved]
    found = learned_pressure(steps, steps, new, new + more)
    assert 0.03 <= found.fall_mm <= 0.4
    assert 0.03 <= found.new_chance <= 0.4


def test_rates_are_those_of_many_steps():
    rng = np.random.default_rng(9)
    steps = [SurveyStep(30.44, float(s), 0.0) for s in 0.2 * rng.standard_normal(400)]
    assert learned_pressure(steps, steps, 60, 400).fall_mm == pytest.approx(0.2, rel=0.1)
    assert learned_pressure([], [], 60, 400).new_chance == pytest.approx(0.15, abs=0.01)


def test_a_kind_is_as_many_presses_are():
    rng = np.random.default_rng(4)
    level = MEAN_MM + 0.7 * rng.standard_normal(300)
    fall = 0.5 * rng.standard_normal((300, 2)) + 0.1 * rng.standard_normal((300, 2))
    found = [
        FoundClosing(of, tuple(falls), (0.1, 0.1)) for of, falls in zip(level, fall, strict=True)
    ]
    rates = with_kind(PressureRates(), found)
    assert rates.kind_level_mm == pytest.approx(0.7, rel=0.12)
    assert rates.kind_fall_mm == pytest.approx(0.5, rel=0.1)
    assert with_kind(PressureRates(), []) == PressureRates()


@pytest.mark.parametrize("spread_mm", [0.25, 0.5])
@pytest.mark.parametrize("strips_mm", [0.1, 0.4])
def test_hollows_of_a_kind_are_as_its_pads_have_them(spread_mm, strips_mm):
    """However little strips tell of each, and however much its map leans on what it expects."""
    rng, count, before = np.random.default_rng(8), 3000, SPREAD_MM[3] ** -2.0
    told = spread_mm * rng.standard_normal(count) + strips_mm * rng.standard_normal(count)
    after = before + strips_mm**-2.0
    leaning = told * strips_mm**-2.0 / after
    found = [
        FoundClosing(MEAN_MM, (0.0, 0.0), (0.1, 0.1), float(one), after**-0.5) for one in leaning
    ]
    learned = with_kind(PressureRates(), found).kind_hollow_mm
    # An upper limit, which is the farther off the less strips tell.
    assert 0.97 * spread_mm < learned < 1.16 * spread_mm


def test_maps_that_tell_no_hollow_teach_none():
    """Prints, and strips that leave it as it was expected."""
    silent = [
        FoundClosing(MEAN_MM, (0.0, 0.0), (0.1, 0.1)),
        FoundClosing(MEAN_MM, (0.0, 0.0), (0.1, 0.1), 0.0, float(SPREAD_MM[3])),
    ]
    assert with_kind(PressureRates(), silent * 40).kind_hollow_mm == SPREAD_MM[3]


@given(
    closings=st.lists(
        st.tuples(st.floats(0, 5), st.floats(-3, 3), st.floats(0, 1), st.floats(-2, 2)),
        max_size=12,
    )
)
def test_a_kind_is_no_wider_than_without_any(closings):
    found = [
        FoundClosing(level, (fall, -fall), (sd, sd), hollow, sd)
        for level, fall, sd, hollow in closings
    ]
    rates, start = with_kind(PressureRates(), found), PressureRates()
    assert 0.2 <= rates.kind_hollow_mm <= start.kind_hollow_mm
    assert 0.4 <= rates.kind_fall_mm <= start.kind_fall_mm
    assert 0.4 <= rates.kind_level_mm <= start.kind_level_mm


def test_a_strip_between_two_bounds_is_two_bounds():
    """And one that is free or tears is one; cells of a print have no arm."""
    look = strips_look(STATIONS[:4], ["free", "drags", "holds", "tears"], PAD, 60.0)
    found = bounds_of([look], 2)
    assert found.sites.place_mm[:3] == pytest.approx(STATIONS[[1, 2, 3]])
    assert found.sites.place_mm[3:6] == pytest.approx(STATIONS[[0, 1, 2]])
    assert np.isinf(found.high_mm[:3]).all()
    assert np.isinf(found.low_mm[3:6]).all()
    assert found.low_mm[:3] == pytest.approx(found.high_mm[3:6])
    assert set(found.sites.look) == {2}
    # The last is the arm itself: nothing is pressed by it.
    assert found.sites.pressed == pytest.approx([1.0] * 6 + [0.0])
    assert found.high_mm[6] == -found.low_mm[6] == MOST_ARM
    assert found.sites.course(SIZE)[6] == pytest.approx(0.0)
    assert found.sites.expected_mm(SIZE, MEAN_MM)[6] == 0.0
    value = np.array([1.0, 2.0])
    cells = bounds_of(
        [
            replace(
                look, place_mm=STATIONS[:2], low_mm=value, high_mm=value, sd_mm=value, arm_mm=None
            )
        ]
    )
    assert cells.low_mm == pytest.approx(value)
    assert cells.sites.arm_mm == pytest.approx(0.0)


def test_a_map_whose_strips_were_all_taken_back_tells_nothing():
    none = strips_look(np.zeros((0, 2)), [], PAD, 30.0)
    assert len(bounds_of([none]).low_mm) == 0
    even = strips_look(STATIONS, EVEN, PAD, 60.0)
    both, alone = (
        recall_pressure(keep_pressure(looks, SIZE, PressureRates()), None, PAD).plane[0]
        for looks in ([none, even], [even])
    )
    assert both == pytest.approx(alone, abs=0.02)


def test_a_stronger_arm_moves_the_bounds_as_the_pad_gives_way():
    bound = PAD.compression_mm(np.array([2.0, 15.0, 70.0]))
    moved = arm_mm(PAD, bound)
    for sign in (-1.0, 1.0):
        there = PAD.compression_mm(np.array([2.0, 15.0, 70.0]) * np.exp(sign * STRIP_SD_SHARE))
        # A pad is no straight line: halfway both ways.
        assert there - bound == pytest.approx(sign * moved, rel=0.25)
    assert arm_mm(PAD, np.array([-np.inf, np.inf])) == pytest.approx(0.0)


def test_chances_of_pulls_are_those_of_many_arms():
    """Of three stations together, against presses and arms that were drawn."""
    rng, rates, count = np.random.default_rng(8), PressureRates(kind_fall_mm=0.45), 200_000
    place = STATIONS[[0, 4, 8]]
    here = today(place)
    mean, covariance = here.expected_mm(SIZE, MEAN_MM), covariance_mm2(here, here, SIZE, rates)
    pressed = rng.multivariate_normal(mean, covariance, count)
    # Each bound differs a little at each place.
    pressed = pressed + 0.15 * rng.standard_normal(pressed.shape)
    arm = np.exp(STRIP_SD_SHARE * rng.standard_normal((count, 1)))
    kpa = PAD.pressure_kpa(np.maximum(pressed, 0.0)) / arm
    step = np.searchsorted([2.0, 15.0, 70.0], kpa, side="right")
    names = ["free", "drags", "holds", "tears"]
    for pulls in (
        ("holds", "holds", "holds"),
        ("holds", "tears", "tears"),
        ("free", "drags", "holds"),
    ):
        bounds = bounds_of([strips_look(place, list(pulls), PAD)])
        whole = covariance_mm2(bounds.sites, bounds.sites, SIZE, rates)
        expected = bounds.sites.expected_mm(SIZE, MEAN_MM)
        found = bounded_normal(expected, whole, bounds.low_mm, bounds.high_mm, bounds.sd_mm)
        often = (step == [names.index(pull) for pull in pulls]).all(axis=1).mean()
        assert np.exp(found.log_chance) == pytest.approx(often, rel=0.15)


def test_no_arm_is_so_weak_that_anything_is_as_before():
    """A left side that is free where it held, and a right that tears: a side gave way."""
    torn = ["free", "holds", "tears"] * 3
    for maps in (1, 3):
        found = recall_pressure(known(*[EVEN] * maps), strips_look(STATIONS, torn, PAD), PAD)
        assert found.unchanged < 0.5
        assert found.change.chance.argmax() == 0


def test_the_next_strip_s_chances_know_the_arm():
    """Where two strips of today pulled more than the press is known to, a third will too."""
    kept = known(EVEN, EVEN, EVEN)
    before = recall_pressure(kept, None, PAD).pull_chance(STATIONS[[5]])[0, 0]
    pulls = strips_look(STATIONS[[0, 8]], ["tears", "tears"], PAD)
    after = recall_pressure(kept, pulls, PAD).pull_chance(STATIONS[[5]])[0, 0]
    assert before.sum() == pytest.approx(1.0)
    assert after.sum() == pytest.approx(1.0)
    assert after[3] > 2 * before[3]


def test_another_arm_is_no_change_of_the_press():
    """A weaker arm lets the far side of a press with a fall tear, and the near side drag as before:
    whoever takes the arm for the same sees a side give way.
    """
    pressed = np.array([0.5, 1.5, 2.5] * 3)
    usual = pulls_at(pressed)
    weaker = pulls_at(PAD.compression_mm(PAD.pressure_kpa(pressed) * np.exp(STRIP_SD_SHARE)))
    assert (usual[:3], weaker[:3]) == (["drags", "holds", "holds"], ["drags", "holds", "tears"])
    looks = [strips_look(STATIONS, usual, PAD, 60.0 * number) for number in (1, 2, 3)]
    now, rates = strips_look(STATIONS, weaker, PAD), PressureRates()
    aware = recall_pressure(keep_pressure(looks, SIZE, rates), now, PAD)
    alike = [replace(look, arm_mm=None) for look in looks]
    unaware = recall_pressure(keep_pressure(alike, SIZE, rates), replace(now, arm_mm=None), PAD)
    assert aware.unchanged > 3 * unaware.unchanged
