"""The core's phrases as a person reads them, in the units that person has chosen."""

from tempermark.core.errors import InputError
from tempermark.core.phrases import UNIT_OF_KIND, Quantity, Text, rendered
from tempermark.web.kit.templatetags.figures import (
    NO_BREAK,
    difference_text,
    minus,
    temperature_text,
)


def say(text: Text | Quantity, unit: str) -> str:
    """A phrase, or one quantity, in a person's units."""
    return rendered(text, lambda quantity: quantity_text(quantity, unit))


def error_text(error: InputError, unit: str) -> str:
    """All that is wrong with an input, in a person's units."""
    return "; ".join(say(problem.message, unit) for problem in error.problems)


def quantity_text(quantity: Quantity, unit: str) -> str:
    """`195 °C` or `383 °F`, `40–60 s`, `+1.5 mm`."""
    if quantity.high is not None:
        low, high = (_one(value, quantity, unit) for value in (quantity.value, quantity.high))
        return f"{low.split(NO_BREAK)[0]}–{high}"
    return _one(quantity.value, quantity, unit)


def _one(value: float, quantity: Quantity, unit: str) -> str:
    digits = quantity.digits
    if quantity.kind == "temperature":
        return temperature_text(value, unit, _digits(value) if digits is None else digits)
    if quantity.kind == "difference":
        return difference_text(value, unit, digits or 0, sign=quantity.signed)
    sign = "+" if quantity.signed else ""
    shown = f"{value:{sign}g}" if digits is None else f"{value:{sign}.{digits}f}"
    return f"{minus(shown)}{NO_BREAK}{UNIT_OF_KIND[quantity.kind]}"


def _digits(value_c: float) -> int:
    """A whole degree, or a tenth where the figure is no whole one."""
    return 0 if abs(value_c - round(value_c)) < 0.05 else 1
