"""As few readings as the decision needs, on platens whose truth is known."""

import numpy as np
import pytest

from benchmarks.adaptive import simulate, tally
from tempermark.core.metrology.map.adaptive import (
    FEWEST_FOR_PASS,
    MOST_READINGS,
    first_places,
    is_decided,
    survey_until_decided,
)
from tempermark.core.metrology.map.imagined import ImaginedPlaten, imagine

SIZE = (400.0, 500.0)


def even(**changes):
    plain = {
        "offset_c": 0.0,
        "tilt_c_per_mm": np.zeros(2),
        "margin_depth_c": np.zeros(4),
        "margin_reach_mm": 30.0,
        "band": None,
        "spot": None,
    }
    return ImaginedPlaten(*SIZE, **{**plain, **changes})


def walk(platen, seed=0, **changes):
    rng = np.random.default_rng(seed)
    read = []

    def gun(place):
        read.append(place)
        return platen.deviation_c(place) + 0.5 * rng.standard_normal(len(place))

    probability, count = survey_until_decided(gun, SIZE, 5.0, 0.5, rng, **changes)
    return probability, count, np.vstack(read)


def test_first_places_are_the_middle_and_the_corners():
    places = first_places(*SIZE)
    assert places[0] == pytest.approx([200, 250])
    assert len(np.unique(np.sign(places[1:] - places[0]), axis=0)) == 4
    assert ((places > 0) & (places < SIZE)).all()


@pytest.mark.parametrize(
    ("probability", "count", "stops"),
    [
        (0.97, 5, False),
        (0.97, FEWEST_FOR_PASS, True),
        (0.02, 5, True),
        (0.04, 5, False),
        (0.5, 16, False),
    ],
)
def test_when_a_verdict_stands(probability, count, stops):
    assert is_decided(probability, count) == stops


def test_a_platen_far_off_is_failed_at_once():
    probability, count, _ = walk(even(offset_c=-8.0))
    assert probability <= 0.05
    assert count == 5


def test_a_dead_band_is_looked_for_and_found():
    probability, count, read = walk(even(band=(1, 130.0, 80.0, 12.0)))
    assert probability <= 0.05
    assert count < MOST_READINGS
    assert np.abs(read[5:, 1] - 130).min() < 60


def test_never_more_readings_than_asked():
    assert walk(even(offset_c=3.9), most=7)[1] <= 7


def test_the_known_extremes_are_those_of_the_parts():
    platen = even(offset_c=1.0, spot=(200.0, 250.0, 60.0, 5.0))
    assert platen.extremes_c()[1] == pytest.approx(6.0, abs=0.02)
    assert even(margin_depth_c=np.full(4, 2.0)).extremes_c()[0] == pytest.approx(-4.0, abs=0.01)


def test_imagined_platens_are_the_same_for_the_same_seed():
    one, two = (imagine(*SIZE, np.random.default_rng(3)).extremes_c() for _ in range(2))
    assert one == two


@pytest.mark.long
def test_half_the_readings_and_no_fewer_right_verdicts():
    """A small run of `./tempermark bench adaptive`; its seeds are not those of the benchmark."""
    rows = simulate(48, 500)
    good = rows[:, 0].astype(bool)
    fixed, adaptive = tally(good, rows[:, 1]), tally(good, rows[:, 2])
    assert adaptive["right"] >= fixed["right"]
    assert rows[:, 3].mean() <= 12.5
    # At most 5 % wrong: more than 5 of 48 would come of that one time in fifty.
    for told in (fixed, adaptive):
        assert told["wrong pass"] + told["wrong fail"] <= 5
