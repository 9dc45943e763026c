"""The core's phrases in templates."""

from typing import Any

from django import template

from tempermark.core.phrases import Quantity, Text
from tempermark.web.kit import wording
from tempermark.web.kit.records.audit import label_of
from tempermark.web.kit.units import units_of

register = template.Library()


@register.simple_tag(takes_context=True)
def say(context: dict[str, Any], text: Text | Quantity) -> str:
    """A phrase in the reader's units."""
    return wording.say(text, units_of(context.get("user")))


@register.simple_tag(takes_context=True)
def in_units(context: dict[str, Any], text: str) -> str:
    """A text that names °C, mm and kPa, in the reader's units."""
    return wording.in_units(str(text or ""), units_of(context.get("user")))


@register.filter
def record_label(row: Any) -> str:
    """How the audit record names a row, for the address of its history."""
    return label_of(row)
