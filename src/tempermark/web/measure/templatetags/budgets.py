"""Bars of contributions in templates."""

from django import template

from tempermark.web.measure.surveys.budget import Bar, bar
from tempermark.web.measure.surveys.mapping import StationValue

register = template.Library()


@register.filter
def budget_bar(value: StationValue) -> Bar:
    """The bar of one station."""
    return bar(value.station.label, value.true.components)
