"""Parts of a recipe as people read them."""

from django import template

from tempermark.core.recipes.layers import entry_text

register = template.Library()

LONG_S, MINUTE_S, HOUR_S = 600, 60, 3600


@register.filter
def layer(entry: str, library) -> str:
    """A stored layer in the library's words."""
    return entry_text(entry, library)


@register.filter
def span_of_time(span) -> str:
    """From and to: seconds up to ten minutes, then minutes, then hours."""
    low, high = span
    unit, scale = "s", 1
    if high > LONG_S:
        unit, scale = ("min", MINUTE_S) if high < 2 * HOUR_S else ("h", HOUR_S)
    texts = [f"{value / scale:g}" for value in (low, high)]
    return f"{texts[0]} {unit}" if texts[0] == texts[1] else f"{texts[0]}–{texts[1]} {unit}"
