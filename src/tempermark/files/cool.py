"""tempermark.cool/1: time until a piece may be touched, peeled, packed."""

from typing import Any

from tempermark.core.thermal.cooling import TOUCH_C, cooling_time_s, time_constant_s
from tempermark.files.document import Fields, read_format

FORMAT = "tempermark.cool/1"
MOST_TARGETS = 100


def answer(data: object) -> dict[str, Any]:
    """The command: document in, document out."""
    fields = read_format(data, FORMAT)
    hot, room = fields.temperature("from_c"), fields.temperature("ambient_c")
    constant = _constant(fields)
    rows = fields.items("to_c", 1, MOST_TARGETS)
    inner = Fields({f"to_c[{i}]": v for i, v in enumerate(rows)}, "", fields.problems)
    targets = [inner.temperature(key) for key in inner.data]
    fields.done()
    return {
        "seconds": [_rounded(cooling_time_s(hot, room, t, constant)) for t in targets],
        "touch_after_s": _rounded(cooling_time_s(hot, room, TOUCH_C, constant)),
        "time_constant_s": round(constant, 6),
    }


def _rounded(seconds: float | None) -> float | None:
    return None if seconds is None else round(seconds, 4)


def _constant(fields: Fields) -> Any:
    if fields.has("time_constant_s"):
        return fields.number("time_constant_s", 0, 1e7, unit=" s", above=True)
    body = [
        fields.number(key, 0, most, unit=unit, above=True)
        for key, most, unit in (
            ("mass_kg", 1e4, " kg"),
            ("specific_heat_j_kgk", 1e5, " J/kgK"),
            ("area_m2", 1e3, " m²"),
            ("surface_w_m2k", 1e5, " W/m²K"),
        )
    ]
    return None if None in body else time_constant_s(*body)
