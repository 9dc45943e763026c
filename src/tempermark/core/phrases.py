"""Sentences of the core without a unit in them: quantities stay numbers until somebody reads them.

A text names its values in braces, `true {measured} at the print`; a fixed quantity stands in braces
itself, `a side over {300 mm}`. Who shows it says how a quantity is written (`rendered`).
"""

import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Literal

Kind = Literal["temperature", "difference", "length", "duration", "pressure", "mass", "volume"]

# How a fixed quantity is written in a text, and its kind. Always in these units.
KIND_OF_UNIT: dict[str, Kind] = {
    "°C": "temperature",
    "K": "difference",
    "mm": "length",
    "s": "duration",
    "kPa": "pressure",
    "g": "mass",
    "ml": "volume",
}
UNIT_OF_KIND = {kind: unit for unit, kind in KIND_OF_UNIT.items()}
PLACEHOLDER = re.compile(r"\{([^{}]+)\}")
FIXED = re.compile(r"(−?[\d.]+)(?:[–-]([\d.]+))?\s(°C|K|mm|s|kPa|g|ml)")


@dataclass(frozen=True)
class Quantity:
    """A number with its kind, in °C, K, mm, s, kPa, g or ml; `high` makes it a span.

    `digits` behind the point in these units (None: as many as it needs); `signed` shows a plus.
    """

    kind: Kind
    value: float
    high: float | None = None
    digits: int | None = None
    signed: bool = False


@dataclass(frozen=True)
class Phrase:
    """A text with values in it, of which some may be phrases themselves."""

    text: str
    values: Mapping[str, "Quantity | Phrase | str"] = field(default_factory=dict)

    def __str__(self) -> str:
        """In metric units, for logs and for errors whose reader is not known."""
        return metric(self)


Text = Phrase | str
# How one quantity is written.
Writer = Callable[[Quantity], str]


def phrase(text: str, **values: "Quantity | Phrase | str") -> Phrase:
    """A text with its values. Raises KeyError for a name in it that has none."""
    built = Phrase(text, values)
    if missing := missing_values(built):
        raise KeyError(f"No value for {', '.join(sorted(missing))} in “{text}”.")
    return built


def joined(separator: str, parts: Iterable[Text]) -> Phrase:
    """Texts one after the other."""
    named = {f"part{n}": part for n, part in enumerate(parts)}
    return Phrase(separator.join(f"{{{name}}}" for name in named), named)


def rendered(text: "Text | Quantity", write: Writer) -> str:
    """A text as somebody reads it. Raises KeyError for a value that a phrase lacks; braces in plain
    text, which somebody may have typed, are braces.
    """
    if isinstance(text, Quantity):
        return write(text)
    is_plain = isinstance(text, str)
    if isinstance(text, str):
        text = Phrase(text)
    values = text.values

    def value_of(match: re.Match[str]) -> str:
        name = match.group(1)
        if name not in values and (fixed := quantity_from(name)) is not None:
            return write(fixed)
        if is_plain:
            return match.group(0)
        value = values[name]
        return value if isinstance(value, str) else rendered(value, write)

    return PLACEHOLDER.sub(value_of, text.text)


def quantity_from(text: str) -> Quantity | None:
    """`300 mm` or `180–200 °C` as a quantity; None for anything else."""
    found = FIXED.fullmatch(text)
    if found is None:
        return None
    low, high, unit = found.groups()
    value = float(low.replace("−", "-"))
    return Quantity(KIND_OF_UNIT[unit], value, None if high is None else float(high))


def missing_values(text: Phrase) -> set[str]:
    """Names in a text that have no value and are no fixed quantity."""
    return {name for name in _names_in(text.text) if name not in text.values}


@lru_cache(maxsize=4096)
def _names_in(text: str) -> frozenset[str]:
    """What stands in braces and is no fixed quantity."""
    return frozenset(n for n in PLACEHOLDER.findall(text) if quantity_from(n) is None)


def temperature(value_c: float, digits: int | None = None) -> Quantity:
    """°C."""
    return Quantity("temperature", value_c, digits=digits)


def temperatures(span_c: tuple[float, float]) -> Quantity:
    """From … to, in °C."""
    return Quantity("temperature", *span_c)


def difference(value_k: float, digits: int | None = None, signed: bool = False) -> Quantity:
    """A difference of temperatures, in K."""
    return Quantity("difference", value_k, digits=digits, signed=signed)


def length(value_mm: float, digits: int | None = None, signed: bool = False) -> Quantity:
    """mm."""
    return Quantity("length", value_mm, digits=digits, signed=signed)


def duration(value_s: float, digits: int | None = None) -> Quantity:
    """A time in s."""
    return Quantity("duration", value_s, digits=digits)


def durations(span_s: tuple[float, float]) -> Quantity:
    """From … to, in seconds."""
    return Quantity("duration", *span_s)


def wait_text(value_s: float) -> str:
    """A wait in s as it is said, the same for everybody: `45 s`, `3:20`, `12 min`, `1 h 30 min`."""
    whole = round(value_s)
    if whole < 100:
        return f"{whole} s"
    minutes, seconds = divmod(whole, 60)
    if seconds and whole < 600:
        return f"{minutes}:{seconds:02d}"
    hours, left = divmod(round(whole / 60), 60)
    parts = [f"{hours} h"] * bool(hours) + [f"{left} min"] * bool(left)
    return " ".join(parts)


def rough_wait_text(value_s: float) -> str:
    """A wait in s that is not known to the second: to 5 s, from 2 min on to half a minute, from
    10 min on to the minute.
    """
    step = 5 if value_s < 120 else 30 if value_s < 600 else 60
    return wait_text(step * max(1, round(value_s / step)))


def pressure(value_kpa: float, digits: int | None = 0) -> Quantity:
    """kPa."""
    return Quantity("pressure", value_kpa, digits=digits)


def metric(text: "Text | Quantity") -> str:
    """A text in °C, K, mm, s and kPa: `195 °C`, `40–60 s`, `+1.5 mm`."""
    return rendered(text, _metric_quantity)


def _metric_quantity(quantity: Quantity) -> str:
    shown = _metric_number(quantity.value, quantity)
    if quantity.high is not None:
        shown += f"–{_metric_number(quantity.high, quantity)}"
    return f"{shown} {UNIT_OF_KIND[quantity.kind]}"


def _metric_number(value: float, quantity: Quantity) -> str:
    sign = "+" if quantity.signed else ""
    digits = quantity.digits
    if digits is None and quantity.kind == "temperature" and quantity.high is None:
        digits = 0 if abs(value - round(value)) < 0.05 else 1
    shown = f"{value:{sign}g}" if digits is None else f"{value:{sign}.{digits}f}"
    return shown.replace("-", "−")
