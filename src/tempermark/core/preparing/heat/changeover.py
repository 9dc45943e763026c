"""How long a platen takes to another setting, and the order of settings that waits least.

Equation: heating by a steady rate; cooling by Newton, T_a + (T₀ − T_a)·e^(−t/τ), with τ from the
rate near working heat. Range: platens between the room and 260 °C.
Source: an unknown press takes the rates of the trade's planning example (formats/commands.md,
“plan”: 12 and 3 K/min); rates of a press itself come from changes that were timed on it.
"""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

# Of a press that nobody timed, K/min, known to within a factor. Starting values.
USUAL_HEATS_K_MIN, USUAL_COOLS_K_MIN = 12.0, 3.0
UNKNOWN_FACTOR, TIMED_SPREAD = 1.6, 0.15
# Presses of one kind differ by about this factor. Starting value.
BETWEEN_PRESSES_FACTOR = 1.4
# Cooling is as fast as its rate at this excess over the room, K: a platen at work.
RATE_AT_EXCESS_K = 170.0
# Changes smaller than this say nothing of a rate, K.
LEAST_CHANGE_K = 5.0
# A platen that moves less than this is held, K/min; a change lasts some minutes of a logger.
SETTLED_K_MIN, MINUTES_OF_CHANGE = 0.8, 4
# What seems to change faster than this was there before, K/min: the strongest elements, of some
# 2 W/cm² on 10 mm of aluminium, heat by 50 K/min.
FASTEST_K_MIN = 60.0
# Orders of more settings are not tried one by one.
MOST_ORDERED = 7


@dataclass(frozen=True)
class PlatenRates:
    """How fast a platen heats and, at working heat, cools, K/min, with the factor that each is
    known to, and how many timed changes say so.
    """

    heats_k_min: float = USUAL_HEATS_K_MIN
    cools_k_min: float = USUAL_COOLS_K_MIN
    heats_within: float = UNKNOWN_FACTOR
    cools_within: float = UNKNOWN_FACTOR
    timed_up: int = 0
    timed_down: int = 0


@dataclass(frozen=True)
class TimedChange:
    """A change that somebody timed: from and to in °C, and s."""

    from_c: float
    to_c: float
    seconds: float


@dataclass(frozen=True)
class ChangeTime:
    """Seconds of a change as expected, and from … to."""

    seconds: float
    low_s: float
    high_s: float


def learned_rates(changes: Sequence[TimedChange], room_c: float) -> PlatenRates:
    """Rates of a press from its timed changes, in a room of °C; the trade's where none tells."""
    ups, downs = [], []
    for change in changes:
        if abs(change.to_c - change.from_c) < LEAST_CHANGE_K or change.seconds <= 0:
            continue
        if change.to_c > change.from_c:
            ups.append((change.to_c - change.from_c) / change.seconds * 60)
        elif change.to_c > room_c:
            steps = math.log((change.from_c - room_c) / (change.to_c - room_c))
            downs.append(RATE_AT_EXCESS_K * steps / change.seconds * 60)
    heats, heats_within = _middle(ups, USUAL_HEATS_K_MIN)
    cools, cools_within = _middle(downs, USUAL_COOLS_K_MIN)
    return PlatenRates(heats, cools, heats_within, cools_within, len(ups), len(downs))


def filled_by_kind(own: PlatenRates, of_kind: PlatenRates) -> PlatenRates:
    """Rates in K/min of a press, with those of other presses of its kind where its own was never
    timed: known less well, by what presses of a kind differ.
    """
    filled = own
    if not own.timed_up and of_kind.timed_up:
        within = max(of_kind.heats_within, BETWEEN_PRESSES_FACTOR)
        filled = replace(filled, heats_k_min=of_kind.heats_k_min, heats_within=within)
    if not own.timed_down and of_kind.timed_down:
        within = max(of_kind.cools_within, BETWEEN_PRESSES_FACTOR)
        filled = replace(filled, cools_k_min=of_kind.cools_k_min, cools_within=within)
    return filled


