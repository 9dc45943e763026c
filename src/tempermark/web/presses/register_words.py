"""What the register holds of a press, in words."""

from datetime import date
from typing import Any

from tempermark.web.kit.figures import (
    difference_text,
    length_text,
    pressure_text,
    size_text,
    temperature_text,
    weight_text,
)
from tempermark.web.kit.units import Units
from tempermark.web.presses.models import Element, Press


def register_rows(press: Press, elements: list[Element], units: Units, today: date) -> list[Any]:
    """Everything recorded of a press, label and words; what is not recorded is left out."""
    rows = [("Kind", press.get_kind_display())]
    rows += [(e.get_role_display().capitalize(), _element_words(e, units)) for e in elements]
    rows += [
        ("Controller", _controller_words(press, units)),
        ("Timer", _timer_words(press)),
        ("Pressure", _pressure_words(press, units)),
        ("Pad", _worn(press.get_pad_display(), _thick(press.pad_mm, units), "pad", press, today)),
        ("Cover", _worn(press.get_cover_display(), "", "cover", press, today)),
        ("Survey", f"every {press.survey_every_days} days"),
        ("Note", press.note),
    ]
    return [(label, text) for label, text in rows if text]


def _element_words(element: Element, units: Units) -> str:
    parts = [element.label] if element.label else []
    size = size_text((element.width_mm, element.height_mm), units)
    parts.append(f"{element.get_shape_display()}, {size}")
    across = (element.top_diameter_mm, element.bottom_diameter_mm)
    if any(across):
        parts.append("across " + " to ".join(length_text(d, units, 1) for d in across if d))
    if element.own_setting:
        parts.append("has its own dial")
    return ", ".join(parts)


def _controller_words(press: Press, units: Units) -> str:
    low, high = press.control_low_c, press.control_high_c
    span = ""
    if low is not None or high is not None:
        span = f"{temperature_text(low, units)} to {temperature_text(high, units)}, "
    step = difference_text(press.resolution_c, units, 1, sign=False).replace(".0", "")
    return f"{span}steps of {step}, shows {press.get_display_unit_display()}"


def _timer_words(press: Press) -> str:
    ends = f"goes up to {press.timer_max_s} s" if press.timer_max_s else ""
    starts = f"started by {press.get_timer_starts_display()}" if press.timer_starts else ""
    return ", ".join(t for t in (ends, starts) if t)


def _pressure_words(press: Press, units: Units) -> str:
    parts = [press.get_mechanism_display()]
    if press.tightens:
        parts.append(f"tightens {press.get_tightens_display()}")
    if press.lift_mm_per_turn:
        parts.append(f"{length_text(press.lift_mm_per_turn, units, 2)} a turn")
    if press.line_kpa:
        parts.append(f"air at {pressure_text(press.line_kpa, units)}")
    if press.cylinders or press.cylinder_mm:
        across = f" of {length_text(press.cylinder_mm, units)}" if press.cylinder_mm else ""
        parts.append(f"{press.cylinders or 1} cylinder{'s' * ((press.cylinders or 1) > 1)}{across}")
    if press.plate_kg:
        parts.append(f"plate of {weight_text(press.plate_kg, units, 1)}")
    if press.max_line_kpa:
        parts.append(f"rated for {pressure_text(press.max_line_kpa, units)}")
    return ", ".join(parts)


def _thick(value_mm: float | None, units: Units) -> str:
    return length_text(value_mm, units, 1) if value_mm else ""


def _worn(what: str, thick: str, name: str, press: Press, today: date) -> str:
    """What it is, how thick, how it is, and for how long it has been there."""
    if not what:
        return ""
    since = getattr(press, f"{name}_since")
    condition = getattr(press, f"get_{name}_condition_display")()
    age = f"fitted {_age((today - since).days)} ago" if since else ""
    return ", ".join(t for t in (what, thick, condition, age) if t)


def _age(days: int) -> str:
    if days < 60:
        return f"{max(0, days)} days"
    return f"{days // 30} months" if days < 720 else f"{days // 365} years"
