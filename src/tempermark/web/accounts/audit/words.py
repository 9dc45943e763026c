"""Entries of the record as a person reads them."""

import re
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.apps import apps

from tempermark.web.accounts.models import User
from tempermark.web.kit.figures import (
    difference_text,
    length_text,
    mass_text,
    pressure_text,
    temperature_text,
    volume_text,
    weight_text,
)
from tempermark.web.kit.records.audit import AuditEntry
from tempermark.web.kit.units import Units

# The unit that a name ends with → how a person reads it.
FIGURES: dict[str, Any] = {
    "c": lambda value, units: temperature_text(value, units, 1),
    "k": lambda value, units: difference_text(value, units, 1),
    "mm": lambda value, units: length_text(value, units, 1),
    "kpa": lambda value, units: pressure_text(value, units, 1),
    "ml": volume_text,
    "g": mass_text,
    "kg": weight_text,
    "s": lambda value, units: f"{value:g} s",
    "min": lambda value, units: f"{value:g} min",
}
LONGEST_VALUE, MOST_ITEMS = 80, 8
UNNAMED = re.compile(r"\w+ object \(\w+\)$")
BY_PIN = "by_pin"
NUMBERED = {"pk", "id"}


@dataclass(frozen=True)
class Said:
    """An entry in words."""

    at: datetime
    who: str
    did: str
    subject: str
    detail: str


def say_entry(entry: AuditEntry, units: Units) -> Said:
    """An entry in a person's units."""
    model, pk = _model_of(entry.subject)
    kind = str(model._meta.verbose_name) if model is not None else entry.subject
    is_named = entry.name and not UNNAMED.match(entry.name)
    return Said(
        at=entry.at,
        who=_who(entry),
        did=entry.did,
        subject=subject_words(kind, entry.name) if is_named else f"{kind} {pk}".strip(),
        detail=detail_words(entry.detail, units),
    )


def subject_words(kind: str, name: str) -> str:
    """A kind and a name; what of the kind the name begins with is said once: `fault case 2`."""
    words = kind.split()
    for count in range(len(words), 0, -1):
        tail = " ".join(words[-count:])
        if name.lower().startswith(tail.lower()):
            return " ".join([*words[:-count], tail]) + name[len(tail) :]
    return f"{kind} {name}"


def _who(entry: AuditEntry) -> str:
    name = entry.who.username if isinstance(entry.who, User) else "nobody signed in"
    return f"{name}, by PIN" if entry.detail.get(BY_PIN) else name


def _model_of(label: str) -> tuple[Any, str]:
    name, _, pk = label.partition(":")
    try:
        return apps.get_model(name), pk
    except (LookupError, ValueError):
        return None, pk


def detail_words(detail: dict[str, Any], units: Units) -> str:
    """What an entry keeps besides: `set 195 °C, note a slip`."""
    parts = [_part(name, value, units) for name, value in detail.items() if name != BY_PIN]
    return "; ".join(part for part in parts[:MOST_ITEMS] if part)


def _part(name: str, value: Any, units: Units) -> str:
    if value in (None, "", [], {}):
        return ""
    label, _, unit = name.rpartition("_")
    figure = FIGURES.get(unit) if label else None
    values = value if isinstance(value, list) else [value]
    if figure is not None and all(_is_number(one) for one in values):
        figures = " → ".join(figure(float(one), units) for one in values)
        return f"{label.replace('_', ' ')} {figures}"
    return f"{name.replace('_', ' ')} {_value(name, value, units)}"[:LONGEST_VALUE]


def _is_number(value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)


def _value(name: str, value: Any, units: Units) -> str:
    if isinstance(value, dict):
        return ", ".join(filter(None, (_part(str(k), v, units) for k, v in value.items())))
    if isinstance(value, list) and len(value) == 2 and not any(isinstance(v, list) for v in value):
        before, now = (_value(name, v, units) or "nothing" for v in value)
        return f"{before} → {now}"
    if isinstance(value, list):
        return ", ".join(_value(name, v, units) for v in value[:MOST_ITEMS])
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:g}" if isinstance(value, float) else str(value)
