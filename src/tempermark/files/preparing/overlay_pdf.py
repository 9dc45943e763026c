"""A platen drawn on paper at 1:1, with the place of blank and art: laid on it for every piece.

Larger than a sheet it is cut into pages that overlap, each with marks to lay them together.
"""

import io
import math
from dataclasses import dataclass

from reportlab.lib.units import mm
from reportlab.pdfgen import canvas

# Pages overlap by this much; a printer leaves this margin, mm.
OVERLAP_MM, MARGIN_MM = 10.0, 7.0
Box = tuple[float, float, float, float]


@dataclass(frozen=True)
class Overlay:
    """A platen's size in mm, and boxes on it (left, front, width, depth) in mm from its front left
    corner: the blank's, where it is known, and the art's.
    """

    platen_mm: tuple[float, float]
    art: Box
    blank: Box | None = None
    title: str = ""


def overlay_pdf(overlay: Overlay, sheet_mm: tuple[float, float] | None = None) -> bytes:
    """One page as large as the platen, or as many sheets as it takes."""
    out = io.BytesIO()
    page = canvas.Canvas(out, invariant=1)
    page.setTitle("Platen at 1:1")
    if sheet_mm is None:
        wide, high = (side + 2 * MARGIN_MM for side in overlay.platen_mm)
        page.setPageSize((wide * mm, high * mm))
        _draw(page, overlay, MARGIN_MM, MARGIN_MM)
        page.showPage()
    else:
        for x, y, number in _tiles(overlay.platen_mm, sheet_mm):
            page.setPageSize((sheet_mm[0] * mm, sheet_mm[1] * mm))
            _clip(page, sheet_mm)
            _draw(page, overlay, MARGIN_MM - x, MARGIN_MM - y)
            page.restoreState()
            page.setFont("Helvetica", 7)
            page.drawString(MARGIN_MM * mm, 2.5 * mm, f"{overlay.title} {number}, print at 100 %")
            page.showPage()
    page.save()
    return out.getvalue()


def _tiles(
    platen_mm: tuple[float, float], sheet_mm: tuple[float, float]
) -> list[tuple[float, float, str]]:
    """Lower left corner on the platen, mm, of every page, and which it is."""
    room = [side - 2 * MARGIN_MM for side in sheet_mm]
    counts = [
        max(1, math.ceil((platen - OVERLAP_MM) / (free - OVERLAP_MM)))
        for platen, free in zip(platen_mm, room, strict=True)
    ]
    steps = [free - OVERLAP_MM for free in room]
    return [
        (column * steps[0], row * steps[1], f"column {column + 1}, row {row + 1} from the front")
        for row in range(counts[1])
        for column in range(counts[0])
    ]


def _clip(page: canvas.Canvas, sheet_mm: tuple[float, float]) -> None:
    page.saveState()
    path = page.beginPath()
    path.rect(
        MARGIN_MM * mm,
        MARGIN_MM * mm,
        (sheet_mm[0] - 2 * MARGIN_MM) * mm,
        (sheet_mm[1] - 2 * MARGIN_MM) * mm,
    )
    page.clipPath(path, stroke=0)


def _draw(page: canvas.Canvas, overlay: Overlay, left: float, bottom: float) -> None:
    wide, deep = overlay.platen_mm
    page.setLineWidth(0.5 * mm)
    page.rect(left * mm, bottom * mm, wide * mm, deep * mm)
    page.setLineWidth(0.15 * mm)
    for x in range(50, int(wide) + 1, 50):
        page.line((left + x) * mm, bottom * mm, (left + x) * mm, (bottom + deep) * mm)
    for y in range(50, int(deep) + 1, 50):
        page.line(left * mm, (bottom + y) * mm, (left + wide) * mm, (bottom + y) * mm)
    page.setDash(4 * mm, 2 * mm)
    page.setLineWidth(0.3 * mm)
    page.line((left + wide / 2) * mm, bottom * mm, (left + wide / 2) * mm, (bottom + deep) * mm)
    page.line(left * mm, (bottom + deep / 2) * mm, (left + wide) * mm, (bottom + deep / 2) * mm)
    page.setDash()
    if overlay.blank is not None:
        _box(page, overlay.blank, left, bottom, 0.4)
    _box(page, overlay.art, left, bottom, 0.8)


def _box(page: canvas.Canvas, box: Box, left: float, bottom: float, line_mm: float) -> None:
    page.setLineWidth(line_mm * mm)
    page.rect((left + box[0]) * mm, (bottom + box[1]) * mm, box[2] * mm, box[3] * mm)
