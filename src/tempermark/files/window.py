"""tempermark.window/1: overlap of windows, equal dose, closings over a timer's ceiling."""

from typing import Any

from tempermark.core.constants import DWELL_LIMIT_S, TEMPERATURE_RANGE_C
from tempermark.core.errors import InputError
from tempermark.core.recipes.windows import SettingWindow, Shared, closings, shared
from tempermark.core.thermal.result.dye import equal_dose_time_s
from tempermark.files.document import Fields, read_format

FORMAT = "tempermark.window/1"
MOST_WINDOWS = 100
LEAST_TIMER_S = 1.0


def answer(data: object) -> dict[str, Any]:
    """The command: document in, document out."""
    fields = read_format(data, FORMAT)
    windows = [_window(row) for row in fields.objects("windows", 1, MOST_WINDOWS, default=[])]
    timer = fields.number("timer_max_s", LEAST_TIMER_S, DWELL_LIMIT_S, default=None, unit=" s")
    dwell = fields.number("dwell_s", 0, DWELL_LIMIT_S, default=None, unit=" s", above=True)
    equal = _equal_dose(fields)
    fields.done()
    if not windows and dwell is None and equal is None:
        raise InputError.single(
            "windows",
            "windows is missing, and neither dwell_s nor equal_dose is asked.",
            "missing_key",
        )
    document: dict[str, object] = {}
    if windows:
        document |= _overlap(windows)
    if equal is not None:
        document["equal_dose_time_s"] = round(equal_dose_time_s(*equal), 4)
    if dwell is not None:
        parts = closings(dwell, timer)
        document["closings_s"] = [round(p, 6) for p in parts]
        document["open_last_at_remaining_s"] = (
            None if timer is None else round(timer - parts[-1], 6)
        )
    return document


def _window(row: Fields) -> SettingWindow:
    name = row.text("name", default="", limit=200)
    warm = row.window("temperature_c", *TEMPERATURE_RANGE_C, unit=" °C")
    long = row.window("time_s", 0, DWELL_LIMIT_S, unit=" s")
    return SettingWindow(warm or (0.0, 0.0), long or (0.0, 0.0), name)


def _equal_dose(fields: Fields) -> tuple[float, float, float] | None:
    given = fields.object("equal_dose", default=None)
    if given is None:
        return None
    return (
        given.temperature("temperature_c"),
        given.number("time_s", 0, DWELL_LIMIT_S, unit=" s", above=True),
        given.temperature("to_temperature_c"),
    )


def _overlap(windows: list[SettingWindow]) -> dict[str, Any]:
    found = shared(windows)
    setting = found.setting
    return {
        "overlap": {
            "temperature_c": found.temperature_c and list(found.temperature_c),
            "time_s": found.time_s and list(found.time_s),
        },
        "gap": {"temperature_c": found.temperature_gap_c, "time_s": found.time_gap_s},
        "shared_setting": setting and {"temperature_c": setting[0], "time_s": setting[1]},
        "advice": _advice(windows, found),
    }


def _advice(windows: list[SettingWindow], found: Shared) -> str:
    setting = found.setting
    if setting is not None:
        return f"One setting serves all: {setting[0]:g} °C true for {setting[1]:g} s."
    if found.temperature_c is not None:
        middle = sum(found.temperature_c) / 2
        ordered = sorted(windows, key=lambda w: w.time_s)
        dwells = ", ".join(
            f"{w.name or 'one'} {w.time_s[0]:g}–{w.time_s[1]:g} s" for w in ordered[:5]
        )
        return f"One temperature, {middle:g} °C true, and a dwell for each: {dwells}."
    order = sorted(windows, key=lambda w: w.temperature_c)
    names = ", then ".join(w.name or f"{w.temperature_c[0]:g} °C" for w in order[:5])
    return (
        f"The temperatures miss each other by {found.temperature_gap_c:g} K: press in rising "
        f"order, {names}; a platen heats fast and cools slowly."
    )
