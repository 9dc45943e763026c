"""The core's phrases in templates."""

from typing import Any

from django import template

from tempermark.core.phrases import Quantity, Text
from tempermark.web.kit import wording
from tempermark.web.kit.templatetags.figures import unit_of

register = template.Library()


@register.simple_tag(takes_context=True)
def say(context: dict[str, Any], text: Text | Quantity) -> str:
    """A phrase in the reader's units."""
    return wording.say(text, unit_of(context.get("user")))
