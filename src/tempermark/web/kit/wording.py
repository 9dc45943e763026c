"""The core's phrases as a person reads them, in the units that person has chosen."""

import re
from collections.abc import Callable, Sequence

from tempermark.core.errors import InputError
from tempermark.core.phrases import KIND_OF_UNIT, UNIT_OF_KIND, Quantity, Text, rendered
from tempermark.web.kit.figures import (
    NO_BREAK,
    decimals_of,
    difference_text,
    length_text,
    mass_text,
    minus,
    pressure_text,
    temperature_text,
    volume_text,
)
from tempermark.web.kit.units import METRIC, Units


def say(text: Text | Quantity, units: Units) -> str:
    """A phrase, or one quantity, in a person's units."""
    return rendered(text, lambda quantity: quantity_text(quantity, units))


def error_text(error: InputError, units: Units) -> str:
    """All that is wrong with an input, in a person's units."""
    return "; ".join(say(problem.message, units) for problem in error.problems)


# A quantity as a recipe, a source or a layer names it: `190 °C`, `155 to 165 °C`, `0.2 mm`.
WRITTEN = re.compile(
    r"(?P<low>\d+(?:\.\d+)?)(?:(?P<between>–| to )(?P<high>\d+(?:\.\d+)?))?[ \u00a0]?"
    r"(?P<unit>°C|mm|kPa|K|ml|g|kg)(?![\w/²³·])"
)


def in_units(text: str, units: Units) -> str:
    """A text that names quantities in °C, mm and kPa, as a person with other units reads it."""
    if units == METRIC:
        return text

    def converted(match: re.Match[str]) -> str:
        kind = KIND_OF_UNIT[match["unit"]]
        low, high = (
            None if figure is None else quantity_text(Quantity(kind, float(figure)), units)
            for figure in (match["low"], match["high"])
        )
        if low is None or high is None:
            return str(low)
        return f"{low.split(NO_BREAK)[0]}{match['between']}{high}"

    return WRITTEN.sub(converted, text)


def quantity_text(quantity: Quantity, units: Units) -> str:
    """`195 °C` or `383 °F`, `40–60 s`, `+1.5 mm` or `+0.059 in`."""
    if quantity.high is not None:
        low, high = (_one(value, quantity, units) for value in (quantity.value, quantity.high))
        return f"{low.split(NO_BREAK)[0]}–{high}"
    return _one(quantity.value, quantity, units)


def _one(value: float, quantity: Quantity, units: Units) -> str:
    kind, signed = quantity.kind, quantity.signed
    digits = decimals_of(value) if quantity.digits is None else quantity.digits
    if kind == "temperature":
        return temperature_text(value, units, min(digits, 1))
    if kind == "difference":
        return difference_text(value, units, digits, sign=signed)
    if kind == "length":
        return length_text(value, units, digits, sign=signed)
    if kind in _WRITERS:
        return _WRITERS[kind](value, units, digits)
    return f"{minus(f'{value:.{digits}f}')}{NO_BREAK}{UNIT_OF_KIND[kind]}"


_WRITERS: dict[str, Callable[[float, Units, int], str]] = {
    "pressure": pressure_text,
    "volume": volume_text,
    "mass": mass_text,
}


def in_words(names: Sequence[str]) -> str:
    """Names with commas between, and an “and” before the last; empty for none."""
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)
