"""Changing a platen: known rates are found again, and the order that waits least is the least."""

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tempermark.core.preparing.heat.changeover import (
    RATE_AT_EXCESS_K,
    NeededSetting,
    PlatenRates,
    TimedChange,
    change_time,
    changes_in,
    filled_by_kind,
    learned_rates,
    least_waiting,
)

ROOM = 22.0
temperatures = st.floats(60, 230)


def test_an_unknown_press_says_that_it_is_a_guess():
    rates = learned_rates([], ROOM)
    assert (rates.timed_up, rates.timed_down) == (0, 0)
    time = change_time(170, 200, rates, ROOM)
    assert time.seconds == pytest.approx(150)
    assert time.low_s < 100 < 230 < time.high_s


@given(st.floats(3, 30), st.floats(0.5, 8), temperatures, temperatures)
def test_rates_of_timed_changes_are_found_again(heats, cools, first, second):
    true = PlatenRates(heats, cools)
    low, high = sorted((first, second))
    if high - low < 6:
        return
    up, down = (change_time(*ends, true, ROOM).seconds for ends in ((low, high), (high, low)))
    found = learned_rates([TimedChange(low, high, up), TimedChange(high, low, down)], ROOM)
    assert found.heats_k_min == pytest.approx(heats)
    assert found.cools_k_min == pytest.approx(cools)
    assert (found.timed_up, found.timed_down) == (1, 1)


def test_more_changes_are_known_better():
    one = learned_rates([TimedChange(170, 200, 150)], ROOM)
    many = learned_rates([TimedChange(170, 200, s) for s in (140, 150, 155, 148)], ROOM)
    assert many.heats_within < one.heats_within < PlatenRates().heats_within


def test_small_changes_say_nothing():
    assert learned_rates([TimedChange(200, 202, 600)], ROOM).timed_up == 0


def test_cooling_is_newton_s_law_and_never_below_the_room():
    rates = PlatenRates(cools_k_min=3.0)
    tau = RATE_AT_EXCESS_K / 3.0 * 60
    whole = change_time(200, 100, rates, ROOM).seconds
    assert whole == pytest.approx(tau * np.log(178 / 78))
    parts = [change_time(200, 150, rates, ROOM), change_time(150, 100, rates, ROOM)]
    assert whole == pytest.approx(sum(part.seconds for part in parts))
    assert change_time(200, 20, rates, ROOM) is None


def test_a_logger_s_course_gives_its_changes():
    minutes = np.arange(0, 60) * 60.0
    course = np.piecewise(
        minutes,
        [minutes < 600, (minutes >= 600) & (minutes < 900), minutes >= 900],
        [170.0, lambda t: 170 + (t - 600) * 8 / 60, 210.0],
    )
    found = changes_in(minutes, course)
    assert len(found) == 1
    assert learned_rates(found, ROOM).heats_k_min == pytest.approx(8, rel=0.02)
    assert changes_in(minutes[:3], course[:3]) == []


settings_needed = st.lists(
    st.tuples(temperatures, st.floats(0, 15), st.booleans()), min_size=2, max_size=5
)


@given(st.floats(20, 220), settings_needed)
def test_no_allowed_order_waits_less(start, kinds):
    needed = [
        NeededSetting(str(n), low, low + wide, (n - 1,) if chained and n else ())
        for n, (low, wide, chained) in enumerate(kinds)
    ]
    rates = PlatenRates()
    found = least_waiting(start, needed, rates, ROOM)
    assert sorted(found.order) == list(range(len(needed)))
    for order in itertools.permutations(range(len(needed))):
        place = {step: n for n, step in enumerate(order)}
        if any(place[b] > place[n] for n, step in enumerate(needed) for b in step.after):
            continue
        # Each setting at the middle of its window is a plan too, and waits no less.
        now, total = start, 0.0
        for number in order:
            to_c = min(max(now, needed[number].low_c), needed[number].high_c)
            total += change_time(now, to_c, rates, ROOM).seconds
            now = to_c
        assert found.seconds <= total + 1e-6
    for step, setting in zip(found.order, found.settings_c, strict=True):
        assert needed[step].low_c <= setting <= needed[step].high_c


def test_heating_last_spares_the_slow_cooling():
    needed = [NeededSetting("press", 198, 202), NeededSetting("cure", 168, 172)]
    assert least_waiting(100, needed, PlatenRates(), ROOM).order == (1, 0)


def test_too_many_and_impossible_orders_are_refused():
    with pytest.raises(ValueError, match="At most"):
        least_waiting(100, [NeededSetting("a", 100, 110)] * 8, PlatenRates(), ROOM)
    circle = [NeededSetting("a", 100, 110, (1,)), NeededSetting("b", 100, 110, (0,))]
    with pytest.raises(ValueError, match="No order"):
        least_waiting(100, circle, PlatenRates(), ROOM)


def test_a_press_that_nobody_timed_takes_the_rates_of_its_kind_known_less_well():
    kind = learned_rates([TimedChange(100, 200, 300), TimedChange(200, 180, 600)] * 4, ROOM)
    own = learned_rates([TimedChange(100, 200, 600)], ROOM)
    filled = filled_by_kind(own, kind)
    assert filled.heats_k_min == own.heats_k_min == pytest.approx(10)
    assert filled.cools_k_min == kind.cools_k_min
    assert filled.cools_within > kind.cools_within
    assert filled.timed_down == 0
    assert filled_by_kind(own, learned_rates([], ROOM)) == own
