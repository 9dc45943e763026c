"""Parts of a recipe as people read them."""

from typing import Any

from django import template

from tempermark.core.recipes.layers import entry_text
from tempermark.web.kit.figures import share_text
from tempermark.web.kit.units import units_of
from tempermark.web.kit.wording import in_units
from tempermark.web.recipes.materials.library import ShopLibrary, shop_materials

register = template.Library()

LONG_S, MINUTE_S, HOUR_S = 600, 60, 3600


@register.filter
def layer(entry: str, library: ShopLibrary) -> str:
    """A stored layer in the library's words."""
    return entry_text(entry, library)


@register.simple_tag(takes_context=True)
def stack_text(context: Any, entries: list[str] | tuple[str, ...]) -> str:
    """A stored stack in one line, in the words of the shop's library."""
    library = shop_materials()
    text = " / ".join(entry_text(entry, library) for entry in entries)
    return in_units(text, units_of(context.get("user")))


@register.filter
def span_of_time(span: tuple[Any, ...]) -> str:
    """From and to: seconds up to ten minutes, then minutes, then hours."""
    low, high = span
    unit, scale = "s", 1
    if high > LONG_S:
        unit, scale = ("min", MINUTE_S) if high < 2 * HOUR_S else ("h", HOUR_S)
    texts = [f"{value / scale:g}" for value in (low, high)]
    return f"{texts[0]} {unit}" if texts[0] == texts[1] else f"{texts[0]}–{texts[1]} {unit}"


@register.filter
def short_typed(value: str) -> str:
    """A figure of a form as it stands there: a number short, typed text as it is."""
    return f"{value:.4g}" if isinstance(value, (int, float)) else str(value or "")


@register.filter
def percent(share: float) -> str:
    """A share as %."""
    return share_text(share)
