"""What the place of a piece's art on the element tells, for and against."""

from tempermark.web.floor.models import ElementShape
from tempermark.web.run.models import TestPress

# Art that comes this near to the rim lies where elements run cool: so many mm, on small plates less
# (handbook 1, 2: elements run cool at their margins; distance and share of the side are ours).
RIM_MM, RIM_SHARE = 25.0, 0.07


def place_facts(piece: TestPress) -> dict[str, bool]:
    """`art_past_plate` and `art_near_element_rim`, each true or not.

    Around a sleeve there is no rim: only its two ends count there.
    """
    element = piece.element
    spans = [(piece.art_y_mm, piece.art_height_mm, element.height_mm)]
    if element.shape == ElementShape.FLAT:
        spans.append((piece.art_x_mm, piece.art_width_mm, element.width_mm))
    return {
        "art_past_plate": any(min(_margins(*span)) < 0 for span in spans),
        "art_near_element_rim": any(
            min(_margins(*span)) < min(RIM_MM, RIM_SHARE * span[-1]) for span in spans
        ),
    }


def _margins(start: float, size: float, whole: float) -> tuple[float, float]:
    """Bare plate before and behind the art in one direction, in mm; negative past the plate."""
    return start, whole - start - size
