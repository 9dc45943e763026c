"""A closed press that is known: beliefs against the plain joint normal, changes found and named."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import multivariate_normal

from benchmarks import pressure_histories
from tempermark.core.metrology.map.censored import bounded_normal
from tempermark.core.metrology.memory.learning import SurveyStep
from tempermark.core.metrology.memory.looks import FoundChanges
from tempermark.core.pressure.map.field import MEAN_MM
from tempermark.core.pressure.memory.changes import pressure_changes
from tempermark.core.pressure.memory.imagined import imagine_closings
from tempermark.core.pressure.memory.learning import FoundClosing, learned_pressure, with_kind
from tempermark.core.pressure.memory.looks import (
    MOST_ARM,
    PressureLook,
    PressureRates,
    Sites,
    arm_mm,
    bounds_of,
    covariance_mm2,
    strips_look,
    today,
)
from tempermark.core.pressure.memory.recall import (
    element_mm2,
    keep_pressure,
    recall_pressure,
    resolved,
)
from tempermark.core.pressure.memory.steps import look_on_strips, strips_of_known
from tempermark.core.pressure.memory.unfound import unfound_by
from tempermark.core.pressure.press.hand import STRIP_SD_SHARE
from tempermark.core.pressure.press.spring import SpringPad

SIZE = (400.0, 500.0)
PAD = SpringPad(8.0, 48.0)
SHARE = np.array([0.06, 0.5, 0.94])
STATIONS = np.array([(x * SIZE[0], y * SIZE[1]) for y in SHARE for x in SHARE])
EVEN = ["holds"] * 9
LEFT_OFF = ["free", "drags", "holds"] * 3


def pulls_at(compression_mm):
    """How strips behave at compressions (n,) in mm."""
    names, bounds = ["free", "drags", "holds", "tears"], [2.0, 15.0, 70.0]
    kpa = PAD.pressure_kpa(np.maximum(compression_mm, 0.0))
    return [names[step] for step in np.searchsorted(bounds, kpa, side="right")]


def known(*maps, months=2.0, change=None):
    """What whole maps tell, the newest first, so many months apart."""
    looks = [
        strips_look(STATIONS, pulls, PAD, 30.44 * months * (number + 1))
        for number, pulls in enumerate(maps)
    ]
    looks[0] = replace(looks[0], change=change)
    return keep_pressure(looks, SIZE, PressureRates())


@settings(max_examples=20)
@given(seed=st.integers(0, 10_000))
def test_the_chance_of_bounds_is_that_of_the_normal_between_them(seed):
    rng = np.random.default_rng(seed)
    root = rng.standard_normal((3, 3))
    covariance, mean = root @ root.T + 0.3 * np.eye(3), rng.standard_normal(3)
    low = mean + rng.uniform(-2.0, 0.5, 3)
    high = low + rng.uniform(0.5, 3.0, 3)
    found = bounded_normal(mean, covariance, low, high, 0.4)
    whole = multivariate_normal(mean, covariance + 0.16 * np.eye(3))
    exact = whole.cdf(high, lower_limit=low)
    assert found.log_chance == pytest.approx(np.log(exact), abs=0.05)


def test_the_chance_of_figures_is_their_density():
    covariance, mean = np.array([[1.0, 0.4], [0.4, 2.0]]), np.array([0.5, -0.2])
    seen = np.array([0.9, 0.4])
    found = bounded_normal(mean, covariance, seen, seen, 0.3)
    density = multivariate_normal(mean, covariance + 0.09 * np.eye(2)).logpdf(seen)
    assert found.log_chance == pytest.approx(density + np.log(2 * np.pi), abs=1e-6)


def test_several_vectors_at_once_are_each_alone():
    rng = np.random.default_rng(5)
    means = rng.standard_normal((4, 3))
    covariances = np.array([np.eye(3) * scale + 0.2 for scale in (0.5, 1.0, 2.0, 4.0)])
    low, high = np.array([-1.0, 0.2, -np.inf]), np.array([0.5, np.inf, 0.0])
    together = bounded_normal(means, covariances, low, high, 0.2, 1e-9)
    for number in range(4):
        alone = bounded_normal(means[number], covariances[number], low, high, 0.2, 1e-9)
        assert together.mean[number] == pytest.approx(alone.mean, abs=1e-6)
        assert together.log_chance[number] == pytest.approx(float(alone.log_chance), abs=1e-6)


def test_unchanged_is_the_joint_normal_conditioned_on_everything_at_once():
    rng = np.random.default_rng(3)
    sd = np.full(9, 0.15)
    figures = [1.5 + 0.3 * rng.standard_normal(9) for _ in range(2)]
    looks = [
        PressureLook(STATIONS, value, value, sd, days, pinch_mm=pinch)
        for value, days, pinch in zip(figures, (60.0, 120.0), (0.0, 0.8), strict=True)
    ]
    rates = PressureRates()
    now = PressureLook(STATIONS[:3], np.full(3, 1.2), np.full(3, 1.2), sd[:3], 0.0)
    recalled = recall_pressure(keep_pressure(looks, SIZE, rates), now, PAD)
    there = np.array([[120.0, 333.0], [390.0, 10.0]])
    mean, covariance = (part[0] for part in recalled._under(there))

    past = bounds_of(tuple(looks)).sites
    both = Sites(
        np.vstack([there, STATIONS[:3], past.place_mm]),
        np.concatenate([np.full(5, -1), past.look]),
        np.concatenate([np.zeros(5), past.days_ago]),
        np.concatenate([np.zeros(5), past.pinch_mm]),
        np.zeros(5 + len(past.look)),
        np.ones(5 + len(past.look)),
    )
    whole = covariance_mm2(both, both, SIZE, rates)
    expected = both.expected_mm(SIZE, MEAN_MM)
    seen = np.concatenate([np.full(3, 1.2), *figures])
    inner = whole[2:, 2:] + 0.15**2 * np.eye(len(seen))
    gain = whole[:2, 2:] @ np.linalg.inv(inner)
    assert mean == pytest.approx(expected[:2] + gain @ (seen - expected[2:]), abs=1e-6)
    assert covariance == pytest.approx(whole[:2, :2] - gain @ whole[:2, 2:].T, abs=1e-6)


def test_before_the_first_strip_the_chances_are_the_rates():
    chance = recall_pressure(known(EVEN), None, PAD).weight
    assert chance.sum() == pytest.approx(1.0)
    assert chance[0] == pytest.approx(1 - PressureRates().new_chance)


def test_what_a_short_map_could_not_rule_out_may_still_be_there():
    """The left dragged at the last map, in two strips: too few for it to say so."""
    short = replace(strips_look(STATIONS[[0, 3, 5]], ["drags", "drags", "tears"], PAD, 60.0))
    whole = [strips_look(STATIONS, EVEN, PAD, 60.0 * number) for number in (2, 3)]
    found = recall_pressure(keep_pressure([short, *whole], SIZE, PressureRates()), None, PAD)
    assert found.weight.sum() == pytest.approx(1.0)
    left, right = found.change.chance[:2]
    assert left > 5 * right
    assert found.change.since[1] > 0.5
    assert found.unchanged < 1 - PressureRates().new_chance


def test_what_no_map_found_is_the_joint_normal_with_it_in_those_after():
    """Chances, expectation and strength against all written out in one vector, with figures."""
    rng, sd = np.random.default_rng(11), np.full(9, 0.15)
    figures = [1.5 + 0.4 * rng.standard_normal(9) for _ in range(3)]
    looks = [
        PressureLook(STATIONS, value, value, sd, 60.0 * (number + 1))
        for number, value in enumerate(figures)
    ]
    rates, changes, new = PressureRates(), pressure_changes(), np.full(4, 1.1)
    kept = keep_pressure(looks, SIZE, rates)
    now = PressureLook(STATIONS[:4], new, new, sd[:4], 0.0)
    recalled = recall_pressure(kept, now, PAD)
    there = np.array([[120.0, 333.0], [390.0, 10.0]])
    means, covariances = recalled._under(there)
    past, seen = bounds_of(tuple(looks)).sites, np.concatenate([new, *figures])
    both = Sites(
        np.vstack([there, STATIONS[:4], past.place_mm]),
        np.concatenate([np.full(6, -1), past.look]),
        np.concatenate([np.zeros(6), past.days_ago]),
        np.zeros(6 + len(past.look)),
        np.zeros(6 + len(past.look)),
        np.ones(6 + len(past.look)),
    )
    base = covariance_mm2(both, both, SIZE, rates)
    course = changes.course(both.place_mm, SIZE)
    log_density, of = [], kept.unfound
    for number, change, look in zip(range(len(of.number)), of.number, of.look, strict=True):
        lift = course[:, change] * (both.look <= look) * (change >= 0)
        whole = base + changes.spread_mm[change] ** 2 * np.outer(lift, lift)
        expected = MEAN_MM + changes.mean_mm[change] * lift
        inner = whole[2:, 2:] + 0.15**2 * np.eye(len(seen))
        gain = whole[:2, 2:] @ np.linalg.inv(inner)
        missed = seen - expected[2:]
        assert means[number] == pytest.approx(expected[:2] + gain @ missed, abs=1e-6)
        told = whole[:2, :2] - gain @ whole[:2, 2:].T
        assert covariances[number] == pytest.approx(told, abs=1e-6)
        density = multivariate_normal(expected[2:], inner).logpdf(seen)
        share = changes.chance[change] if change >= 0 else 1.0
        log_density.append(density + np.log(share))
    share = np.exp(np.array(log_density[1:]) - np.logaddexp.reduce(log_density[1:]))
    weight = recalled.weight[1 : len(of.number)]
    assert weight / weight.sum() == pytest.approx(share, abs=1e-6)


def test_the_strength_of_what_no_map_found_is_the_joint_normal_s():
    """A change with itself as one more part of the vector."""
    sd, value = np.full(9, 0.15), 1.5 + 0.3 * np.random.default_rng(2).standard_normal(9)
    lately = value + 1.2 * pressure_changes().course(STATIONS, SIZE)[:, 0]
    looks = [
        PressureLook(STATIONS, of, of, sd, days) for of, days in ((lately, 60.0), (value, 120.0))
    ]
    rates, changes, new = PressureRates(), pressure_changes(), np.full(4, 1.1)
    kept = keep_pressure(looks, SIZE, rates)
    now = PressureLook(STATIONS[:4], new, new, sd[:4], 0.0)
    recalled = recall_pressure(kept, now, PAD)
    before, carried = kept.strength(today(STATIONS[:4]))
    number = 1 + int(np.exp(kept.log_chance[1:]).argmax())
    strength = (
        before[number] + carried[number] @ recalled.inverse[number] @ (recalled.missed_mm[number])
    )
    change, look = kept.unfound.number[number], kept.unfound.look[number]
    past = bounds_of(tuple(looks)).sites
    both = Sites(
        np.vstack([STATIONS[:4], past.place_mm]),
        np.concatenate([np.full(4, -1), past.look]),
        np.concatenate([np.zeros(4), past.days_ago]),
        np.zeros(4 + len(past.look)),
        np.zeros(4 + len(past.look)),
        np.ones(4 + len(past.look)),
    )
    lift = changes.course(both.place_mm, SIZE)[:, change] * (both.look <= look)
    variance = changes.spread_mm[change] ** 2
    whole = covariance_mm2(both, both, SIZE, rates) + variance * np.outer(lift, lift)
    whole += 0.15**2 * np.eye(len(lift))
    missed = np.concatenate([new, lately, value]) - MEAN_MM - changes.mean_mm[change] * lift
    exact = changes.mean_mm[change] + variance * lift @ np.linalg.solve(whole, missed)
    assert strength == pytest.approx(exact, abs=1e-6)


def test_several_that_were_missed_count_as_one_of_them():
    """Where nothing tells of any, all together are as likely as that anything has happened."""
    looks = tuple(strips_look(STATIONS, EVEN, PAD, 60.0 * number) for number in (1, 2, 3))
    of = unfound_by(looks)
    none = of.log_chance(np.zeros(len(of.number)), 0.2)
    assert np.exp(none).sum() == pytest.approx(1.0)
    odds, share = 0.25, 2 * 0.95
    assert np.exp(none[0]) == pytest.approx(np.exp(-share * odds))
    # Much evidence for one adds no others.
    for_one = np.zeros(len(of.number))
    for_one[4] = 20.0
    told = of.log_chance(for_one, 0.2)
    most = np.expm1(2 * odds) / (2 * odds)
    alone = np.log(pressure_changes().chance[of.number[4]] * odds) + 20.0
    assert told[4] - told[0] == pytest.approx(alone + np.log(most))
    assert len(unfound_by(looks[:1]).number) == 1
    found = replace(looks[1], change=FoundChanges(np.full(17, 0.05), 0.0))
    assert set(unfound_by((looks[0], found, looks[2])).look) == {-1, 0}


def test_a_press_that_pulls_as_before_is_known_by_fewer_strips():
    standing, read = strips_of_known(known(EVEN, EVEN, EVEN), STATIONS, EVEN, PAD)
    assert 4 <= len(read) <= 6
    assert standing.is_enough
    assert standing.recalled.unchanged > 0.85
    assert standing.pull.verdict == "pass"


def test_a_press_that_failed_and_is_as_before_fails_again():
    standing, read = strips_of_known(known(LEFT_OFF, LEFT_OFF), STATIONS, LEFT_OFF, PAD)
    assert len(read) < 9
    assert standing.recalled.unchanged > 0.5
    assert (standing.pull.verdict, standing.pull.weak_side) == ("fail", "left")


@pytest.mark.parametrize("side", [0, 1, 2, 3])
def test_a_side_that_gave_way_is_found_and_named(side):
    changes = pressure_changes()
    lifted = 2.6 * changes.course(STATIONS, SIZE)[:, side]
    standing, read = strips_of_known(known(EVEN, EVEN), STATIONS, pulls_at(1.6 + lifted), PAD)
    assert standing.recalled.unchanged < 0.5
    assert len(read) == 9
    assert standing.recalled.change.chance.argmax() == side
    assert standing.recalled.strength_mm[side] == pytest.approx(2.6, abs=0.9)
    assert standing.pull.verdict == "fail"


def test_a_corner_that_gave_way_is_found():
    course = pressure_changes().course(STATIONS, SIZE)
    kinds = pressure_changes().kind
    number = kinds.index("corner")
    standing, _ = strips_of_known(
        known(EVEN, EVEN, EVEN), STATIONS, pulls_at(1.6 + 2.0 * course[:, number]), PAD
    )
    assert standing.recalled.unchanged < 0.5
    assert standing.recalled.change.chance.argmax() == number


def test_another_pad_is_all_new():
    steep = ["free", "holds", "tears"] * 3
    mirrored = ["tears", "holds", "free"] * 3
    standing, _ = strips_of_known(known(steep, steep, steep), STATIONS, mirrored, PAD)
    change = standing.recalled.change
    assert standing.recalled.unchanged < 0.05
    assert change.any > 0.95
    found = replace(strips_look(STATIONS, mirrored, PAD, 60.0), change=change)
    if change.all_new >= 0.5:
        kept = keep_pressure(
            [found, strips_look(STATIONS, steep, PAD, 120.0)], SIZE, PressureRates()
        )
        assert kept.looks == (found,)


def test_a_map_that_disagreed_is_never_averaged_away():
    """After a side gave way the maps before it no longer hold the new one up."""
    kinds = len(pressure_changes().kind)
    left = np.zeros(kinds)
    left[0] = 0.95
    change = FoundChanges(left, 0.0)
    noted = resolved(recall_pressure(known(LEFT_OFF, EVEN, EVEN, EVEN, change=change), None, PAD))
    unnoted = resolved(recall_pressure(known(LEFT_OFF, EVEN, EVEN, EVEN), None, PAD))
    # As if all of the maps had been made since.
    since = resolved(recall_pressure(known(*[LEFT_OFF] * 3), None, PAD))
    # As if nothing could have come unfound: then all four are one press.
    kept = known(LEFT_OFF, EVEN, EVEN, EVEN)
    first = np.arange(len(kept.log_chance)) == 0
    alone = replace(
        kept,
        unfound=kept.unfound.some(first),
        log_chance=np.zeros(1),
        inverse=kept.inverse[first],
        pull=kept.pull[first],
    )
    averaged = resolved(recall_pressure(alone, None, PAD))
    off = abs(averaged.right_mm - since.right_mm)
    for found in (noted, unnoted):
        assert abs(found.right_mm - since.right_mm) < 0.5 * off
        assert abs(found.right_mm - since.right_mm) < found.right_sd_mm
        assert found.right_sd_mm > averaged.right_sd_mm


def test_a_found_change_is_in_its_map_and_in_what_follows():
    """One variance more where both sites are of that map or later, none where one is older."""
    changes, rates = pressure_changes(), PressureRates()
    chance = np.zeros(len(changes.kind))
    chance[3] = 0.9
    looks = [strips_look(STATIONS, EVEN, PAD, 60.0 * number) for number in (1, 2, 3)]
    looks[1] = replace(looks[1], change=FoundChanges(chance, 0.0))
    sites = bounds_of(tuple(looks)).sites
    added = element_mm2(tuple(looks), sites, sites, SIZE, rates)
    added = added - covariance_mm2(sites, sites, SIZE, rates)
    course = sites.course(SIZE)[:, 3] * (sites.look <= 1)
    variance = 0.9 * (changes.mean_mm[3] ** 2 + changes.spread_mm[3] ** 2)
    assert added == pytest.approx(variance * np.outer(course, course))
    here = today(STATIONS)
    added = element_mm2(tuple(looks), here, sites, SIZE, rates)
    added = added - covariance_mm2(here, sites, SIZE, rates)
    assert added == pytest.approx(variance * np.outer(changes.course(STATIONS, SIZE)[:, 3], course))


def test_a_change_that_was_found_late_is_in_the_maps_since_it_came():
    """By the shares of when it came; a covariance still, whatever they are."""
    changes, rates = pressure_changes(), PressureRates()
    chance = np.zeros(len(changes.kind))
    chance[3] = 0.9
    looks = [strips_look(STATIONS[:2], EVEN[:2], PAD, 60.0 * number) for number in (1, 2, 3, 4)]
    looks[1] = replace(looks[1], change=FoundChanges(chance, 0.0, (0.25, 0.75)))
    sites = bounds_of(tuple(looks)).sites
    added = element_mm2(tuple(looks), sites, sites, SIZE, rates)
    added = added - covariance_mm2(sites, sites, SIZE, rates)
    course = sites.course(SIZE)[:, 3]
    variance = 0.9 * (changes.mean_mm[3] ** 2 + changes.spread_mm[3] ** 2)
    first, second = course * (sites.look <= 1), course * (sites.look <= 2)
    expected = 0.25 * np.outer(first, first) + 0.75 * np.outer(second, second)
    assert added == pytest.approx(variance * expected)


def test_older_maps_count_less():
    fresh = recall_pressure(known(LEFT_OFF, months=1), None, PAD).plane[1]
    old = recall_pressure(known(LEFT_OFF, months=48), None, PAD).plane[1]
    assert (old[1:] > fresh[1:]).all()


def test_another_stack_in_a_hinged_press_is_no_change_of_it():
    """Three millimetres more pinch the back; what was seen then is carried to today's stack."""
    back_tears = ["drags"] * 3 + ["holds"] * 3 + ["tears"] * 3
    look = strips_look(STATIONS, back_tears, PAD, 30.0)
    even = strips_look(STATIONS, EVEN, PAD)
    unaware = recall_pressure(keep_pressure([look], SIZE, PressureRates()), even, PAD)
    aware = keep_pressure([replace(look, pinch_mm=2.0)], SIZE, PressureRates())
    assert recall_pressure(aware, even, PAD).unchanged > unaware.unchanged


