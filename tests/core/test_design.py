"""Places chosen together: what they leave against a plain count, and against one after another."""

import numpy as np
import pytest

from tempermark.core.metrology.memory.changes import CORNER_REACH_MM, changes_of
from tempermark.core.metrology.memory.design import best_set, candidates, next_of_set
from tempermark.core.metrology.memory.kept import keep
from tempermark.core.metrology.memory.looks import Look, Rates
from tempermark.core.metrology.memory.recall import recall

SIZE = (400.0, 500.0)
NOISE = 0.5
GRID = np.array([(x, y) for y in (30, 140, 250, 360, 470) for x in (24, 112, 200, 288, 376)], float)


@pytest.fixture(scope="module")
def kept():
    rng = np.random.default_rng(4)
    look = Look(GRID, -2.0 + NOISE * rng.standard_normal(len(GRID)), 30.0, NOISE, "A", 0.5)
    return keep([look], SIZE, Rates(new_chance=0.2), "A", 0.5)


def recalled(kept, place, value):
    return recall(kept, np.array(place, float).reshape(-1, 2), np.array(value, float), NOISE)


@pytest.fixture(scope="module")
def none_read(kept):
    return recalled(kept, [], [])


def plain_left(of, numbers):
    """The chance left by the whole matrix at once."""
    inner = np.linalg.inv(of.covariance[np.ix_(numbers, numbers)])
    course = of.course[numbers]
    return float(of.left((course * (inner @ course)).sum(axis=0)))


def test_what_a_set_leaves_is_that_of_the_whole_matrix(none_read):
    of = candidates(none_read)
    chosen, left = best_set(of, 5)
    assert left == pytest.approx(plain_left(of, chosen), rel=1e-9)
    assert len(set(chosen.tolist())) == 5


def test_a_set_leaves_no_more_than_one_place_after_another(none_read):
    of = candidates(none_read)
    one_by_one: list[int] = []
    for _ in range(6):
        left = [
            plain_left(of, [*one_by_one, n]) if n not in one_by_one else np.inf
            for n in range(len(of.place_mm))
        ]
        one_by_one.append(int(np.argmin(left)))
    _, left = best_set(of, 6)
    assert left <= plain_left(of, one_by_one) + 1e-12


def test_no_single_exchange_makes_a_set_better(none_read):
    of = candidates(none_read)
    chosen, left = best_set(of, 4)
    for slot in range(4):
        for number in range(len(of.place_mm)):
            if number not in chosen:
                other = chosen.copy()
                other[slot] = number
                assert plain_left(of, other) >= left * 0.995


def test_candidates_know_what_was_read(kept):
    """Their covariance after readings is that of all candidates given them."""
    first = candidates(recalled(kept, [], []))
    at = 40
    read = first.place_mm[at]
    then = candidates(recalled(kept, [read], [-2.0]))
    near = np.hypot(*(then.place_mm - read).T)
    before = first.covariance.diagonal()[np.isin(first.number, then.number)]
    assert (then.covariance.diagonal() <= before + 1e-9).all()
    assert near.min() > 0
    cross = np.delete(first.covariance[:, at], at)
    expected = np.delete(first.covariance.diagonal(), at) - cross**2 / first.covariance[at, at]
    shared = np.isin(np.delete(first.number, at), then.number)
    assert then.covariance.diagonal() == pytest.approx(expected[shared], rel=0.02)


def test_six_places_look_into_every_corner(none_read):
    of = candidates(none_read)
    chosen, _ = best_set(of, 6)
    changes = changes_of(SIZE)
    course = changes.course(of.place_mm[chosen])
    wide = (np.array(changes.kind) == "corner") & (changes.width_mm == max(CORNER_REACH_MM))
    assert wide.sum() == 8
    assert (course[:, wide].max(axis=0) > 0.5).all()


def test_of_places_about_as_good_the_verdict_chooses(none_read):
    of = candidates(none_read)
    plain = next_of_set(of, 6, np.zeros(len(none_read.kept.place_mm)))
    warm = next_of_set(of, 6, none_read.kept.place_mm[:, 0] * 1.0)
    assert 0 < plain[0] < SIZE[0]
    assert warm[0] >= plain[0]


def test_a_corner_that_nobody_looked_at_is_worth_a_reading(kept):
    """Three corners and the middle are read: what is expected of the fourth is its own chance."""
    read = [[30.0, 30.0], [370.0, 30.0], [30.0, 470.0], [150.0, 300.0], [250.0, 180.0]]
    three = candidates(recalled(kept, read, [-2.0] * 5))
    four = candidates(recalled(kept, [*read, [370.0, 470.0]], [-2.0] * 6))
    new_chance = kept.rates.new_chance
    kinds = np.array(kept.changes.kind)
    there = (kinds == "corner") & (kept.changes.at_mm == [400.0, 500.0]).all(axis=1)
    corner = float(three.chance[there].sum()) / new_chance
    assert corner > 0.04
    assert three.worth(new_chance) == pytest.approx(corner, rel=0.4)
    assert four.worth(new_chance) < 0.5 * three.worth(new_chance)
