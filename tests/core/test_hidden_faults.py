"""Faults that were there before the first survey where nobody read: weighed exactly, and believed
where they are found.
"""

import numpy as np
import pytest

from tempermark.core.metrology.map import field_prior as prior
from tempermark.core.metrology.memory.kept import Kept, conditioned, keep
from tempermark.core.metrology.memory.looks import Look, Rates
from tempermark.core.metrology.memory.recall import recall

SIZE = (400.0, 500.0)
NOISE = 0.5
READ = np.array([[30, 30], [370, 40], [200, 250], [40, 470], [360, 460], [120, 300], [300, 160.0]])


def level(place):
    """A platen that falls to the right a little."""
    return -0.4 * (place[:, 0] - 200.0) / 100.0


def few():
    """A first survey of seven readings a month ago."""
    noise = NOISE * np.random.default_rng(5).standard_normal(len(READ))
    return Look(READ, level(READ) + noise, 30.0, NOISE, "A", 0.4)


def test_a_hidden_fault_is_what_a_belief_in_it_would_be():
    """Its rank added to the belief without one, against that belief conditioned by itself."""
    known = conditioned([few()], SIZE, Rates(), "A", 0.4)
    at = int(known.evidence[:, 0].argmax())
    plain = known.belief(at, 0, frozenset())
    now = np.random.default_rng(8).uniform([30, 30], [370, 470], (4, 2))
    value = level(now) + 1.0
    for fault in plain.hidden.number[:: len(plain.hidden.number) // 5] + 1:
        itself = known.belief(at, int(fault), frozenset())
        beside, alone = (
            recall(kept_with(known, belief), now, value, NOISE).parts[0]
            for belief in (plain, itself)
        )
        number = int(np.flatnonzero(plain.hidden.number == fault - 1)[0])
        of = beside.hidden
        assert of.log_weight[number] == pytest.approx(alone.log_weight[0], abs=1e-6)
        lift = of.before.course(SIZE, known.place_mm, plain.half) - beside.cross @ of.gain
        mean = plain.mean_c + beside.cross @ (beside.inverse @ beside.missed)
        mean = mean + lift[:, number] * of.strength_c[number]
        expected = itself.mean_c + alone.cross @ (alone.inverse @ alone.missed)
        assert mean == pytest.approx(expected, abs=1e-5)
        variance = plain.variance - (beside.cross @ beside.inverse * beside.cross).sum(axis=1)
        variance = variance + lift[:, number] ** 2 * of.variance[number]
        told = (alone.cross @ alone.inverse * alone.cross).sum(axis=1)
        assert variance == pytest.approx(itself.variance - told, abs=1e-4)


def kept_with(known, belief):
    """What is kept where that were all that is believed."""
    element = known.element
    return Kept(
        SIZE, known.past, Rates(), element.changes, "A", 0.4, known.place_mm, element, (belief,)
    )


@pytest.fixture(scope="module")
def kept():
    return keep([few()], SIZE, Rates(), "A", 0.4)


def test_what_nobody_read_is_known_less_well(kept):
    """Less sure by a fault's chance than the beliefs that have none."""
    found = recall(kept, np.zeros((0, 2)), np.zeros(0), NOISE)
    hidden = sum(chance.sum() for chance in found.hidden)
    # Seven readings leave most of a platen's places for a spot.
    assert 0.25 * prior.SPOT_CHANCE < hidden < prior.SPOT_CHANCE + prior.BAND_CHANCE
    assert found.unchanged == pytest.approx(1 - kept.rates.new_chance, abs=0.01)
    by_draws = found.draws(20_000, np.random.default_rng(4)).deviation_c
    mean, spread = found.moments(kept.place_mm)
    assert np.abs(by_draws.mean(axis=0) - mean).max() < 0.08
    assert np.abs(by_draws.std(axis=0) / spread - 1).max() < 0.08


def test_a_fault_that_was_always_there_is_found_and_is_nothing_new(kept):
    """A spot between all earlier readings; those around it say that no band goes through it."""
    at = np.array([215.0, 110.0])

    def truth(place):
        away = ((place - at) ** 2).sum(axis=1)
        return level(place) - 8.0 * np.exp(-0.5 * away / prior.CLOSE_WIDTH_MM**2)

    around = at + np.array([[0, 0], [-100, 0], [90, 0], [0, 100], [0, -90], [25, 20], [-20, 25.0]])
    found = recall(kept, around, truth(around), NOISE)
    assert sum(chance.sum() for chance in found.hidden) > 0.7
    assert found.unchanged > 0.7
    assert found.fault_probability > 0.95
    mean, spread = found.moments(at[None])
    assert mean[0] == pytest.approx(truth(at[None])[0], abs=3 * spread[0])
    far = np.array([[60.0, 60.0], [340.0, 430.0], [215.0, 110.0]])
    assert recall(kept, far, level(far), NOISE).fault_probability < 0.4
    # Read and not found, it is less than half as likely: a weak one may be there still.
    clean = recall(kept, at[None], level(at[None]), NOISE)
    before = recall(kept, np.zeros((0, 2)), np.zeros(0), NOISE)
    assert chance_near(clean, at) < 0.5 * chance_near(before, at)


def chance_near(found, at):
    """The chance 0–1 of the hidden faults that are strong at a place."""
    course = prior.close_faults(*SIZE).shape(at[None])[0]
    return sum(
        chance[course[part.hidden.before.number] > 0.9].sum()
        for part, chance in zip(found.parts, found.hidden, strict=True)
        if part.hidden
    )
