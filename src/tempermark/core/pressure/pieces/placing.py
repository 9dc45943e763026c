"""Where on a piece a print keeps clear of seams, buttons and hems: the nearest free place."""

from dataclasses import dataclass

import numpy as np

from tempermark.core.metrology.map.usable import Rectangle

# Places that touch are clear; this keeps arithmetic from making them overlap, mm.
TOUCH_MM = 1e-6


@dataclass(frozen=True)
class RaisedOutline:
    """Something raised on a piece: its outline in mm on the piece, and its height in mm."""

    outline: Rectangle
    height_mm: float
    name: str = ""


def grown(outline: Rectangle, by_mm: float) -> Rectangle:
    """A rectangle widened on every side by some mm."""
    return Rectangle(
        outline.x_mm - by_mm,
        outline.y_mm - by_mm,
        outline.width_mm + 2 * by_mm,
        outline.height_mm + 2 * by_mm,
    )


def overlaps(a: Rectangle, b: Rectangle) -> bool:
    """Whether two rectangles share more than a rim."""
    return (
        a.x_mm + a.width_mm > b.x_mm + TOUCH_MM
        and b.x_mm + b.width_mm > a.x_mm + TOUCH_MM
        and a.y_mm + a.height_mm > b.y_mm + TOUCH_MM
        and b.y_mm + b.height_mm > a.y_mm + TOUCH_MM
    )


def nearest_clear(
    print_: Rectangle, shadows: list[Rectangle], within: Rectangle
) -> tuple[float, float] | None:
    """The least move (right, back) in mm that takes a print off all shadows and inside a rectangle.

    None when there is no such place. Exact: the nearest free place of a rectangle among rectangles
    has each of its coordinates either unmoved or flush with a shadow's or the rim's side.
    """
    columns = {print_.x_mm, within.x_mm, within.x_mm + within.width_mm - print_.width_mm}
    rows = {print_.y_mm, within.y_mm, within.y_mm + within.height_mm - print_.height_mm}
    for s in shadows:
        columns |= {s.x_mm - print_.width_mm, s.x_mm + s.width_mm}
        rows |= {s.y_mm - print_.height_mm, s.y_mm + s.height_mm}
    x, y = np.meshgrid(sorted(columns), sorted(rows))
    inside = (
        (x >= within.x_mm - TOUCH_MM)
        & (x + print_.width_mm <= within.x_mm + within.width_mm + TOUCH_MM)
        & (y >= within.y_mm - TOUCH_MM)
        & (y + print_.height_mm <= within.y_mm + within.height_mm + TOUCH_MM)
    )
    for s in shadows:
        inside &= (
            (x + print_.width_mm <= s.x_mm + TOUCH_MM)
            | (x >= s.x_mm + s.width_mm - TOUCH_MM)
            | (y + print_.height_mm <= s.y_mm + TOUCH_MM)
            | (y >= s.y_mm + s.height_mm - TOUCH_MM)
        )
    if not inside.any():
        return None
    away = np.where(inside, np.hypot(x - print_.x_mm, y - print_.y_mm), np.inf)
    best = np.unravel_index(int(away.argmin()), away.shape)
    return float(x[best] - print_.x_mm), float(y[best] - print_.y_mm)
