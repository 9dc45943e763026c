"""Bars of contributions in templates."""

from django import template

from tempermark.web.measure.budget import Bar, bar
from tempermark.web.measure.mapping import StationValue

register = template.Library()


@register.filter
def budget_bar(value: StationValue) -> Bar:
    """The bar of one station."""
    return bar(value.station.label, value.true.components)
