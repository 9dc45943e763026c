"""An element that something happened to: as it was built, and what was added since."""

from dataclasses import replace

import numpy as np
import pytest

from tempermark.core.metrology.map import field_prior as prior
from tempermark.core.metrology.memory.changes import changes_of
from tempermark.core.metrology.memory.kept import keep
from tempermark.core.metrology.memory.looks import FoundChanges, Look, Rates, stacked
from tempermark.core.metrology.memory.recall import recall
from tempermark.core.metrology.memory.today import TodaysElement, as_built_covariance

SIZE, NOISE = (400.0, 500.0), 0.6
GRID = np.array([(x, y) for y in (30, 250, 470) for x in (24, 141, 259, 376)], float)
FEW = np.array([[28, 30], [372, 470], [28, 470], [372, 30], [145, 325], [255, 175]], float)
NOWHERE = np.zeros((0, 2)), np.zeros(0)


def changed(kind, rate=0.9, all_new=0.05):
    """What a look found: one kind, evenly."""
    these = np.array([name == kind for name in changes_of(SIZE).kind])
    return FoundChanges(rate * these / these.sum(), all_new)


def look(days_ago, place, change=None):
    return Look(np.array(place, float), np.zeros(len(place)), days_ago, NOISE, change=change)


@pytest.fixture(scope="module")
def element():
    """Three looks; the middle one found a corner."""
    places = [[24, 24], [200, 250]], [[40, 60], [376, 470]], [[24, 30], [300, 300], [100, 400]]
    found = changed("corner")
    looks = [look(10, places[0]), look(40, places[1], found), look(70, places[2])]
    return TodaysElement(SIZE, stacked(looks), changes_of(SIZE), Rates())


def test_it_is_what_was_built_and_the_change_on_top(element):
    """Against one big covariance of both, of which each reading and today are a sum."""
    rest = prior.smooth_rests()[0]
    now = np.array([[30.0, 30.0], [200.0, 200.0], [380.0, 480.0]])
    past = element.past.place_mm
    everywhere = np.vstack([now, past])
    built = as_built_covariance(rest, 2, SIZE, everywhere, everywhere)
    ((_, size, _),) = element.lasting
    course = element.changes.course(everywhere)
    added = (course * size) @ course.T
    # Today and the newer two looks have it, the oldest has not.
    has = np.concatenate([np.ones(len(now)), element.past.look <= 1])
    whole = built + added * np.outer(has, has)
    n = len(now)
    assert element.covariance(rest, 2, now, now) == pytest.approx(whole[:n, :n])
    assert element.with_past(rest, 2, now) == pytest.approx(whole[:n, n:])
    assert element.variance(rest, 2, now) == pytest.approx(whole[:n, :n].diagonal())
    newer = element.past.look <= 1
    assert element.changed_since_built()[np.ix_(newer, newer)] == pytest.approx(
        (added * np.outer(has, has))[n:, n:][np.ix_(newer, newer)]
    )


def test_where_all_was_new_the_looks_before_tell_little(element):
    found = element.changed_since_built()
    older = element.past.look == 2
    assert found[np.ix_(older, ~older)] == pytest.approx(0.0)
    share = 0.05 / 0.95
    assert found[older][:, older].diagonal().min() > share * prior.LEVEL_SPREAD_C**2


def test_without_a_change_nothing_is_added():
    plain = TodaysElement(
        SIZE, stacked([look(10, GRID), look(40, GRID)]), changes_of(SIZE), Rates()
    )
    assert plain.lasting == ()
    assert not plain.changed_since_built().any()


@pytest.mark.parametrize("kind", ["band", "corner"])
def test_after_a_fault_was_found_it_is_expected_with_honest_bounds(kind):
    """Its course is known from a few readings: what is expected elsewhere, were nothing new, misses
    by as much as is said. (Expected with the course of what was built it missed by more: the band's
    mean square was 1.7.)
    """
    rng = np.random.default_rng(6)
    squares = []
    for _ in range(5):
        fault = fallen(kind, rng)
        looks = [Look(GRID, NOISE * rng.standard_normal(len(GRID)), 30.4, NOISE)]
        found = fault(FEW) + NOISE * rng.standard_normal(len(FEW))
        change = recall(keep(looks, SIZE, Rates(new_chance=0.2)), FEW, found, NOISE).change
        assert change.any > 0.5
        newest = Look(FEW, found, 1.0, NOISE, change=change)
        now = keep([newest, *looks], SIZE, Rates(new_chance=1e-6))
        mean, spread = recall(now, *NOWHERE, NOISE).moments(GRID)
        squares.append(((fault(GRID) - mean) / spread) ** 2)
    assert np.mean(squares) < 1.3


def fallen(kind, rng):
    """A band or a corner that is 7 K colder, somewhere and of some width."""
    if kind == "corner":
        wide = rng.uniform(60, 100)
        return lambda at: -7.0 * np.exp(-0.5 * ((at / wide) ** 2).sum(axis=1))
    middle, wide = rng.uniform(60, 340), rng.uniform(40, 62)
    return lambda at: -7.0 * np.exp(-0.5 * ((at[:, 0] - middle) / wide) ** 2)


def test_what_is_known_of_its_kind_narrows_level_and_fall(element, monkeypatch):
    """As if the map's own prior were as narrow, everywhere that it is used."""
    alike = Rates(kind_level_c=2.0, kind_fall_c_per_100mm=0.5)
    narrow = replace(element, rates=alike)
    rest, now = prior.smooth_rests()[0], np.array([[30.0, 30.0], [380.0, 480.0]])
    rng = np.random.default_rng(4)
    looks = [
        Look(GRID, rng.normal(3.0, 1.0, len(GRID)), 40, NOISE),
        Look(FEW, rng.normal(3.0, 1.0, len(FEW)), 10, NOISE),
    ]

    def covariances(of):
        covariance, past = of.covariance(rest, 2, now, now), of.with_past(rest, 2, now)
        return covariance, past, of.variance(rest, 2, now)

    found, wide, narrowed = (
        keep(looks, SIZE, alike),
        keep(looks, SIZE, Rates()),
        covariances(narrow),
    )
    spread = prior.BASIS_SPREAD.copy()
    spread[:3] = 2.0, 0.5, 0.5
    monkeypatch.setattr(prior, "BASIS_SPREAD", spread)
    for one, other in zip(narrowed, covariances(element), strict=True):
        assert one == pytest.approx(other, abs=1e-6)
    same = keep(looks, SIZE, Rates())
    assert len(found.beliefs) == len(same.beliefs)
    for one, other in zip(found.beliefs, same.beliefs, strict=True):
        assert one.log_weight == pytest.approx(other.log_weight, abs=1e-6)
        assert one.mean_c == pytest.approx(other.mean_c, abs=1e-6)
        assert one.variance == pytest.approx(other.variance, abs=1e-6)
    assert found.beliefs[0].variance.max() < wide.beliefs[0].variance.max()
