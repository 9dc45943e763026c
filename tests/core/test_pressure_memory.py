"""A closed press that is known: beliefs against the plain joint normal, changes found and named."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import multivariate_normal

from benchmarks import pressure_histories
from tempermark.core.metrology.map.censored import bounded_normal
from tempermark.core.metrology.memory.looks import FoundChanges
from tempermark.core.pressure.map.field import MEAN_MM
from tempermark.core.pressure.memory.changes import pressure_changes
from tempermark.core.pressure.memory.imagined import imagine_closings
from tempermark.core.pressure.memory.kept import (
    element_mm2,
    keep_pressure,
    packed_pressure,
    unpacked_pressure,
)
from tempermark.core.pressure.memory.looks import (
    PressureLook,
    PressureRates,
    Sites,
    bounds_of,
    covariance_mm2,
    strips_look,
    today,
)
from tempermark.core.pressure.memory.recall import recall_pressure, resolved
from tempermark.core.pressure.memory.steps import look_on_strips, strips_of_known
from tempermark.core.pressure.memory.unfound import unfound_by
from tests.support.strips import EVEN, LEFT_OFF, PAD, SIZE, STATIONS, known, pulls_at


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


@pytest.mark.parametrize("all_new", [0.0, 0.9])
def test_what_is_kept_is_the_same_from_its_arrays(all_new):
    """Packed and unpacked, with changes that no map found, and where the maps before are of another
    pad.
    """
    looks = list(known(LEFT_OFF, EVEN, EVEN).looks)
    kinds = len(pressure_changes().kind)
    looks[1] = replace(looks[1], change=FoundChanges(np.zeros(kinds), all_new))
    first = keep_pressure(looks, SIZE, PressureRates())
    assert len(first.unfound.number) > 1
    arrays = packed_pressure(first)
    again = unpacked_pressure(arrays, looks[::-1], SIZE, PressureRates())
    now = strips_look(STATIONS[[0, 4]], ["drags", "holds"], PAD)
    one, other = (recall_pressure(kept, now, PAD) for kept in (first, again))
    assert (one.weight == other.weight).all()
    for a, b in zip(one.moments(STATIONS), other.moments(STATIONS), strict=True):
        assert (a == b).all()
    for missing in arrays:
        with pytest.raises(KeyError):
            unpacked_pressure(
                {name: of for name, of in arrays.items() if name != missing},
                looks,
                SIZE,
                PressureRates(),
            )


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
