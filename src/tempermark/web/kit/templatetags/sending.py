"""What every form carries."""

from typing import Any
from uuid import uuid4

from django import template
from django.middleware.csrf import get_token
from django.utils.html import format_html

from tempermark.web.kit.forms.once import ONCE_FIELD
from tempermark.web.kit.forms.units import UNITS_FIELD, form_units

register = template.Library()


@register.simple_tag(takes_context=True)
def form_units_field(context: Any) -> str:
    """The units that a form's figures are drawn in: the page's `form_unit` where it names one."""
    units = context.get("form_unit") or form_units(context["request"])
    return format_html('<input type="hidden" name="{}" value="{}">', UNITS_FIELD, units)


@register.simple_tag(takes_context=True)
def form_head(context: Any) -> str:
    """What a form that is sent carries: the session's token, its own key, and its units."""
    return format_html(
        '<input type="hidden" name="csrfmiddlewaretoken" value="{}">'
        '<input type="hidden" name="{}" value="{}">{}',
        get_token(context["request"]),
        ONCE_FIELD,
        uuid4(),
        form_units_field(context),
    )
