"""What the place of a piece's art on the element tells, for and against."""

from tempermark.web.floor.models import ElementShape
from tempermark.web.run.models import TestPress

# Art that comes this near to the rim lies where elements run cool, mm (handbook 1, 2: elements run
# cool at their margins; the distance is ours).
RIM_MM = 25.0


def place_facts(piece: TestPress) -> dict[str, bool]:
    """`art_past_plate` and `art_near_element_rim`, each true or not.

    Around a sleeve there is no rim: only its two ends count there.
    """
    element = piece.element
    along = _margins(piece.art_y_mm, piece.art_height_mm, element.height_mm)
    across = _margins(piece.art_x_mm, piece.art_width_mm, element.width_mm)
    margins = along + (across if element.shape == ElementShape.FLAT else ())
    return {
        "art_past_plate": min(margins) < 0,
        "art_near_element_rim": min(margins) < RIM_MM,
    }


def _margins(start: float, size: float, whole: float) -> tuple[float, float]:
    """Bare plate before and behind the art in one direction, in mm; negative past the plate."""
    return start, whole - start - size
