"""What all PDFs of the shop share: its font, its styles, its tables."""

import io
from functools import cache
from pathlib import Path
from typing import Any
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import getSampleStyleSheet
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.platypus import Flowable, Paragraph, SimpleDocTemplate, Table, TableStyle

FONTS = Path(__file__).parents[1] / "fonts"
REGULAR, BOLD = "Tempermark", "Tempermark-Bold"
# What our font (Latin and extended Latin) does not hold and has a plain stand-in.
STAND_INS = str.maketrans({"\u00a0": " ", "≥": ">=", "≤": "<=", "σ": "sigma", "ε": "e"})


@cache
def _letters() -> frozenset[int]:
    """Make our fonts known to the PDF writer; the letters they hold."""
    for name, weight in ((REGULAR, "regular"), (BOLD, "bold")):
        path = FONTS / f"atkinson-hyperlegible-next-{weight}.ttf"
        pdfmetrics.registerFont(TTFont(name, str(path)))
    return frozenset(pdfmetrics.getFont(REGULAR).face.charToGlyph)


def plain(text: str) -> str:
    """Text in the letters our font holds; others become a question mark."""
    held = _letters()
    return "".join(c if ord(c) in held else "?" for c in text.translate(STAND_INS))


@cache
def pdf_styles() -> Any:
    """The usual paragraph styles in our own font."""
    _letters()
    styles = getSampleStyleSheet()
    for name, font in (("BodyText", REGULAR), ("Title", BOLD), ("Heading3", BOLD)):
        styles[name].fontName = font
    return styles


def pdf_text(text: str, style: str = "BodyText") -> Paragraph:
    """A paragraph in one of the usual styles."""
    return Paragraph(escape(plain(text)), pdf_styles()[style])


def pdf_of(title: str, parts: list[Flowable]) -> bytes:
    """A4 pages; the same parts are the same bytes."""
    out = io.BytesIO()
    document = SimpleDocTemplate(
        out,
        pagesize=A4,
        title=title,
        author="Tempermark",
        topMargin=16 * mm,
        bottomMargin=16 * mm,
        invariant=1,
    )
    document.build(parts)
    return out.getvalue()


def pdf_table(rows: list[list[Any]], widths: tuple[float, ...]) -> Table:
    """Rows over thin rules; widths in points."""
    table = Table(rows, colWidths=widths, repeatRows=0)
    table.setStyle(
        TableStyle(
            [
                ("LINEBELOW", (0, 0), (-1, -1), 0.3, "#cfccc0"),
                ("VALIGN", (0, 0), (-1, -1), "TOP"),
                ("TOPPADDING", (0, 0), (-1, -1), 1),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
            ]
        )
    )
    return table
