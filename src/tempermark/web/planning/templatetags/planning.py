"""Shapes of the day band."""

from django import template

from tempermark.web.planning.plans.band import BandChange

register = template.Library()
RUN_TOP, RUN_HEIGHT = 6.0, 32.0


@register.filter
def svg(value: float) -> str:
    """A coordinate as SVG reads it, whatever the page's language."""
    return f"{float(value):.1f}"


@register.filter
def offset(value: float, by: float) -> str:
    """A coordinate moved by some units."""
    return svg(value + float(by))


@register.simple_tag
def change_shape(change: BandChange, y: float) -> str:
    """A wedge that rises for heating and falls for cooling; a notch for the pressure; a valley for
    another element, cold in its middle.
    """
    left, right = change.x, change.x + max(change.width, 2.0)
    top, bottom = y + RUN_TOP, y + RUN_TOP + RUN_HEIGHT
    if change.kind == "heats":
        points = [(left, bottom), (right, top), (right, bottom)]
    elif change.kind == "cools":
        points = [(left, top), (right, bottom), (left, bottom)]
    elif change.kind == "element":
        middle = (left + right) / 2
        points = [(left, top), (middle, bottom), (right, top), (right, bottom), (left, bottom)]
    else:
        middle = (left + right) / 2
        points = [(left, top), (right, top), (middle, (top + bottom) / 2), (right, bottom)]
        points += [(left, bottom), (middle, (top + bottom) / 2)]
    return "M" + " L".join(f"{x:.1f} {at:.1f}" for x, at in points) + " Z"
