"""A paper ruler for placing: hooked on the first edge, its cross-arm shows the art's edge."""

import io

from reportlab.lib.units import mm
from reportlab.pdfgen import canvas

# The stem's width, the arm's length to each side, and the air round all, mm.
STEM_MM, ARM_MM, AIR_MM = 40.0, 90.0, 8.0
# Below the arm's line; the tab that folds over the edge.
BELOW_MM, TAB_MM = 18.0, 15.0


def ruler_pdf(first_mm: float, edge: str, anchor: str, middle_mm: float | None = None) -> bytes:
    """One page as large as the ruler, mm: zero at the named edge, a line at `first_mm`, and marks
    to both sides of the art's middle.
    """
    wide = 2 * ARM_MM + 2 * AIR_MM
    high = TAB_MM + first_mm + BELOW_MM + 2 * AIR_MM
    out = io.BytesIO()
    page = canvas.Canvas(out, pagesize=(wide * mm, high * mm), invariant=1)
    page.setTitle("Placing ruler at 1:1")
    page.setLineWidth(0.25 * mm)
    middle, zero = wide / 2, high - AIR_MM - TAB_MM
    line = zero - first_mm
    left, right = middle - STEM_MM / 2, middle + STEM_MM / 2
    _path(
        page,
        [
            (left, high - AIR_MM),
            (right, high - AIR_MM),
            (right, line + 4),
            (middle + ARM_MM, line + 4),
            (middle + ARM_MM, line - BELOW_MM),
            (middle - ARM_MM, line - BELOW_MM),
            (middle - ARM_MM, line + 4),
            (left, line + 4),
            (left, high - AIR_MM),
        ],
    )
    page.setDash(2 * mm, 1.5 * mm)
    page.line(left * mm, zero * mm, right * mm, zero * mm)
    page.setDash()
    _ticks(page, left, zero, first_mm)
    page.setLineWidth(0.5 * mm)
    page.line((middle - ARM_MM) * mm, line * mm, (middle + ARM_MM) * mm, line * mm)
    page.line(middle * mm, (line + 4) * mm, middle * mm, (line - BELOW_MM) * mm)
    page.setLineWidth(0.25 * mm)
    for step in range(10, int(ARM_MM), 10):
        for side in (-1, 1):
            x = middle + side * step
            page.line(x * mm, line * mm, x * mm, (line - (6 if step % 50 == 0 else 3)) * mm)
    page.setFont("Helvetica", 8)
    page.drawCentredString(middle * mm, (zero + 4) * mm, f"fold at: {edge[:24]}")
    page.drawString((middle - ARM_MM + 2) * mm, (line - BELOW_MM + 3) * mm, f"{anchor} here")
    if middle_mm is not None:
        text = f"middle {middle_mm:.0f} mm from the side"
        page.drawRightString((middle + ARM_MM - 2) * mm, (line - BELOW_MM + 3) * mm, text)
    page.save()
    return out.getvalue()


def _ticks(page: canvas.Canvas, left: float, zero: float, first_mm: float) -> None:
    """Every 5 mm from the fold down, longer every 10."""
    page.setFont("Helvetica", 6)
    for step in range(5, int(first_mm) + 1, 5):
        y = zero - step
        page.line(left * mm, y * mm, (left + (6 if step % 10 == 0 else 3)) * mm, y * mm)
        if step % 50 == 0:
            page.drawString((left + 7) * mm, (y - 1) * mm, str(step))


def _path(page: canvas.Canvas, points: list[tuple[float, float]]) -> None:
    path = page.beginPath()
    path.moveTo(points[0][0] * mm, points[0][1] * mm)
    for x, y in points[1:]:
        path.lineTo(x * mm, y * mm)
    page.drawPath(path)