def test_a_map_of_a_known_press_covers_its_platen():
    standing = look_on_strips(known(LEFT_OFF, LEFT_OFF), STATIONS, {0: "free", 8: "holds"}, PAD)
    found = resolved(standing.recalled)
    assert found.right_mm > 1.0
    assert found.map.compression_mm.shape == found.map.sd_mm.shape
    assert found.map.sd_mm.min() > 0
    some = found.map.grid.places_mm[::97]
    mean, covariance = standing.recalled.moments(some)
    assert found.map.compression_mm.ravel()[::97] == pytest.approx(mean, abs=0.01)
    assert found.map.sd_mm.ravel()[::97] == pytest.approx(np.sqrt(covariance.diagonal()), rel=0.02)


def test_nothing_is_remembered_of_nothing():
    with pytest.raises(ValueError, match="nothing to remember"):
        keep_pressure([], SIZE, PressureRates())


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


@given(
    closings=st.lists(st.tuples(st.floats(0, 5), st.floats(-3, 3), st.floats(0, 1)), max_size=12)
)
def test_a_kind_is_no_wider_than_without_any(closings):
    found = [FoundClosing(level, (fall, -fall), (sd, sd)) for level, fall, sd in closings]
    rates, start = with_kind(PressureRates(), found), PressureRates()
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


def test_imagined_presses_keep_what_has_happened():
    rng = np.random.default_rng(1)
    for _ in range(20):
        closings = imagine_closings(STATIONS, SIZE, 6, rng)
        assert len(closings) == 6
        assert closings[0].new is None
        for closing in closings:
            undone = closing.without_new().compression_mm
            assert (closing.new is None) == bool(np.allclose(undone, closing.compression_mm))
            assert set(closing.pulls(PAD, rng)) <= {"free", "drags", "holds", "tears"}


def test_fewer_strips_say_as_much_as_nine():
    """On imagined histories: of a known press, against its own nine strips."""
    rows = pressure_histories.simulate(24, pressure_histories.FIRST_SEED)
    later = rows["number"] > 0
    same = later & (rows["new_mm"] == 0)
    assert rows["strips"][same].mean() < 6.5
    right, whole = (rows[name][later] == rows["truth"][later] for name in ("known", "whole"))
    # Two standard errors of 120 pairs, of which one in five differs.
    assert right.mean() >= whole.mean() - 0.08
    never = later & (rows["ever"] == 0)
    assert (rows["unchanged"][never] < 0.5).mean() < 0.1
