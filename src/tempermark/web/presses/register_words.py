"""What is noted of a press in words."""

from datetime import date
from typing import Any

from tempermark.web.kit.templatetags.figures import difference_text, temperature_text
from tempermark.web.presses.models import Element, Press


def register_rows(press: Press, elements: list[Element], unit: str, today: date) -> list[Any]:
    """Everything noted of a press, label and words; what is not noted is left out."""
    rows = [("Kind", press.get_kind_display())]
    rows += [(e.get_role_display().capitalize(), _element_words(e)) for e in elements]
    rows += [
        ("Controller", _controller_words(press, unit)),
        ("Timer", _timer_words(press)),
        ("Pressure", _pressure_words(press)),
        ("Pad", _worn(press.get_pad_display(), press.pad_mm, "pad", press, today)),
        ("Cover", _worn(press.get_cover_display(), None, "cover", press, today)),
        ("Survey", f"every {press.survey_every_days} days"),
        ("Note", press.note),
    ]
    return [(label, text) for label, text in rows if text]


def _element_words(element: Element) -> str:
    parts = [element.label] if element.label else []
    parts.append(f"{element.get_shape_display()}, {element.width_mm:g} × {element.height_mm:g} mm")
    across = (element.top_diameter_mm, element.bottom_diameter_mm)
    if any(across):
        parts.append("across " + " to ".join(f"{d:g}" for d in across if d) + " mm")
    if element.own_setting:
        parts.append("has a dial of its own")
    return ", ".join(parts)


def _controller_words(press: Press, unit: str) -> str:
    low, high = press.control_low_c, press.control_high_c
    span = ""
    if low is not None or high is not None:
        span = f"{temperature_text(low, unit)} to {temperature_text(high, unit)}, "
    step = difference_text(press.resolution_c, unit, 1, sign=False).replace(".0", "")
    return f"{span}steps of {step}, shows {press.get_display_unit_display()}"


def _timer_words(press: Press) -> str:
    ends = f"stops at {press.timer_max_s} s" if press.timer_max_s else ""
    starts = f"starts by {press.get_timer_starts_display()}" if press.timer_starts else ""
    return ", ".join(t for t in (ends, starts) if t)


def _pressure_words(press: Press) -> str:
    parts = [press.get_mechanism_display()]
    if press.tightens:
        parts.append(f"{press.get_tightens_display()} tightens")
    if press.lift_mm_per_turn:
        parts.append(f"{press.lift_mm_per_turn:g} mm a turn")
    if press.line_kpa:
        parts.append(f"line at {press.line_kpa:g} kPa")
    if press.cylinders or press.cylinder_mm:
        across = f" of {press.cylinder_mm:g} mm" if press.cylinder_mm else ""
        parts.append(f"{press.cylinders or 1} cylinder{'s' * ((press.cylinders or 1) > 1)}{across}")
    if press.plate_kg:
        parts.append(f"plate of {press.plate_kg:g} kg")
    if press.max_line_kpa:
        parts.append(f"rated for {press.max_line_kpa:g} kPa")
    return ", ".join(parts)


def _worn(what: str, thick_mm: float | None, name: str, press: Press, today: date) -> str:
    """What it is, how thick, how it is, and for how long it has been there."""
    if not what:
        return ""
    since = getattr(press, f"{name}_since")
    condition = getattr(press, f"get_{name}_condition_display")()
    age = f"there for {_age((today - since).days)}" if since else ""
    thick = f"{thick_mm:g} mm" if thick_mm else ""
    return ", ".join(t for t in (what, thick, condition, age) if t)


def _age(days: int) -> str:
    if days < 60:
        return f"{max(0, days)} days"
    return f"{days // 30} months" if days < 720 else f"{days // 365} years"
