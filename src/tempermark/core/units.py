"""Conversions at the edge, and reading what a technician typed."""

import math
import re
from dataclasses import dataclass

from tempermark.core.errors import InputError

KPA_PER_PSI = 6.894757293168  # NIST SP 811, B.9
KPA_PER_BAR = 100.0
MM_PER_INCH = 25.4
ML_PER_FLUID_OUNCE = 29.5735295625  # US customary, NIST SP 811, B.8
FLUID_OUNCES_PER_CUP = 8
G_PER_OUNCE = 28.349523125  # avoirdupois, NIST SP 811, B.8
M_PER_FOOT = 0.3048  # NIST SP 811, B.8
KG_PER_POUND = 0.45359237  # avoirdupois, NIST SP 811, B.8
FAHRENHEIT_PER_KELVIN = 1.8

_ENTRY = re.compile(
    r"""^\s*(?P<sign>[+\-−]?)
        (?:(?P<minutes>\d+):(?P<seconds>[0-5]\d)
          |(?:(?P<whole>\d+)\s+)?(?P<top>\d+)\s*/\s*(?P<bottom>\d+)
          |(?P<number>\d+(?:[.,]\d*)?|[.,]\d+))
        \s*(?P<unit>°?\s*[a-zA-Z"″]*(?:\s*oz)?\.?)
        \s*(?:@\s*(?P<delay>\d+(?:[.,]\d*)?)\s*s?)?\s*$""",
    re.VERBOSE,
)


def celsius_from_fahrenheit(value_f: float) -> float:
    """Temperature in °C. 383 °F is 195 °C."""
    return (value_f - 32.0) / FAHRENHEIT_PER_KELVIN


def fahrenheit_from_celsius(value_c: float) -> float:
    """Temperature in °F. 195 °C is 383 °F."""
    return value_c * FAHRENHEIT_PER_KELVIN + 32.0


# Quantity → unit → how many °C, K, mm, kPa, s, ml, g, kg or m it is; a temperature is shifted too.
_SIZES = {
    "difference": {"c": 1.0, "k": 1.0, "f": 1 / FAHRENHEIT_PER_KELVIN},
    "length": {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": MM_PER_INCH},
    "pressure": {"kpa": 1.0, "bar": KPA_PER_BAR, "psi": KPA_PER_PSI},
    "time": {"s": 1.0, "min": 60.0, "h": 3600.0},
    "volume": {
        "ml": 1.0,
        "l": 1000.0,
        "floz": ML_PER_FLUID_OUNCE,
        "cup": FLUID_OUNCES_PER_CUP * ML_PER_FLUID_OUNCE,
    },
    "mass": {"g": 1.0, "kg": 1000.0, "oz": G_PER_OUNCE},
    "weight": {"kg": 1.0, "lb": KG_PER_POUND},
    "altitude": {"m": 1.0, "ft": M_PER_FOOT},
}
# What people write for a unit.
_SPELLINGS = {
    '"': "in",
    "inch": "in",
    "inches": "in",
    "sec": "s",
    "fl oz": "floz",
    "cups": "cup",
    "lbs": "lb",
}
# An ounce of a liquid is a fluid ounce.
_VOLUME_SPELLINGS = {"oz": "floz"}
_UNITS_OF = {"temperature": ("c", "f")} | {kind: tuple(sizes) for kind, sizes in _SIZES.items()}


def to_si(value: float, quantity: str, unit: str) -> float:
    """A figure in `unit` as °C, K, mm, kPa, s, ml, g, kg or m. 40 psi is 275.79 kPa."""
    if quantity == "temperature":
        return celsius_from_fahrenheit(value) if unit == "f" else value
    return value * _SIZES[quantity][unit]


def from_si(value: float, quantity: str, unit: str) -> float:
    """A figure in °C, K, mm, kPa, s, ml, g, kg or m in `unit`. 25.4 mm is 1 in."""
    if quantity == "temperature":
        return fahrenheit_from_celsius(value) if unit == "f" else value
    return value / _SIZES[quantity][unit]


@dataclass(frozen=True)
class Entry:
    """A typed figure: its value in °C, mm, kPa or s, and the delay after `@` in s."""

    value: float
    delay_s: float | None = None


def read_entry(text: str, quantity: str, default_unit: str) -> Entry:
    """What `text` means in °C, K, mm, kPa, s, ml, g, kg or m, in the unit typed or `default_unit`.

    `383f`, `195`, `7,5`, `3 1/2 in`, `6 psi`, `2:00` (minutes and seconds) and `182 @6` (read 6 s
    after opening) are understood. Raises InputError saying what would be right.
    """
    match = _ENTRY.match(text)
    if not match or (match["minutes"] and (quantity != "time" or match["unit"])):
        raise _not_understood(text, quantity)
    unit = _unit_of(match["unit"], quantity) or default_unit
    if unit not in _UNITS_OF[quantity]:
        known = ", ".join(_UNITS_OF[quantity])
        raise InputError.single(
            None, f"“{unit[:20]}” is not a unit of {quantity} here. Known: {known}."
        )
    if match["minutes"]:
        value = to_si(60.0 * int(match["minutes"]) + int(match["seconds"]), quantity, "s")
    else:
        value = to_si(_figure(match, text, quantity), quantity, unit)
    delay = match["delay"]
    return Entry(value, _number(delay) if delay else None)


def _not_understood(text: str, quantity: str) -> InputError:
    return InputError.single(
        None, f"“{text.strip()[:40]}” is not a number. Type one like {_SAMPLES[quantity]}."
    )


def _unit_of(typed: str, quantity: str) -> str:
    """The unit as it is called here; nothing where none was typed."""
    text = " ".join(typed.replace("°", "").replace("″", '"').lower().rstrip(".").split())
    text = _SPELLINGS.get(text, text)
    return _VOLUME_SPELLINGS.get(text, text) if quantity == "volume" else text


def _figure(match: re.Match[str], text: str, quantity: str) -> float:
    """The number before the unit: plain, or with a fraction."""
    if match["number"]:
        value = _number(match["number"])
    elif int(match["bottom"]):
        value = int(match["whole"] or 0) + int(match["top"]) / int(match["bottom"])
    else:
        raise _not_understood(text, quantity)
    return -value if match["sign"] in ("-", "−") else value


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
            raise InputError.single(
                None, f"“{text.strip()[:40]}” runs downwards: give the lower one first."
            )
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


_SAMPLES = {
    "temperature": "195, 7,5 or 383f",
    "difference": "5 or 9f",
    "length": "120, 4.7 in or 4 3/4 in",
    "pressure": "40, 6 psi or 0.4 bar",
    "time": "45, 2 min or 2:00",
    "volume": "250, 8 fl oz or 1 cup",
    "mass": "5 or 0.2 oz",
    "weight": "12 or 26 lb",
    "altitude": "370 or 1200 ft",
}
