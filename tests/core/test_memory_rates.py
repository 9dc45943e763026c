"""How far presses move, how often something happens, and what presses of a kind teach."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tempermark.core.metrology.map import field_prior as prior
from tempermark.core.metrology.map.field import condition_all
from tempermark.core.metrology.map.field_members import Observations, stable_cholesky
from tempermark.core.metrology.memory.kept import conditioned, keep
from tempermark.core.metrology.memory.learning import (
    LEAST_FALL_C_PER_100MM,
    LEAST_LEVEL_C,
    LEVEL_RANGE_C,
    NEW_RANGE,
    FoundShape,
    SurveyStep,
    learned,
    rest_chances,
    unevenness,
    with_kind,
)
from tempermark.core.metrology.memory.looks import Rates
from tempermark.core.metrology.memory.recall import recall
from tests.support.looks import NOISE, SIZE, grid, looks, shape

USUAL_REST = tuple(chance for _, chance in prior.AMPLITUDES_C)
NO_EVIDENCE = (0.0,) * len(USUAL_REST)


@given(
    st.lists(st.tuples(st.floats(0.6, 400), st.floats(-8, 8), st.floats(0, 2)), max_size=12),
    st.integers(0, 30),
    st.integers(0, 30),
)
@settings(deadline=None, max_examples=60)
def test_rates_stay_in_their_range(rows, new, more):
    steps = [SurveyStep(*row) for row in rows]
    rates = learned(steps, steps, new, new + more)
    assert LEVEL_RANGE_C[0] <= rates.level_c <= LEVEL_RANGE_C[1]
    assert NEW_RANGE[0] <= rates.new_chance <= NEW_RANGE[1]


def test_how_far_presses_of_a_kind_differ_is_learned_with_their_number():
    rng = np.random.default_rng(8)

    def shapes(count):
        level = np.hypot(2.0, 0.5) * rng.standard_normal(count)
        fall = np.hypot(0.4, 0.2) * rng.standard_normal((count, 2))
        return [
            FoundShape(one, 0.5, tuple(f), 0.2, NO_EVIDENCE)
            for one, f in zip(level, fall, strict=True)
        ]

    assert with_kind(Rates(), []) == Rates()
    many = with_kind(Rates(), shapes(2000))
    assert many.kind_level_c == pytest.approx(2.0, rel=0.1)
    assert many.kind_fall_c_per_100mm == pytest.approx(0.4, rel=0.1)
    # Of a few presses the limit holds as often as is said.
    few = [with_kind(Rates(), shapes(5)).kind_level_c for _ in range(400)]
    assert np.mean(np.array(few) > 2.0) == pytest.approx(0.95, abs=0.04)
    assert np.median(few) > 3.0


@given(
    st.lists(
        st.tuples(*[st.floats(-60, 60), st.floats(0, 5), st.floats(-9, 9), st.floats(0, 3)]),
        max_size=9,
    )
)
def test_what_is_learned_of_a_kind_stays_in_its_range(rows):
    shapes = [FoundShape(level, u, (fall, -fall), v, NO_EVIDENCE) for level, u, fall, v in rows]
    rates = with_kind(Rates(), shapes)
    assert LEAST_LEVEL_C <= rates.kind_level_c <= Rates().kind_level_c
    assert LEAST_FALL_C_PER_100MM <= rates.kind_fall_c_per_100mm <= Rates().kind_fall_c_per_100mm


def test_the_evidence_of_each_unevenness_is_that_of_the_map_together():
    place = grid(4)
    value = shape(place) + NOISE * np.random.default_rng(2).standard_normal(len(place))
    found = np.array(unevenness(place, value, NOISE, SIZE))
    whole = condition_all(
        Observations(place, value, np.ones(len(place))),
        NOISE,
        prior.close_faults(*SIZE),
        np.array(SIZE),
    )
    together = np.logaddexp.reduce(np.concatenate([logs for _, logs in whole]))
    assert np.logaddexp.reduce(found + np.log(USUAL_REST)) == pytest.approx(together)


def test_of_a_map_of_many_readings_some_tell_how_uneven_it_is():
    """The same ones each time, in little time."""
    place = grid(40)
    value = shape(place) + NOISE * np.random.default_rng(2).standard_normal(len(place))
    found = unevenness(place, value, NOISE, SIZE)
    some = np.random.default_rng(0).permutation(1600)[:64]
    assert found == unevenness(place, value, NOISE, SIZE)
    assert found == pytest.approx(unevenness(place[some], value[some], NOISE, SIZE))


def test_uneven_presses_are_told_from_even_ones():
    """Of each twenty, with a rest of 3 K and with next to none."""
    rng, place = np.random.default_rng(12), grid()
    for amplitude_c, (likeliest, least) in ((3.0, (3, 0)), (0.1, (0, 3))):
        root = stable_cholesky(prior.matern(place, place, prior.LENGTHS_MM[0]))
        rests = amplitude_c * rng.standard_normal((20, len(place))) @ root.T
        values = rests + NOISE * rng.standard_normal(rests.shape)
        chance = rest_chances([unevenness(place, one, NOISE, SIZE) for one in values])
        assert chance[likeliest] > 1.5 * USUAL_REST[likeliest]
        assert chance[least] < 0.6 * USUAL_REST[least]


def test_how_uneven_presses_of_a_kind_are_is_learned_with_their_number():
    """Where each shows its own beyond doubt, chances are their counts and the usual eight."""
    rng, truth = np.random.default_rng(3), (0.1, 0.2, 0.3, 0.4)
    of_each = rng.choice(4, 2000, p=truth)
    shown = [tuple(np.where(np.arange(4) == one, 0.0, -80.0)) for one in of_each]
    counted = np.bincount(of_each, minlength=4)
    exact = (counted + 8.0 * np.array(USUAL_REST)) / 2008
    assert rest_chances(shown) == pytest.approx(exact, abs=1e-9)
    assert rest_chances([]) == USUAL_REST
    assert rest_chances([NO_EVIDENCE] * 5) == pytest.approx(USUAL_REST)


@given(st.lists(st.tuples(*[st.floats(-300, 300)] * 4), max_size=9))
def test_chances_of_unevenness_are_chances(evidence):
    found = np.array(rest_chances(evidence))
    assert found.sum() == pytest.approx(1.0)
    assert (found >= 8.0 / (8.0 + len(evidence)) * np.array(USUAL_REST) - 1e-12).all()


def test_what_is_believed_of_a_press_follows_its_kind():
    """As far as its own readings leave it open; the evidence of each is exactly as much more."""
    even = replace(Rates(), rest_chance=(0.85, 0.1, 0.03, 0.02))
    usual, known = (conditioned(looks(1), SIZE, rates, "A", 0.0) for rates in (Rates(), even))
    for (rest, *_), before, after in zip(usual.rests, usual.evidence, known.evidence, strict=True):
        share = dict(zip((0.1, 0.4, 1.0, 3.0), (0.85 / 0.4, 0.4, 0.15, 0.02 / 0.15), strict=True))
        assert after - before == pytest.approx(np.log(share[rest.amplitude_c]))
    far = grid()[[0, 4, 20, 24]] * 1.04 - 8.0
    wide, close = (
        recall(keep(looks(1), SIZE, rates, "A", 0.0), np.zeros((0, 2)), np.zeros(0), NOISE)
        for rates in (Rates(), even)
    )
    assert (close.moments(far)[1] < wide.moments(far)[1]).all()


def test_rates_are_those_of_many_steps():
    rng = np.random.default_rng(6)
    steps = [SurveyStep(30.44, float(1.2 * rng.standard_normal()), 0.0) for _ in range(400)]
    assert learned(steps, steps, 60, 400).level_c == pytest.approx(1.2, rel=0.1)
    assert learned([], [], 60, 400).new_chance == pytest.approx(0.15, abs=0.01)
