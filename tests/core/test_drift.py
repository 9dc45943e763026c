"""Drift against published constants, hand-made runs and simulated presses."""

import numpy as np
import pytest
from scipy.stats import linregress

from tempermark.core.metrology.press.drift import (
    RULES,
    Instruments,
    control_chart,
    trend,
    without_instruments,
)

# A steady press: offsets that alternate, moving range 0.8 K throughout.
STEADY = np.array([-5.0, -4.2] * 5)


def test_sigma_is_the_mean_moving_range_over_d2():
    chart = control_chart(STEADY)
    assert chart.sigma_c == pytest.approx(0.8 / 1.128)
    assert chart.centre_c == pytest.approx(-4.6)
    assert chart.signals == ()


@pytest.mark.parametrize(
    ("tail", "rule"),
    [
        ([4.0], "beyond_3_sigma"),
        ([2.3, 2.3], "two_of_three_beyond_2_sigma"),
        ([1.3, 1.3, 1.3, 1.3], "four_of_five_beyond_1_sigma"),
        ([0.3] * 8, "eight_on_one_side"),
        ([1.2] * 14, "ewma"),
    ],
)
@pytest.mark.parametrize("side", [1, -1])
def test_each_rule_speaks_and_only_where_it_should(tail, rule, side):
    sigma = 0.8 / 1.128
    usual = control_chart(STEADY)
    changed = np.concatenate([STEADY, usual.centre_c + side * sigma * np.array(tail)])
    assert rule in control_chart(changed).speaks_now
    assert rule in RULES


def test_ewma_is_its_recursion_and_its_limits_widen_to_the_known_end():
    chart = control_chart(STEADY)
    level = chart.centre_c
    for value, weighted in zip(STEADY, chart.ewma_c, strict=True):
        level = 0.2 * value + 0.8 * level
        assert weighted == pytest.approx(level)
    assert chart.ewma_reach_c[0] == pytest.approx(2.7 * chart.sigma_c * 0.2)
    long = control_chart(np.tile(STEADY, 20)).ewma_reach_c[-1]
    assert long == pytest.approx(2.7 * chart.sigma_c / 3, rel=1e-3)


def test_false_alarms_are_rare_and_drift_is_seen():
    """Steady presses seldom speak at the newest survey; one that drifts does."""
    rng = np.random.default_rng(4)
    alarms = [bool(control_chart(rng.normal(-5, 0.5, 12)).speaks_now) for _ in range(300)]
    assert np.mean(alarms) < 0.12
    drift = np.concatenate([np.zeros(6), -0.45 * np.arange(1, 8)])
    seen = [bool(control_chart(drift + rng.normal(-5, 0.5, 13)).speaks_now) for _ in range(100)]
    assert np.mean(seen) > 0.9


def test_too_few_surveys_make_no_chart_and_no_trend():
    assert control_chart(np.array([1.0, 2.0, 3.0])) is None
    assert trend(np.array([0.0, 1.0, 2.0]), np.array([1.0, 2.0, 3.0])) is None
    assert trend(np.zeros(5), np.arange(5.0)) is None


def test_trend_is_ordinary_least_squares():
    rng = np.random.default_rng(2)
    day = np.sort(rng.uniform(0, 150, 9))
    offset = -5 - 0.03 * day + rng.normal(0, 0.4, 9)
    exact, found = linregress(day, offset), trend(day, offset)
    assert found.slope_c_per_day == pytest.approx(exact.slope)
    assert found.standard_error == pytest.approx(exact.stderr)
    assert found.is_one


def test_what_is_older_than_half_a_year_is_left_out():
    day = np.array([0.0, 30, 60, 300, 330, 360, 390])
    offset = np.array([9.0, 9, 9, 0, 1, 2, 3])
    assert trend(day, offset).slope_c_per_day == pytest.approx(1 / 30)


def test_days_until_cover_the_truth_as_often_as_stated():
    """95 % of intervals hold the day on which the offset really leaves."""
    rng = np.random.default_rng(8)
    day = np.arange(0, 180, 20.0)
    held = 0
    for _ in range(400):
        found = trend(day, -0.04 * day + rng.normal(0, 0.5, len(day)))
        _, earliest, latest = found.days_until(4.0)
        held += earliest <= 100 <= (latest or np.inf)
    assert held / 400 == pytest.approx(0.95, abs=0.03)


def read_with(number, common_c=1.0):
    return Instruments(np.array(number), np.full(len(number), common_c))


def test_one_instruments_common_error_changes_neither_slope_nor_interval():
    rng = np.random.default_rng(2)
    day = np.sort(rng.uniform(0, 150, 9))
    offset = -5 - 0.03 * day + rng.normal(0, 0.4, 9)
    plain, shared = trend(day, offset), trend(day, offset, read_with([0] * 9, 3.0))
    assert shared.slope_c_per_day == pytest.approx(plain.slope_c_per_day)
    assert shared.standard_error == pytest.approx(plain.standard_error)
    assert (without_instruments(day, offset, read_with([0] * 9)) == offset).all()


def test_the_trend_over_two_instruments_is_generalised_least_squares():
    """Against the textbook formula with the same variances."""
    rng = np.random.default_rng(5)
    day = np.arange(12.0) * 12
    number = np.repeat([0, 1], 6)
    offset = -5 + 2.0 * number + rng.normal(0, 0.3, 12)
    found = trend(day, offset, read_with(number, 1.2))
    levels = np.column_stack([number == 0, number == 1, day]).astype(float)
    left = offset - levels @ np.linalg.lstsq(levels, offset, rcond=None)[0]
    whole = (left @ left) / 9 * np.eye(12) + 1.44 * (number[:, None] == number)
    design = np.column_stack([np.ones(12), day])
    inverse = np.linalg.inv(whole)
    covariance = np.linalg.inv(design.T @ inverse @ design)
    assert found.slope_c_per_day == pytest.approx((covariance @ design.T @ inverse @ offset)[1])
    assert found.standard_error == pytest.approx(covariance[1, 1] ** 0.5)


def test_a_step_with_the_instrument_is_no_drift_and_a_drift_within_one_still_is():
    rng = np.random.default_rng(6)
    day = np.arange(16.0) * 10
    number = np.repeat([0, 1], 8)
    step = -5 + 2.0 * number + rng.normal(0, 0.2, 16)
    assert trend(day, step).is_one
    assert not trend(day, step, read_with(number, 1.5)).is_one
    assert control_chart(step).speaks_now
    assert not control_chart(without_instruments(day, step, read_with(number, 1.5))).speaks_now
    drift = -5 + 0.03 * day + rng.normal(0, 0.2, 16)
    assert trend(day, drift, read_with(number, 1.5)).is_one


def test_a_step_far_beyond_what_instruments_can_be_off_stays_in():
    day = np.arange(12.0) * 12
    number = np.repeat([0, 1], 6)
    offset = -5 + 9.0 * number + np.tile([-0.2, 0.2], 6)
    told = without_instruments(day, offset, read_with(number, 0.3))
    assert np.ptp(told) > 7
