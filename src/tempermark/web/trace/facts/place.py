"""What the place of a piece's art on the element tells, for and against."""

from tempermark.web.presses.models import ElementShape
from tempermark.web.run.models import TestPress

# Art that comes this near to the rim lies where elements run cool: so many mm, on small plates less
# (handbook 1, 2: elements run cool at their margins; distance and share of the side are ours).
RIM_MM, RIM_SHARE = 25.0, 0.07
# On a plate up to this size that is hardly larger than the art, an end that fades hung past the
# plate or lay at its very rim: placing, not heat (handbook 2, way of reasoning 8). A print is laid
# by hand to some millimetres; both figures are ours.
SMALL_PLATE_MM, HARDLY_LARGER_MM = 260.0, 20.0


def place_facts(piece: TestPress) -> dict[str, bool]:
    """`art_past_plate` and `art_near_element_rim`, each true or not.

    Around a sleeve there is no rim: only its two ends count there. Where a small plate is hardly
    larger than the art, its rim is not told as a cold one.
    """
    element = piece.element
    spans = [(piece.art_y_mm, piece.art_height_mm, element.height_mm)]
    if element.shape == ElementShape.FLAT:
        spans.append((piece.art_x_mm, piece.art_width_mm, element.width_mm))
    past = any(min(_margins(*span)) < 0 for span in spans)
    near = [span for span in spans if min(_margins(*span)) < min(RIM_MM, RIM_SHARE * span[-1])]
    tight = element.shape == ElementShape.FLAT and any(_is_hardly_larger(*span) for span in near)
    return {
        "art_past_plate": past or tight,
        "art_near_element_rim": bool(near) and not tight,
    }


def _is_hardly_larger(start: float, size: float, whole: float) -> bool:
    return whole <= SMALL_PLATE_MM and whole - size < HARDLY_LARGER_MM


def _margins(start: float, size: float, whole: float) -> tuple[float, float]:
    """Bare plate before and behind the art in one direction, in mm; negative past the plate."""
    return start, whole - start - size
