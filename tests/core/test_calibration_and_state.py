"""Calibration line against numpy's polynomial fit; states of a press by hand."""

from datetime import date, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import norm

from tempermark.core.errors import InputError
from tempermark.core.metrology.press.calibration import (
    GAIN_SPREAD,
    REPRODUCIBILITY_C,
    anchored_line,
    calibration_line,
    level_shift,
)
from tempermark.core.metrology.press.state import PastSurvey, element_state


@given(st.floats(0.6, 1.4), st.floats(-30, 30), st.floats(100, 220))
def test_setting_undoes_the_line(gain, offset, target):
    set_c = np.array([150.0, 180.0, 210.0])
    line = calibration_line(set_c, offset + gain * set_c)
    assert line.true_c(line.dial_for(target).exact_c) == pytest.approx(target)


def test_line_and_uncertainty_agree_with_polyfit():
    rng = np.random.default_rng(2)
    set_c = np.array([150.0, 165.0, 180.0, 200.0, 215.0])
    true_c = 3 + 1.02 * set_c + rng.normal(0, 0.6, 5)
    (gain, offset), covariance = np.polyfit(set_c, true_c, 1, cov="unscaled")
    line = calibration_line(set_c, true_c)
    assert (line.gain, line.offset_c) == pytest.approx((gain, offset))
    residual = true_c - offset - gain * set_c
    s = (residual @ residual / 3) ** 0.5
    at = line.dial_for(190).exact_c
    spread = s * np.sqrt([at, 1] @ covariance @ [at, 1])
    assert line.setting_uncertainty_c(at) == pytest.approx(2 * spread / gain)


def test_one_setting_is_an_offset_without_uncertainty():
    line = calibration_line(np.array([180.0, 180.0]), np.array([186.0, 187.0]))
    assert (line.gain, line.dial_for(195).exact_c) == pytest.approx((1, 188.5))
    assert line.setting_uncertainty_c(188) is None


def test_a_falling_line_is_refused():
    with pytest.raises(InputError):
        calibration_line(np.array([150.0, 200.0]), np.array([200.0, 150.0]))


TODAY = date(2026, 11, 24)


def surveys(*rows):
    return [PastSurvey(day, offset, 2.0) for day, offset in rows]


def test_never_measured():
    state = element_state([], 30, TODAY, 5.0)
    assert state.reads_high_c is None
    assert not state.is_true


def test_true_due_and_overdue():
    fresh = element_state(surveys((date(2026, 11, 20), 0.5)), 30, TODAY, 5.0)
    old = element_state(surveys((date(2026, 9, 1), -6.0)), 30, TODAY, 5.0)
    assert fresh.is_true
    assert fresh.overdue_days == 0
    assert old.reads_high_c == 6.0
    assert old.overdue_days == 54


def test_drift_is_the_slope_of_the_last_half_year():
    rows = [(date(2026, month, 1), -1.5 * i) for i, month in enumerate(range(6, 12))]
    state = element_state(surveys(*rows), 30, TODAY, 5.0)
    assert state.drifting
    assert state.drift_c_per_30_days == pytest.approx(-1.47, abs=0.03)
    steady = element_state(surveys(*[(d, -5.0) for d, _ in rows]), 30, TODAY, 5.0)
    assert not steady.drifting
    assert steady.leaves_in_days is None


def test_a_fast_change_brings_the_next_survey_forward():
    """2 K a fortnight use up ±5 K within a few weeks: sooner than the monthly rule."""
    noise = (0.1, -0.1, 0.05, -0.05, 0.1, -0.1)
    rows = [(date(2026, 9, 1) + timedelta(days=14 * i), -2.0 * i + noise[i]) for i in range(6)]
    state = element_state(surveys(*rows), 60, date(2026, 11, 12), 5.0)
    likely, earliest, latest = state.leaves_in_days
    assert likely == pytest.approx(35, abs=2)
    assert earliest < likely < latest
    assert state.due_by_trend
    assert state.due_on == rows[-1][0] + timedelta(days=int(earliest))


def test_a_spot_check_tells_of_drift_and_puts_off_no_survey():
    rows = surveys((date(2026, 10, 1), -5.0))
    spot = PastSurvey(date(2026, 11, 20), -7.0, 2.0, full=False)
    state = element_state([*rows, spot], 30, TODAY, 5.0)
    assert state.reads_high_c == 7.0
    assert state.surveyed_on == date(2026, 10, 1)
    assert state.overdue_days > 0
    assert element_state([spot], 30, TODAY, 5.0).reads_high_c is None


def test_the_anchored_line_is_the_exact_posterior_of_its_gain():
    """Level free, gain normal 1 ± 0.05: the normal equations of the joint posterior."""
    set_c = np.array([150.0, 180.0, 200.0, 195.0])
    true_c = np.array([147.2, 176.1, 194.8, 190.3])
    own = np.array([0.2, 0.4, 0.3, 0.2])
    weight = np.diag(1 / (own**2 + REPRODUCIBILITY_C**2))
    design = np.column_stack([np.ones(4), set_c])
    precision = design.T @ weight @ design + np.diag([0.0, 1 / GAIN_SPREAD**2])
    exact = np.linalg.solve(precision, design.T @ weight @ true_c + [0, 1 / GAIN_SPREAD**2])
    line = anchored_line(set_c, true_c, own, 1.2)
    assert line.gain == pytest.approx(exact[1])
    assert line.gain_sd == pytest.approx(np.linalg.inv(precision)[1, 1] ** 0.5)
    assert line.true_c(195.0) == 190.3
    assert line.standard_uncertainty_c(195.0) == 1.2
    assert line.dial_for(line.true_c(171.0)).exact_c == pytest.approx(171.0)


def test_one_survey_alone_keeps_the_believed_gain():
    line = anchored_line(np.array([195.0]), np.array([190.0]), np.array([0.3]), 1.0)
    assert (line.gain, line.gain_sd) == pytest.approx((1.0, GAIN_SPREAD))
    assert line.dial_for(195.0).exact_c == pytest.approx(200.0)
    assert line.standard_uncertainty_c(155.0) == pytest.approx(np.hypot(1.0, 2.0))


@pytest.mark.parametrize(("difference", "days"), [(0.5, 10), (-5.0, 10), (1.8, 90), (0.0, 1)])
def test_the_level_s_shift_is_the_posterior_by_quadrature(difference, days):
    shift = np.linspace(-30, 30, 200_001)
    wander = REPRODUCIBILITY_C**2 + (0.02 * days) ** 2
    prior = 0.9 * norm.pdf(shift, 0, wander**0.5) + 0.1 * norm.pdf(shift, 0, (wander + 25) ** 0.5)
    posterior = prior * norm.pdf(difference, shift, 1.0)
    posterior /= posterior.sum()
    mean = posterior @ shift
    told = level_shift(difference, 1.0, days)
    assert told[0] == pytest.approx(mean, abs=1e-6)
    assert told[1] == pytest.approx((posterior @ (shift - mean) ** 2) ** 0.5, abs=1e-5)


def test_an_absurd_difference_is_followed_whole():
    assert level_shift(500.0, 1.0, 5.0)[0] == pytest.approx(500, rel=0.05)
