"""Figures in templates, in the reader's units."""

from typing import Any

from django import template

from tempermark.core.phrases import rough_wait_text, wait_text
from tempermark.web.kit import figures
from tempermark.web.kit.figures import NO_BREAK, difference_text, minus, temperature_text
from tempermark.web.kit.units import Units, units_of

register = template.Library()
UNKNOWN = "—"


def _units(context: Any) -> Units:
    return units_of(context.get("user"))


def _is_known(*values: Any) -> bool:
    """Whether all are numbers: what a page does not know is None, or empty to a template."""
    return not any(value is None or value == "" for value in values)


@register.simple_tag(takes_context=True)
def temp(context: Any, value_c: float, digits: int = 0) -> str:
    """A temperature in the reader's unit."""
    return temperature_text(value_c, _units(context), digits)


@register.simple_tag(takes_context=True)
def temps(context: Any, low_c: float, high_c: float) -> str:
    """A span of temperatures in the person's unit: `195–205 °C`."""
    units = _units(context)
    low, high = (temperature_text(value, units) for value in (low_c, high_c))
    return f"{low.split(NO_BREAK)[0]}–{high}"


@register.simple_tag(takes_context=True)
def diff(context: Any, value_k: float, digits: int = 1) -> str:
    """A temperature difference in the reader's unit."""
    return difference_text(value_k, _units(context), digits)


@register.simple_tag(takes_context=True)
def spread(context: Any, value_k: float, digits: int = 1) -> str:
    """A size of a difference, without sign: what stands after ±."""
    return difference_text(value_k, _units(context), digits, sign=False)


@register.simple_tag(takes_context=True)
def length(context: Any, value_mm: float | None, digits: int = 0, sign: bool = False) -> str:
    """A length in the reader's unit; with no digits to what a ruler shows."""
    if not _is_known(value_mm):
        return UNKNOWN
    return figures.length_text(value_mm, _units(context), digits, sign)


@register.simple_tag(takes_context=True)
def size(context: Any, *sides_mm: float, digits: int = 0) -> str:
    """Width × height in the reader's unit; a dash where a side is not known."""
    if not _is_known(*sides_mm):
        return UNKNOWN
    return figures.size_text(sides_mm, _units(context), digits)


@register.simple_tag(takes_context=True)
def place(context: Any, x_mm: float, y_mm: float) -> str:
    """A place from the front left corner in the reader's unit."""
    if not _is_known(x_mm, y_mm):
        return UNKNOWN
    return figures.place_text(x_mm, y_mm, _units(context))


@register.simple_tag(takes_context=True)
def pressure(context: Any, value_kpa: float | None, digits: int = 0) -> str:
    """A pressure in the reader's unit."""
    if not _is_known(value_kpa):
        return UNKNOWN
    return figures.pressure_text(value_kpa, _units(context), digits)


@register.simple_tag(takes_context=True)
def pressures(context: Any, low_kpa: float, high_kpa: float, digits: int = 0) -> str:
    """A span of pressures in the reader's unit."""
    return figures.pressures_text(low_kpa, high_kpa, _units(context), digits)


@register.simple_tag(takes_context=True)
def weight(context: Any, value_kg: float, digits: int = 0) -> str:
    """A weight in the reader's unit."""
    if not _is_known(value_kg):
        return UNKNOWN
    return figures.weight_text(value_kg, _units(context), digits)


@register.simple_tag(takes_context=True)
def unit(context: Any, quantity: str) -> str:
    """How the reader's unit of a quantity is written: `°F`, `mm`."""
    return _units(context).symbol(quantity)


@register.filter
def percent(value: float) -> str:
    """0.934 → `93 %`."""
    return "—" if value is None else f"{value * 100:.0f} %"


@register.filter
def clock(seconds: float) -> str:
    """A wait as it is said."""
    return wait_text(seconds)


@register.filter
def rough_clock(seconds: float) -> str:
    """A wait that is not known to the second."""
    return rough_wait_text(seconds)


@register.filter
def figure(value: Any, digits: int = 0) -> str:
    """A number with a real minus sign; a dash for none, as for what a template does not know."""
    if value is None or value == "":
        return "—"
    shown = f"{float(value):.{int(digits)}f}"
    return minus(shown if float(shown) else shown.removeprefix("-"))


@register.filter
def short(value: float) -> str:
    """A number with as many digits as it needs, four at most."""
    return "—" if value is None else minus(f"{float(value):.4g}")


@register.filter
def chance(value: float) -> str:
    """A probability as `86 %`, never as certain."""
    return figures.chance_text(value)


@register.filter
def words(code: str) -> str:
    """A code as words, for codes that have no label of their own."""
    return "" if code is None else str(code).replace("_", " ")


@register.filter
def lookup(mapping: Any, key: Any) -> Any:
    """mapping[key] or None."""
    return mapping.get(key) if mapping else None
