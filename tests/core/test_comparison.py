"""Gun against probe: exact in the linear case, honest about the probe, quick to doubt."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq

from tempermark.core.errors import InputError
from tempermark.core.metrology.reading.comparison import PROBE_REPEATABILITY_C, Comparison, compare
from tempermark.core.metrology.reading.radiometry import true_surface_temperature
from tempermark.core.metrology.reading.reading import (
    InstrumentProperties,
    SpotReadings,
    true_reading,
)

SETTING, AMBIENT = 0.95, 22.0


def shown(true_c, emissivity, gun_error):
    """What a gun with an error shows of a surface, by inverting the radiation equation."""
    return np.array(
        [
            brentq(
                lambda s, t=t: (
                    true_surface_temperature(np.array([s]), SETTING, emissivity, AMBIENT)[0] - t
                ),
                20,
                400,
            )
            + gun_error
            for t in true_c
        ]
    )


def pairs(emissivity=0.88, gun_error=0.5, count=6, probe_error=0.0, **changes):
    true_c = np.linspace(185, 195, count)
    plain = Comparison(
        gun_c=shown(true_c, emissivity, gun_error),
        probe_c=true_c + probe_error,
        emissivity_setting=SETTING,
        surface_emissivity=0.92,
        surface_emissivity_uncertainty=0.02,
        ambient_c=AMBIENT,
        gun_uncertainty_c=1.5,
        probe_uncertainty_c=0.8,
        repeatability_c=0.8,
    )
    return replace(plain, **changes)


def spot(given, learned=None, value=175.0):
    gun = InstrumentProperties("infrared", learned.correction_c if learned else 0.0, 1.5, SETTING)
    return SpotReadings(
        gun,
        np.array([value]),
        np.array([0.0]),
        AMBIENT,
        learned.surface_emissivity if learned else given.surface_emissivity,
        given.surface_emissivity_uncertainty,
        0.8,
        learned.covariance if learned else None,
    )


def test_the_gun_is_right_on_this_pad_afterwards():
    given = pairs(count=40, probe_uncertainty_c=0.01, repeatability_c=0.05)
    learned = compare(given)
    fresh = shown([178.0], 0.88, 0.5)[0]
    told = true_reading(spot(given, learned, fresh))
    assert told.true_c == pytest.approx(178.0, abs=0.15)
    before = true_reading(spot(given, None, fresh))
    assert abs(before.true_c - 178.0) > 3


def test_the_common_part_shrinks_to_what_the_probe_and_the_noise_leave():
    """With vague priors the difference of means is all: var = probe² + (own noise)²/n."""
    given = pairs(surface_emissivity_uncertainty=0.0, gun_uncertainty_c=200.0)
    learned = compare(given)
    slope = 1.025
    own = np.sqrt(0.4**2 + (0.8**2 + PROBE_REPEATABILITY_C**2) / 6)
    assert learned.after_c == pytest.approx(own, rel=0.01)
    assert np.sqrt(learned.covariance[0, 0]) == pytest.approx(own / slope, rel=0.03)
    told = true_reading(spot(given, learned))
    assert told.components["comparison"] == pytest.approx(own, rel=0.02)
    assert told.common_c == told.components["comparison"]
    assert told.components["instrument"] == told.components["emissivity"] == 0.0


def test_before_is_what_a_reading_says_without_a_comparison():
    given = pairs()
    learned = compare(given)
    at = float(given.gun_c.mean())
    assert learned.before_c == pytest.approx(true_reading(spot(given, None, at)).common_c, rel=0.01)
    assert learned.after_c < learned.before_c / 2


def test_gun_and_emissivity_are_learned_together_better_than_each():
    learned = compare(pairs())
    correlation = learned.covariance[0, 1] / np.sqrt(np.prod(np.diag(learned.covariance)))
    assert correlation > 0.8


def test_pairs_further_apart_than_stated_are_called_strange():
    assert not compare(pairs()).is_strange
    assert compare(pairs(probe_error=-15.0)).is_strange
    scattered = pairs()
    scattered.probe_c[2] += 9
    assert compare(scattered).is_strange


@pytest.mark.long
@given(st.integers(3, 12), st.floats(0.5, 3))
def test_more_pairs_and_a_better_probe_never_tell_less(count, probe):
    few, many = (compare(pairs(count=n, probe_uncertainty_c=probe)) for n in (count, count + 4))
    assert many.after_c <= few.after_c + 1e-9
    worse = compare(pairs(count=count, probe_uncertainty_c=probe + 1))
    assert worse.after_c >= few.after_c - 1e-9
    assert few.after_c <= few.before_c


@given(st.permutations(range(6)))
def test_the_order_of_pairs_does_not_matter(order):
    given = pairs()
    turned = replace(given, gun_c=given.gun_c[order], probe_c=given.probe_c[order])
    assert compare(turned).correction_c == pytest.approx(compare(given).correction_c)


def test_few_pairs_or_a_cold_pad_are_refused():
    with pytest.raises(InputError, match="at least 3 are needed"):
        compare(pairs(count=2))
    with pytest.raises(InputError, match="hot pad"):
        compare(replace(pairs(), probe_c=np.full(6, 50.0)))
