"""A vessel's template as a PDF page of its own size, at 1:1, with the same ruler."""

import io

import numpy as np
from PIL import Image
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen import canvas

from tempermark.core.preparing.vessels.template import FlatTemplate, outline, unrolled
from tempermark.core.preparing.vessels.template_marks import quarter_marks, safe_lines
from tempermark.files.preparing.template_svg import MARGIN_MM, RULER_MM, RULER_ROOM_MM

LINE_MM = 0.25


def template_pdf(
    template: FlatTemplate,
    overlap_mm: float = 0.0,
    gap_mm: float = 0.0,
    rim_mm: float = 0.0,
    bent: Image.Image | None = None,
    mirrored: bool = False,
) -> bytes:
    """One page as large as the template and its margins, mm; with art that is bent onto its box
    already, and mirrored as a whole for printing. Raises ValueError for a gap that leaves nothing.
    """
    ring = outline(template, overlap_mm, gap_mm)
    low, high = ring.min(axis=0), ring.max(axis=0)
    wide, tall = high - low
    width = max(float(wide), RULER_MM) + 2 * MARGIN_MM
    height = float(tall) + 2 * MARGIN_MM + RULER_ROOM_MM
    shift = np.array([(width - wide) / 2, MARGIN_MM + RULER_ROOM_MM]) - low
    out = io.BytesIO()
    page = canvas.Canvas(out, pagesize=(width * mm, height * mm), invariant=1)
    page.setTitle("Template at 1:1")
    page.setLineWidth(LINE_MM * mm)
    page.saveState()
    if mirrored:
        page.transform(-1, 0, 0, 1, width * mm, 0)
    if bent is not None:
        corner = (low + shift) * mm
        page.drawImage(ImageReader(bent), *corner, float(wide) * mm, float(tall) * mm)
    _draw(page, ring + shift)
    if bent is None:
        page.setDash(3 * mm, 2 * mm)
        _draw(page, unrolled(template, np.array([[0.0, 0.0], [0.0, template.height_mm]])) + shift)
        for mark in quarter_marks(template, gap_mm):
            _draw(page, mark + shift)
        page.setDash(1 * mm, 1.5 * mm)
        for line in safe_lines(template, rim_mm, gap_mm):
            _draw(page, line + shift)
        page.setDash()
    page.restoreState()
    _ruler(page)
    page.save()
    return out.getvalue()


def _draw(page: canvas.Canvas, points_mm: np.ndarray) -> None:
    path = page.beginPath()
    path.moveTo(*(points_mm[0] * mm))
    for point in points_mm[1:]:
        path.lineTo(*(point * mm))
    page.drawPath(path)


def _ruler(page: canvas.Canvas) -> None:
    left, bottom = MARGIN_MM * mm, MARGIN_MM * mm
    page.line(left, bottom, left + RULER_MM * mm, bottom)
    for tick in range(0, 101, 10):
        long_mm = 5 if tick % 50 == 0 else 3
        page.line(left + tick * mm, bottom, left + tick * mm, bottom + long_mm * mm)
    page.setFont("Helvetica", 8)
    page.drawString(left, bottom - 4 * mm, "100 mm: measure it on the print, and print at 100 %")
