"""The units one person reads and types."""

from dataclasses import dataclass, fields
from typing import Any

# Quantity → unit → how it is written.
SYMBOLS = {
    "temperature": {"c": "°C", "f": "°F"},
    "difference": {"c": "K", "f": "°F"},
    "length": {"mm": "mm", "in": "in"},
    "pressure": {"kpa": "kPa", "bar": "bar", "psi": "psi"},
    "volume": {"ml": "ml", "floz": "fl oz"},
    "mass": {"g": "g", "oz": "oz"},
    "weight": {"kg": "kg", "lb": "lb"},
    "altitude": {"m": "m", "ft": "ft"},
}
SEPARATOR = "-"


@dataclass(frozen=True)
class Units:
    """What a person chose for each quantity; a difference goes with the temperature."""

    temperature: str = "c"
    length: str = "mm"
    pressure: str = "kpa"
    volume: str = "ml"
    mass: str = "g"

    def of(self, quantity: str) -> str:
        """The unit of a quantity; seconds for a time. A weight is in kg or pounds by the mass, an
        altitude in m or feet by the length.
        """
        if quantity in ("time", "duration"):
            return "s"
        if quantity == "weight":
            return "kg" if self.mass == "g" else "lb"
        if quantity == "altitude":
            return "m" if self.length == "mm" else "ft"
        return str(getattr(self, "temperature" if quantity == "difference" else quantity))

    def symbol(self, quantity: str) -> str:
        """How that unit is written, like `°F` or `kPa`."""
        return "s" if quantity in ("time", "duration") else SYMBOLS[quantity][self.of(quantity)]

    @property
    def code(self) -> str:
        """As a form carries it: `c-mm-kpa-ml-g`."""
        return SEPARATOR.join(getattr(self, f.name) for f in fields(self))

    def __str__(self) -> str:
        """As a form carries it."""
        return self.code


METRIC = Units()
IMPERIAL = Units("f", "in", "psi", "floz", "oz")


def units_from_code(code: str, default: Units = METRIC) -> Units:
    """The units that a form carries. A code that ends early, as `f`, leaves the rest to `default`;
    an unknown one leaves all of them.
    """
    parts = code.split(SEPARATOR) if code else []
    names = [f.name for f in fields(Units)]
    chosen = dict(zip(names, parts, strict=False))
    if len(parts) > len(names) or any(u not in SYMBOLS[q] for q, u in chosen.items()):
        return default
    return Units(**{name: getattr(default, name) for name in names} | chosen)


def units_of(user: Any) -> Units:
    """A person's units; metric ones for nobody."""
    return getattr(user, "units", METRIC) or METRIC
