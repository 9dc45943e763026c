"""Live readings against courses whose answers are known exactly."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tempermark.core.metrology.live.channels import FAR, SILENT, STUCK, channel_faults, platen_level
from tempermark.core.metrology.live.clock import ALLOWED_AHEAD_S, settled
from tempermark.core.metrology.live.loading import dips
from tempermark.core.metrology.live.soak import SMOOTH_S, soak
from tempermark.core.metrology.live.thinning import thin
from tempermark.stand_ins.heated_platen import HeatedPlaten, Story

SECONDS = np.arange(0.0, 1200.0)


def test_an_exponential_warm_up_is_steady_from_the_moment_it_can_be_reckoned():
    """The running mean of L − A·exp(−t/τ) is L − A·k·exp(−t/τ) with k = τ/60·(exp(60/τ) − 1)."""
    level, amplitude, tau = 195.0, 120.0, 150.0
    time_s = np.arange(0.0, 1200.0, 0.1)
    told = soak(time_s, level - amplitude * np.exp(-time_s / tau))
    k = tau / SMOOTH_S * (np.exp(SMOOTH_S / tau) - 1)
    now = time_s[-1]
    since = -tau * np.log(np.exp(-now / tau) + 1.0 / (amplitude * k))
    assert told.steady_s == pytest.approx(now - since, abs=0.5)
    assert told.level_c == pytest.approx(level - amplitude * k * np.exp(-now / tau), abs=0.01)


@given(st.floats(0.5, 4.0), st.sampled_from([20.0, 30.0, 60.0]), st.floats(0, 6.28))
def test_a_cycling_controller_is_steady_throughout(amplitude, period, phase):
    level = 190 + amplitude * np.sin(2 * np.pi * SECONDS / period + phase)
    told = soak(SECONDS, level)
    assert told.steady_s == SECONDS[-1] - SMOOTH_S
    assert told.swing_c == pytest.approx(amplitude, rel=0.06)
    assert not dips(SECONDS, level)


def test_a_change_of_setting_begins_the_soak_again():
    told = soak(SECONDS, np.where(SECONDS < 800, 180.0, 200.0))
    # The minute's mean is within 1 K of 200 when 19/20 of it lies after the change.
    assert told.steady_s == pytest.approx(SECONDS[-1] - (800 + 0.95 * SMOOTH_S), abs=1.5)


def test_a_steady_ramp_tells_its_slope_and_is_not_soaked():
    told = soak(SECONDS, 100 + SECONDS * 3 / 60)
    assert told.slope_c_per_min == pytest.approx(3.0, abs=1e-6)
    assert not told.soaked


def test_no_word_before_a_minute():
    assert soak(SECONDS[:60], np.full(60, 190.0)) is None
    assert soak(SECONDS[:1], np.full(1, 190.0)) is None


@given(st.floats(4.0, 30.0), st.floats(8.0, 60.0))
def test_depth_and_recovery_of_a_dip_in_closed_form(depth, tau):
    """195 − D·exp(−(t − 300)/τ): deepest at once, within 1 K after τ·ln D."""
    level = np.where(SECONDS < 300, 195.0, 195 - depth * np.exp(-(SECONDS - 300) / tau))
    (dip,) = dips(SECONDS, level)
    assert (dip.start_s, dip.deepest_after_s) == (300.0, 0.0)
    assert dip.before_c == pytest.approx(195.0)
    assert dip.depth_c == pytest.approx(depth)
    assert dip.recovery_s == pytest.approx(tau * np.log(depth), abs=1.01)


def test_each_piece_of_a_series_is_a_dip_and_the_last_is_open():
    level = np.full(len(SECONDS), 195.0)
    for start in (200.0, 400.0, 600.0, 1170.0):
        level -= np.where(start > SECONDS, 0, 6 * np.exp(-(SECONDS - start) / 20))
    found = dips(SECONDS, level)
    assert [d.start_s for d in found] == [200.0, 400.0, 600.0, 1170.0]
    assert [d.recovery_s is None for d in found] == [False, False, False, True]


def test_cooling_after_switching_off_is_no_dip():
    assert not dips(SECONDS, np.where(SECONDS < 300, 195.0, 195 - (SECONDS - 300) * 5 / 60))


def test_warming_up_is_no_dip_whatever_its_noise():
    noise = np.random.default_rng(3).normal(0, 0.3, len(SECONDS))
    assert not dips(SECONDS, 195 - 170 * np.exp(-SECONDS / 200) + noise)


def healthy(count=9, seconds=60):
    time_s = np.arange(0, seconds, 0.1)
    rng = np.random.default_rng(1)
    cycle = 1.5 * np.sin(2 * np.pi * time_s / 45)[:, None]
    return time_s, np.round(
        195 + np.linspace(-4, 4, count) + cycle + rng.normal(0, 0.05, (len(time_s), count)), 1
    )


def test_healthy_channels_are_all_believed():
    assert channel_faults(*healthy()) == ()


def test_a_repeating_a_silent_and_a_loose_channel_are_named_with_since_when():
    time_s, reading = healthy()
    reading[time_s >= 20, 2] = reading[200, 2]
    reading[time_s >= 30, 4] = np.nan
    reading[:, 7] -= 150
    found = channel_faults(time_s, reading)
    assert [(f.channel, f.kind) for f in found] == [(2, STUCK), (4, SILENT), (7, FAR)]
    assert found[0].since_s == pytest.approx(20.0, abs=0.3)
    assert found[1].since_s == pytest.approx(30.0)
    assert found[1].value_c is None


def test_short_dropouts_are_no_fault_and_do_not_hide_a_repeating_channel():
    time_s, reading = healthy()
    reading[(time_s > 50) & (time_s < 53), 1] = np.nan
    reading[time_s >= 10, 5] = reading[100, 5]
    reading[(time_s > 40) & (time_s < 43), 5] = np.nan
    (fault,) = channel_faults(time_s, reading)
    assert (fault.channel, fault.kind) == (5, STUCK)
    assert fault.since_s == pytest.approx(10.0, abs=0.3)


def test_a_cold_platen_whose_channels_all_rest_is_not_called_stuck():
    time_s, reading = healthy()
    assert channel_faults(time_s, np.full_like(reading, 22.0)) == ()


@given(st.permutations(range(9)))
def test_the_order_of_channels_does_not_matter(order):
    time_s, reading = healthy()
    reading[time_s >= 20, 2] = reading[200, 2]
    (fault,) = channel_faults(time_s, reading[:, order])
    assert order[fault.channel] == 2


@given(st.integers(0, 8), st.integers(10, 300), st.integers(1, 200))
def test_a_dropout_does_not_move_the_mean(channel, start, length):
    """Channels at fixed distances from one course: the mean is exact with or without a gap."""
    course = 195 + np.sin(np.arange(400) / 40)
    reading = course[:, None] + np.linspace(-5, 5, 9)
    gapped = reading.copy()
    gapped[start : start + length, channel] = np.nan
    # The distance of the gapped channel is learnt against means that lack it here and there.
    assert np.abs(platen_level(gapped) - platen_level(reading)).max() < 0.35
    whole = np.isfinite(gapped).all(axis=1)
    assert platen_level(gapped)[whole] == pytest.approx(platen_level(reading)[whole])


times = st.lists(st.floats(0, 100), min_size=1, max_size=20).map(sorted)


@given(
    times, st.floats(-4000, 4000), st.floats(-4000, 4000), st.one_of(st.none(), st.floats(0, 50))
)
def test_times_never_run_back_nor_come_from_the_future(offsets, wrong_s, shift_s, after):
    arrived = 1e9 + 100
    after_s = None if after is None else arrived - 50 + after
    time_s, _ = settled(np.array(offsets) + 1e9 + wrong_s, arrived, shift_s, after_s)
    assert (np.diff(time_s) >= 0).all()
    assert time_s[-1] <= max(arrived, after_s or 0) + ALLOWED_AHEAD_S + 0.1
    assert after_s is None or time_s[0] > after_s


def test_a_clock_ahead_is_shifted_by_just_that_and_a_right_one_never():
    seen = np.arange(10) / 10 + 1e9
    moved, shift = settled(seen + 3600, seen[-1], 0.0, None)
    assert shift == pytest.approx(3600)
    assert moved == pytest.approx(seen)
    later = seen + 1
    moved, kept = settled(later + 3600, later[-1] + 0.05, shift, moved[-1])
    assert kept == shift
    moved, given_up = settled(later + 1, later[-1] + 1, shift, moved[-1])
    assert given_up == 0
    late, none = settled(seen - 500, seen[-1], 0.0, None)
    assert none == 0
    assert late == pytest.approx(seen - 500)


@given(st.integers(1, 400), st.integers(1, 50))
def test_thinning_keeps_extremes_and_means(count, bucket_s):
    rng = np.random.default_rng(count)
    value = rng.normal(190, 5, (count, 3))
    value[rng.random((count, 3)) < 0.2] = np.nan
    time_s = np.arange(count, dtype=float)
    thinned = thin(time_s, value, value, value, float(bucket_s))
    if np.isfinite(value).any(axis=0).all():
        assert np.nanmin(thinned.low_c, axis=0) == pytest.approx(np.nanmin(value, axis=0))
        assert np.nanmax(thinned.high_c, axis=0) == pytest.approx(np.nanmax(value, axis=0))
    first = value[: min(bucket_s, count), 0]
    if np.isfinite(first).any():
        assert thinned.mean_c[0, 0] == pytest.approx(np.nanmean(first))
    else:
        assert np.isnan(thinned.mean_c[0, 0])


def played(seconds, **story):
    platen = HeatedPlaten(200.0, 175.0, np.random.default_rng(1), Story(**story))
    rows = []
    for _ in range(seconds * 10):
        platen.step(0.1)
        rows.append([np.nan if v is None else v for v in platen.sample(0.1)])
    return np.arange(len(rows)) / 10, np.array(rows)


def test_the_simulated_platen_warms_cycles_dips_and_its_channel_sticks():
    time_s, reading = played(720)
    faults = channel_faults(time_s, reading)
    assert [(f.channel, f.kind) for f in faults] == [(Story.stuck_channel, STUCK)]
    level = platen_level(reading, (Story.stuck_channel,))
    steady = time_s < Story.first_loading_s
    told = soak(time_s[steady], level[steady])
    assert told.soaked
    assert told.level_c == pytest.approx(199, abs=2)
    seconds = thin(time_s, *(level[:, None],) * 3, 1.0)
    found = dips(seconds.time_s, seconds.mean_c[:, 0])
    began = [Story.first_loading_s, Story.first_loading_s + Story.loading_every_s]
    assert [d.start_s for d in found] == pytest.approx(began, abs=6)
    assert found[0].recovery_s is not None
