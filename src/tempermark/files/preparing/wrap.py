"""tempermark.wrap/1: the flat template of a straight or tapered vessel."""

import math
from typing import Any

from tempermark.core.preparing.vessels.template import (
    FlatTemplate,
    flat_template,
    widest_straight_mm,
)
from tempermark.files.document import Fields, read_format
from tempermark.files.preparing.template_svg import template_svg

FORMAT = "tempermark.wrap/1"
LARGEST_MM = 5000.0


def answer(data: object) -> dict[str, Any]:
    """The command: document in, document out."""
    template, tolerance_mm, _ = _read(data)
    arc = template.arc
    return {
        "slant_mm": round(template.slant_mm, 4),
        "outer_radius_mm": round(arc.outer_mm, 4) if arc else None,
        "inner_radius_mm": round(arc.inner_mm, 4) if arc else None,
        "angle_deg": round(math.degrees(arc.turn_rad), 4) if arc else None,
        "max_straight_width_mm": round(widest_straight_mm(template, tolerance_mm), 4),
    }


def drawing(data: object) -> str:
    """The same template as an SVG at 1:1."""
    template, _, overlap_mm = _read(data)
    return template_svg(template, overlap_mm)


def _read(data: object) -> tuple[FlatTemplate, float, float]:
    """The template, the tolerance and the overlap of a document, mm."""
    fields = read_format(data, FORMAT)
    sides = [_length(fields, k) for k in ("top_diameter_mm", "bottom_diameter_mm", "height_mm")]
    tolerance = fields.number("tolerance_mm", 0, LARGEST_MM, unit=" mm")
    overlap = fields.number("overlap_mm", 0, LARGEST_MM, unit=" mm")
    fields.done()
    return flat_template(*sides), tolerance, overlap


def _length(fields: Fields, key: str) -> Any:
    return fields.number(key, 0, LARGEST_MM, unit=" mm", above=True)
