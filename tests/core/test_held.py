"""What is held of a set of places is what would be computed, and no more than a few sets."""

from dataclasses import replace

import numpy as np
import pytest

from tempermark.core.metrology.memory.changes import changes_of
from tempermark.core.metrology.memory.held import MOST_HELD, MOST_PLACES, held

SIZE = (400.0, 500.0)


@pytest.fixture
def counted():
    """A function of places, and the sizes it was computed for."""
    computed = []

    @held
    def sums(size_mm, place_mm):
        computed.append(size_mm)
        return place_mm.sum(axis=1)

    return sums, computed


def places(count, first=0.0):
    return first + np.arange(2.0 * count).reshape(-1, 2)


def test_the_same_places_are_computed_once(counted):
    sums, computed = counted
    for _ in range(3):
        # Every second row of a longer table: other memory, the same places.
        assert (sums(SIZE, np.repeat(places(4), 2, axis=0)[::2]) == [1, 5, 9, 13]).all()
    assert computed == [SIZE]


def test_other_places_and_other_sizes_are_others(counted):
    sums, computed = counted
    sums(SIZE, places(4))
    assert (sums(SIZE, places(4, first=1.0)) == [3, 7, 11, 15]).all()
    sums((300.0, 300.0), places(4))
    assert len(computed) == 3


def test_two_sets_of_places_are_held_together():
    computed = []

    @held
    def apart(of, a_mm, b_mm):
        computed.append(of)
        return np.abs(a_mm[:, None] - b_mm).sum(axis=2)

    for _ in range(2):
        assert apart(1.0, places(2), places(2, first=3.0)).tolist() == [[6, 10], [2, 6]]
        assert apart(1.0, places(2, first=3.0), places(2)).tolist() == [[6, 2], [10, 6]]
    assert computed == [1.0, 1.0]
    for _ in range(2):
        apart(1.0, places(2), places(MOST_PLACES + 1))
    assert len(computed) == 4


def test_nobody_writes_to_what_is_held(counted):
    sums, _ = counted
    with pytest.raises(ValueError, match="read-only"):
        sums(SIZE, places(4))[0] = 7.0


def test_a_map_s_many_cells_and_old_sets_are_not_held(counted):
    sums, computed = counted
    for _ in range(2):
        sums(SIZE, places(MOST_PLACES + 1))
    assert len(computed) == 2
    for first in [*range(MOST_HELD + 1), 0]:
        sums(SIZE, places(2, first=float(first)))
    assert len(computed) == 2 + MOST_HELD + 2


def test_a_change_s_course_is_the_same_held_or_not():
    place = np.random.default_rng(3).uniform(0, 400, (MOST_PLACES + 50, 2))
    changes = changes_of(SIZE)
    whole = changes.course(place)
    assert (changes.course(place[:50]) == whole[:50]).all()
    assert (changes.course(place[:50]) == whole[:50]).all()


def test_other_changes_of_the_same_size_have_their_own_course():
    changes = changes_of(SIZE)
    wider = replace(changes, width_mm=2 * changes.width_mm)
    place = places(20)
    bands = [number for number, kind in enumerate(changes.kind) if kind.startswith("band")]
    assert (wider.course(place)[:, bands] >= changes.course(place)[:, bands]).all()
    assert (wider.course(place) != changes.course(place)).any()
