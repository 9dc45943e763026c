"""Conversions at the edge, and reading what a technician typed."""

import math
import re
from dataclasses import dataclass

from tempermark.core.errors import InputError

KPA_PER_PSI = 6.894757293168  # NIST SP 811, B.9
KPA_PER_BAR = 100.0
MM_PER_INCH = 25.4

_ENTRY = re.compile(
    r"""^\s*(?P<number>[+\-−]?(?:\d+(?:[.,]\d*)?|[.,]\d+))
        \s*(?P<unit>°?\s*[a-zA-Z"″]*)
        \s*(?:@\s*(?P<delay>\d+(?:[.,]\d*)?)\s*s?)?\s*$""",
    re.VERBOSE,
)


def celsius_from_fahrenheit(value_f: float) -> float:
    """Temperature in °C. 383 °F is 195 °C."""
    return (value_f - 32.0) / 1.8


def fahrenheit_from_celsius(value_c: float) -> float:
    """Temperature in °F. 195 °C is 383 °F."""
    return value_c * 1.8 + 32.0


_TO_SI = {
    "temperature": {"c": lambda v: v, "f": celsius_from_fahrenheit},
    "length": {
        "mm": lambda v: v,
        "cm": lambda v: v * 10,
        "m": lambda v: v * 1000,
        "in": lambda v: v * MM_PER_INCH,
        '"': lambda v: v * MM_PER_INCH,
    },
    "pressure": {
        "kpa": lambda v: v,
        "psi": lambda v: v * KPA_PER_PSI,
        "bar": lambda v: v * KPA_PER_BAR,
    },
    "time": {
        "s": lambda v: v,
        "sec": lambda v: v,
        "min": lambda v: v * 60,
        "h": lambda v: v * 3600,
    },
}


@dataclass(frozen=True)
class Entry:
    """A typed figure: its value in °C, mm, kPa or s, and the delay after `@` in s."""

    value: float
    delay_s: float | None = None


def read_entry(text: str, quantity: str, default_unit: str) -> Entry:
    """What `text` means, with the unit as typed or else `default_unit`.

    `383f`, `195`, `7,5`, `6 psi`, `182 @6` (read 6 s after opening) are understood.
    Raises InputError saying what would be right.
    """
    units = _TO_SI[quantity]
    match = _ENTRY.match(text)
    if not match:
        raise InputError.single(
            None, f"“{text.strip()[:40]}” is no figure. Type one like {_sample(quantity)}."
        )
    unit = match["unit"].replace("°", "").replace("″", '"').strip().lower() or default_unit
    if unit not in units:
        known = ", ".join(units)
        raise InputError.single(
            None, f"“{unit[:20]}” is not a unit of {quantity} here. Known: {known}."
        )
    delay = match["delay"]
    return Entry(units[unit](_number(match["number"])), _number(delay) if delay else None)


@dataclass(frozen=True)
class ReadingBounds:
    """What a strip says: at least `low` and below `high`, in °C; infinite where open."""

    low: float
    high: float


_BOUNDS = re.compile(
    r"""^\s*(?:
        (?:>=|≥|>|at\ least)\s*(?P<low>[^-–.\s].*)
      | (?P<plus>.+?)\s*\+
      | (?:<=?|below|under)\s*(?P<high>.+)
      | (?P<from>.+?)\s*(?:-|–|\.\.|\bto\b)\s*(?P<to>.+)
      | (?P<last>.+)
    )\s*$""",
    re.VERBOSE | re.IGNORECASE,
)


def read_bounds(text: str, default_unit: str, fields_c: tuple[float, ...] = ()) -> ReadingBounds:
    """What a strip's reading means: `190-200`, `at least 190`, `>=190`, `190+`, `below 200`.

    A plain figure is the last field that turned: at least that, and below the strip's next of
    `fields_c` (ascending, °C) if there is one. InputError when it is none of these.
    """
    match = _BOUNDS.match(text)
    if not match:
        raise InputError.single(None, "Type what the strip shows, like 190-200 or below 200.")
    if match["from"]:
        bounds = ReadingBounds(
            _celsius(match["from"], default_unit), _celsius(match["to"], default_unit)
        )
        if bounds.low >= bounds.high:
            raise InputError.single(None, f"“{text.strip()[:40]}” runs down: the lower one first.")
        return bounds
    if match["high"]:
        return ReadingBounds(-math.inf, _celsius(match["high"], default_unit))
    low = _celsius(match["low"] or match["plus"] or match["last"], default_unit)
    if not match["last"]:
        return ReadingBounds(low, math.inf)
    return ReadingBounds(low, next((f for f in fields_c if f > low + 0.25), math.inf))


def _celsius(text: str, default_unit: str) -> float:
    return read_entry(text, "temperature", default_unit).value


def _number(text: str) -> float:
    return float(text.replace(",", ".").replace("−", "-"))


def _sample(quantity: str) -> str:
    return {
        "temperature": "195, 7,5 or 383f",
        "length": "120 or 4.7 in",
        "pressure": "40 or 6 psi",
        "time": "45 or 2 min",
    }[quantity]