def _middle(rates: list[float], usual: float) -> tuple[float, float]:
    """The median of rates and the factor that it is known to; the usual one for none."""
    if not rates:
        return usual, UNKNOWN_FACTOR
    logs = np.log(rates)
    spread = float(np.std(logs, ddof=1)) if len(rates) > 1 else TIMED_SPREAD
    spread = max(spread, TIMED_SPREAD)
    return float(np.exp(np.median(logs))), float(np.exp(2 * spread / math.sqrt(len(rates))))


def change_time(from_c: float, to_c: float, rates: PlatenRates, room_c: float) -> ChangeTime | None:
    """How long between two temperatures in °C; None for one that the room does not allow."""
    if to_c >= from_c:
        seconds = (to_c - from_c) / rates.heats_k_min * 60
        within = rates.heats_within
    elif to_c <= room_c:
        return None
    else:
        steps = math.log((from_c - room_c) / (to_c - room_c))
        seconds = RATE_AT_EXCESS_K * steps / rates.cools_k_min * 60
        within = rates.cools_within
    return ChangeTime(seconds, seconds / within, seconds * within)


@dataclass(frozen=True)
class NeededSetting:
    """A step that asks for a platen between two true temperatures in °C; `after` are the places in
    the list of steps that come before it.
    """

    name: str
    low_c: float
    high_c: float
    after: tuple[int, ...] = ()


@dataclass(frozen=True)
class SettingOrder:
    """Steps by their places in the list, in the order that waits least, each at its °C; and all
    the waiting in s.
    """

    order: tuple[int, ...]
    settings_c: tuple[float, ...]
    seconds: float


def least_waiting(
    start_c: float, needed: Sequence[NeededSetting], rates: PlatenRates, room_c: float
) -> SettingOrder:
    """The order of steps that waits least from a platen at °C, each setting moved only as far as
    its window asks. Raises ValueError for more steps than are tried, or orders that none allows.
    """
    if len(needed) > MOST_ORDERED:
        raise ValueError(f"At most {MOST_ORDERED} settings are put in order.")
    found = [
        _walked(start_c, needed, order, rates, room_c)
        for order in itertools.permutations(range(len(needed)))
        if _is_allowed(needed, order)
    ]
    if not found:
        raise ValueError("No order keeps every step after those before it.")
    return min(found, key=lambda walk: (walk.seconds, walk.order))


def _is_allowed(needed: Sequence[NeededSetting], order: tuple[int, ...]) -> bool:
    place = {step: n for n, step in enumerate(order)}
    return all(place[b] < place[n] for n, step in enumerate(needed) for b in step.after)


def _walked(
    start_c: float,
    needed: Sequence[NeededSetting],
    order: tuple[int, ...],
    rates: PlatenRates,
    room_c: float,
) -> SettingOrder:
    now, total, settings = start_c, 0.0, []
    for number in order:
        step = needed[number]
        to_c = min(max(now, step.low_c), step.high_c)
        change = change_time(now, to_c, rates, room_c)
        total += change.seconds if change else math.inf
        settings.append(to_c)
        now = to_c
    return SettingOrder(order, tuple(settings), total)


def changes_in(times_s: np.ndarray, readings_c: np.ndarray) -> list[TimedChange]:
    """The changes of a setting in a course of temperatures (n,) in °C at times (n,) in s, as a
    logger brings them by the minute: stretches that rise, or fall, without a halt.
    """
    found: list[TimedChange] = []
    if len(times_s) < MINUTES_OF_CHANGE:
        return found
    slope = np.diff(readings_c) / np.diff(times_s) * 60
    signs = np.where(slope > SETTLED_K_MIN, 1, np.where(slope < -SETTLED_K_MIN, -1, 0))
    ends = np.flatnonzero(np.diff(signs)) + 1
    for first, last in itertools.pairwise([0, *ends.tolist(), len(signs)]):
        if signs[first] == 0 or last - first < MINUTES_OF_CHANGE:
            continue
        # The first and last minute are half change, half rest.
        change = TimedChange(
            float(readings_c[first + 1]),
            float(readings_c[last - 1]),
            float(times_s[last - 1] - times_s[first + 1]),
        )
        if abs(change.to_c - change.from_c) >= LEAST_CHANGE_K:
            found.append(change)
    return found
