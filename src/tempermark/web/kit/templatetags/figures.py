"""Figures on screen: the person's unit, real minus signs, no false digits."""

from typing import Any

from django import template

from tempermark.core.units import fahrenheit_from_celsius

register = template.Library()
# Between a figure and its unit, so that no line breaks there.
NO_BREAK = "\u00a0"


def minus(text: str) -> str:
    """A real minus sign for the hyphen."""
    return text.replace("-", "−")


def unit_of(user: Any) -> str:
    """`c` or `f`."""
    return getattr(user, "temperature_unit", "c") or "c"


def temperature_text(value_c: float | None, unit: str, digits: int = 0) -> str:
    """`195 °C` or `383 °F`; an em dash where nothing is known."""
    if value_c is None:
        return "—"
    value = fahrenheit_from_celsius(value_c) if unit == "f" else value_c
    return f"{minus(f'{value:.{digits}f}')}{NO_BREAK}°{unit.upper()}"


def difference_text(value_k: float | None, unit: str, digits: int = 0, sign: bool = True) -> str:
    """A difference: `+6 K` or `+11 °F`."""
    if value_k is None:
        return "—"
    value = value_k * 1.8 if unit == "f" else value_k
    shown = f"{value:+.{digits}f}" if sign else f"{abs(value):.{digits}f}"
    if float(shown) == 0:
        shown = f"{0:.{digits}f}"
    return f"{minus(shown)}{NO_BREAK}{'°F' if unit == 'f' else 'K'}"


def share_text(share: float) -> str:
    """A share as %, never 0 or 100 where it is neither."""
    shown = 100 * share
    if 0 < share < 1:
        shown = min(max(shown, 1.0), 99.0)
    return f"{shown:.0f}{NO_BREAK}%"


def chance_text(chance: float) -> str:
    """A chance as %, never 0 or 100: nothing that is drawn by lot is certain."""
    return f"{min(99, max(1, round(chance * 100)))}{NO_BREAK}%"


@register.simple_tag(takes_context=True)
def temp(context: Any, value_c: float, digits: int = 0) -> str:
    """A temperature in the reader's unit."""
    return temperature_text(value_c, unit_of(context.get("user")), digits)


@register.simple_tag(takes_context=True)
def temps(context: Any, low_c: float, high_c: float) -> str:
    """A span of temperatures in the person's unit: `195–205 °C`."""
    unit = unit_of(context.get("user"))
    low, high = (temperature_text(value, unit) for value in (low_c, high_c))
    return f"{low.split(NO_BREAK)[0]}–{high}"


@register.simple_tag(takes_context=True)
def diff(context: Any, value_k: float, digits: int = 1) -> str:
    """A temperature difference in the reader's unit."""
    return difference_text(value_k, unit_of(context.get("user")), digits)


@register.simple_tag(takes_context=True)
def spread(context: Any, value_k: float, digits: int = 1) -> str:
    """A size of a difference, without sign: what stands after ±."""
    return difference_text(value_k, unit_of(context.get("user")), digits, sign=False)


@register.filter
def percent(value: float) -> str:
    """0.934 → `93 %`."""
    return "—" if value is None else f"{value * 100:.0f} %"


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
    """A probability as `0.86`, never as certain: `0.99` at most, `0.01` at least."""
    return f"{min(0.99, max(0.01, value)):.2f}"


@register.filter
def words(code: str) -> str:
    """A code as words, for codes that have no label of their own."""
    return "" if code is None else str(code).replace("_", " ")


@register.filter
def lookup(mapping: Any, key: Any) -> Any:
    """mapping[key] or None."""
    return mapping.get(key) if mapping else None
