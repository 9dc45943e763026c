"""What a day's model says of hands and of power."""

import math
from typing import TYPE_CHECKING

from ortools.sat.python import cp_model

from tempermark.core.planning.day import swaps
from tempermark.core.planning.duty import Hands
from tempermark.core.planning.power import held_kwh_min, rise_kwh_k, running_kwh_k
from tempermark.core.planning.search.ticks import TICKS_PER_K, TICKS_PER_MIN, ticks
from tempermark.core.planning.tending import MOST_BUSY, share_of
from tempermark.core.preparing.size.growth import ROOM_C

if TYPE_CHECKING:
    from tempermark.core.planning.search.model import DayModel

# Power is summed in so many parts of the parts in which it is counted.
POWER_PARTS = 10_000_000
# A person's time is given out in so many parts.
SHARE_PARTS = 1_000


def paused(day: "DayModel", job: int) -> cp_model.LinearExpr:
    """The ticks in which nobody is there to go on with a run; it begins in none of them."""
    times: list[cp_model.LinearExpr] = []
    for number, pause in enumerate(day.hands.pauses if day.hands else []):
        begins, ends = ticks(pause.from_min), ticks(pause.to_min)
        is_after, is_before, is_in_it = (
            day.model.new_bool_var(f"{job} {how} pause {number}")
            for how in ("after", "before", "over")
        )
        day.model.add_exactly_one(is_after, is_before, is_in_it)
        start = day.start[job]
        day.model.add(start >= ends).only_enforce_if(is_after)
        end = start + day.runs[job] + cp_model.LinearExpr.sum(times)
        day.model.add(end <= begins).only_enforce_if(is_before)
        day.model.add(start <= begins - 1).only_enforce_if(is_in_it)
        times.append((ends - begins) * is_in_it)
    return cp_model.LinearExpr.sum(times)


def add_tending(day: "DayModel", hands: Hands) -> None:
    """No more is tended at a time than those who are there can."""
    model, most = day.model, round(hands.most_people * MOST_BUSY * SHARE_PARTS)
    spans, needs = [], []
    for number, job in enumerate(day.jobs):
        model.add(day.start[number] >= ticks(hands.opens_min))
        end = model.new_int_var(0, day.horizon, f"end {number}")
        size = model.new_int_var(0, day.horizon, f"length {number}")
        model.add(size == day.runs[number] + day.paused[number])
        model.add(end == day.start[number] + size)
        spans.append(model.new_interval_var(day.start[number], size, end, f"tended {number}"))
        needs.append(math.floor(share_of(job) * SHARE_PARTS))
    for number, span in enumerate(hands.short_spans):
        begins, ends = ticks(span.from_min), ticks(span.to_min)
        spans.append(model.new_fixed_size_interval_var(begins, ends - begins, f"few {number}"))
        away = hands.most_people - span.people
        needs.append(math.floor(away * MOST_BUSY * SHARE_PARTS))
    # Those who are there last stay until all is done.
    closes = ticks(hands.closes_min)
    away = hands.most_people - hands.people_at(hands.closes_min)
    if away and closes < day.horizon:
        length = day.horizon - closes
        spans.append(model.new_fixed_size_interval_var(closes, length, "past the hours"))
        needs.append(math.floor(away * MOST_BUSY * SHARE_PARTS))
    model.add_cumulative(spans, needs, most)


def add_power(day: "DayModel", press: int, before: int, job: int, follows: cp_model.IntVar) -> None:
    """What a job takes when it follows another, or the press as it stands (power.py)."""
    at, this = day.presses[press], day.jobs[job]
    room = round(ROOM_C * TICKS_PER_K)
    setting, held = day.setting[job], 1 * day.change[job]
    rise = setting - round(at.start_c * TICKS_PER_K)
    if before:
        rise, held = setting - day.setting[before - 1], day.start[job] - day.end(before - 1)
    if swaps(at, day.jobs[before - 1] if before else None, this):
        rise = setting - room
    parts = POWER_PARTS * TICKS_PER_MIN
    by_set = round(running_kwh_k(at, this) * parts / TICKS_PER_K)
    by_rise = round(rise_kwh_k(at) * parts / TICKS_PER_K)
    by_tick = round(held_kwh_min(at, this) * parts / TICKS_PER_MIN)
    kept = by_set * (setting - room) + by_tick * held
    for needed in (kept, kept + by_rise * rise):
        total = POWER_PARTS * day.power[job]
        day.model.add(total >= needed).only_enforce_if(follows)
