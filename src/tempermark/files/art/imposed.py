"""Sheets with all their pieces of art on them, as a PDF at 1:1."""

import io
from collections.abc import Mapping
from dataclasses import dataclass

from PIL import Image
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen import canvas

from tempermark.core.preparing.size.nesting.pieces import Nesting, PlacedPiece

LINE_MM = 0.1
TURNS = {
    1: Image.Transpose.ROTATE_90,
    2: Image.Transpose.ROTATE_180,
    3: Image.Transpose.ROTATE_270,
}


@dataclass(frozen=True)
class PieceArt:
    """A picture as it is to be printed, at its size (width, height) in mm."""

    picture: Image.Image
    size_mm: tuple[float, float]


def sheets_pdf(nesting: Nesting, pictures: Mapping[str, PieceArt]) -> bytes:
    """One page for each sheet that is placed; art by the names of its pieces, in their middle; a
    piece without one is drawn as its outline.
    """
    wide, high = nesting.sheet_mm
    out = io.BytesIO()
    page = canvas.Canvas(out, pagesize=(wide * mm, high * mm), invariant=1)
    page.setTitle("Art on sheets at 1:1")
    page.setLineWidth(LINE_MM * mm)
    readers: dict[tuple[str, int], ImageReader] = {}
    for sheet in nesting.sheets:
        for placed in sheet:
            _draw(page, placed, pictures, readers)
        page.showPage()
    page.save()
    return out.getvalue()


def _draw(
    page: canvas.Canvas,
    placed: PlacedPiece,
    pictures: Mapping[str, PieceArt],
    readers: dict[tuple[str, int], ImageReader],
) -> None:
    art = pictures.get(placed.piece.name)
    if art is None:
        path = page.beginPath()
        points = list(placed.shape.exterior.coords)
        path.moveTo(points[0][0] * mm, points[0][1] * mm)
        for point in points[1:]:
            path.lineTo(point[0] * mm, point[1] * mm)
        page.drawPath(path)
        return
    key = (placed.piece.name, placed.quarters)
    if key not in readers:
        readers[key] = ImageReader(
            art.picture.transpose(TURNS[placed.quarters]) if placed.quarters else art.picture
        )
    x, y, right, top = placed.shape.bounds
    wide, high = art.size_mm[::-1] if placed.quarters % 2 else art.size_mm
    corner = ((x + right - wide) / 2 * mm, (y + top - high) / 2 * mm)
    page.drawImage(readers[key], *corner, wide * mm, high * mm)
