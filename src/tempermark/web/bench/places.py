"""Where the pieces of one load lie: the front left corners of their art on the element, mm."""

from tempermark.web.presses.models import Element
from tempermark.web.run.pieces.placing import usable_rectangle

# Between the prints of one load, mm: their transfers overhang the art a little.
GAP_MM = 15.0


def places_of_load(
    element: Element, width_mm: float, height_mm: float, count: int
) -> list[list[float]]:
    """Places for so many prints of a size: in rows about the middle of the usable part, as many to
    a row as its width takes; past its edge where they do not fit.
    """
    part = usable_rectangle(element)
    left, front, wide, deep = (
        (part.x_mm, part.y_mm, part.width_mm, part.height_mm)
        if part is not None and part.width_mm >= width_mm and part.height_mm >= height_mm
        else (0.0, 0.0, element.width_mm, element.height_mm)
    )
    a_row = max(1, min(count, int((wide + GAP_MM) // (width_mm + GAP_MM))))
    rows = -(-count // a_row)
    across = a_row * (width_mm + GAP_MM) - GAP_MM
    along = rows * (height_mm + GAP_MM) - GAP_MM
    x0, y0 = left + (wide - across) / 2, front + (deep - along) / 2
    return [
        [
            round(x0 + (number % a_row) * (width_mm + GAP_MM), 1),
            round(y0 + (number // a_row) * (height_mm + GAP_MM), 1),
        ]
        for number in range(count)
    ]
