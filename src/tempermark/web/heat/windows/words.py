"""Windows in words with numbers."""

from tempermark.core.recipes.windows import SettingWindow, Shared, closings
from tempermark.web.heat.windows.windows import WindowAnswer
from tempermark.web.kit.figures import (
    NO_BREAK,
    chance_text,
    difference_text,
    temperature_text,
)
from tempermark.web.kit.units import Units

S = f"{NO_BREAK}s"
NARROW, WIDE = 0.6, 0.9


def headline(answer: WindowAnswer, name: str, dial: str, units: Units) -> str:
    """What one setting does for one or several recipes."""
    if len(answer.windows) > 1:
        return shared_sentence(answer.windows, answer.shared, units)
    percent = chance_text(answer.chance_works)
    room = "plenty of room" if answer.chance_works >= WIDE else "little room"
    if answer.chance_works < NARROW:
        room = "no room"
    return (
        f"{percent} likely to come out well: {name} at {dial} for {answer.dwell_s:g}{S} has {room}."
    )


def shared_sentence(windows: list[SettingWindow], found: Shared, units: Units) -> str:
    """The setting that serves all, or by how much the windows miss."""
    setting = found.setting
    names = " and ".join(w.name for w in windows)
    if setting is not None:
        warm = temperature_text(setting[0], units)
        return f"One setting suits {names}: {warm} true, {setting[1]:.0f}{S}."
    if found.temperature_c is not None:
        middle = temperature_text(sum(found.temperature_c) / 2, units)
        ordered = sorted(windows, key=lambda w: w.time_s)
        each = ", ".join(f"{w.name} {w.time_s[0]:g}–{w.time_s[1]:g}{S}" for w in ordered)
        return f"One temperature, {middle} true, with its own dwell for each: {each}."
    gap = difference_text(found.temperature_gap_c, units, sign=False)
    order = ", then ".join(w.name for w in sorted(windows, key=lambda w: w.temperature_c))
    rest = "a platen heats up faster than it cools"
    return f"The windows are {gap} apart. Press {order}: {rest}."


def margin_sentence(answer: WindowAnswer, name: str, units: Units) -> str:
    """How much room the press has in the first recipe's own rectangle."""
    chance = chance_text(answer.chance_window)
    true = temperature_text(answer.press.true_c, units)
    spread = difference_text(2 * answer.press.sd_c, units, 1, sign=False)
    known = "" if answer.press.measured else "; its display has never been checked"
    return (
        f"{name} is at {true} ± {spread} true{known}. It is {chance} likely to stay inside the "
        f"window of {answer.windows[0].name}."
    )


def dwell_sentence(dwell_s: float | None, before_s: float, what: str) -> str:
    """The dwell another condition needs."""
    if dwell_s is None:
        return f"{what}: not even half an hour gives the same result."
    more = dwell_s - before_s
    sign = "more" if more >= 0 else "less"
    return f"{what}: {dwell_s:.0f}{S} gives the same result, {abs(more):.0f}{S} {sign}."


def split_sentence(dwell_s: float, timer_max_s: float | None) -> str:
    """A dwell over a timer's ceiling."""
    parts = closings(dwell_s, timer_max_s)
    if len(parts) == 1 or timer_max_s is None:
        return ""
    summary = " + ".join(f"{part:g}" for part in parts)
    remain = timer_max_s - parts[-1]
    last = f", opening the last one when {remain:g}{S} remain" if remain > 0 else ""
    return (
        f"The timer goes up to {timer_max_s:g}{S}: press {summary}{S}{last}. Each reopening risks "
        "ghosting: fix the transfer well and lift straight up."
    )
