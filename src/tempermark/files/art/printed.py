"""Placed art as it is printed: the outline with its bleed, mirrored, as a PDF at 1:1."""

import io
import math

from PIL import Image
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen import canvas

from tempermark.core.errors import InputError
from tempermark.core.preparing.size.placed_art import PlacedArt
from tempermark.files.art.artwork import MM_PER_IN, Artwork, drawn
from tempermark.files.art.limits import MOST_PIXELS

# Finer than this no dye print shows.
PRINT_DPI = 300.0


def print_dpi(artwork: Artwork, size_mm: tuple[float, float]) -> float:
    """At how many pixels to the inch art of a printed size in mm is drawn: never finer than a
    picture is, nor than bounded work allows.
    """
    area = size_mm[0] * size_mm[1] / MM_PER_IN**2
    most = math.sqrt(MOST_PIXELS / area) * 0.999
    own = artwork.size_px[0] * MM_PER_IN / size_mm[0] if artwork.size_px else PRINT_DPI
    return min(PRINT_DPI, most, own)


def printed_picture(artwork: Artwork, placed: PlacedArt, mirrored: bool) -> Image.Image:
    """The page of placed art as a picture; white where the art does not reach."""
    dpi = print_dpi(artwork, placed.art_mm)
    per_mm = dpi / MM_PER_IN
    size = [max(1, round(side * per_mm)) for side in placed.art_mm]
    whole = drawn(artwork.kind, artwork.data, size[0], size[1])
    page = [max(1, round(side * per_mm)) for side in placed.page_mm]
    if page[0] * page[1] > MOST_PIXELS:
        raise InputError.single(None, "The page is too large for this art: print it in parts.")
    corners = zip(placed.bleed_mm, placed.corner_mm, strict=True)
    at = [round((bleed - corner) * per_mm) for bleed, corner in corners]
    sheet = Image.new("RGB", (page[0], page[1]), "white")
    sheet.paste(whole, (at[0], at[1]), whole if whole.mode == "RGBA" else None)
    return sheet.transpose(Image.Transpose.FLIP_LEFT_RIGHT) if mirrored else sheet


def art_pdf(
    picture: Image.Image,
    size_mm: tuple[float, float],
    bleed_mm: tuple[float, float] = (0.0, 0.0),
    sheet_mm: tuple[float, float] | None = None,
) -> bytes:
    """A picture at its size in mm as a page of its own, or in the middle of a sheet, turned by a
    quarter where only that fits; its boxes name the art and, without the bleed, the blank.
    """
    turned = sheet_mm is not None and not _fits(size_mm, sheet_mm)
    if turned:
        picture = picture.transpose(Image.Transpose.ROTATE_90)
        size_mm, bleed_mm = size_mm[::-1], bleed_mm[::-1]
    page_mm = sheet_mm or size_mm
    left, bottom = ((page_mm[i] - size_mm[i]) / 2 for i in (0, 1))
    out = io.BytesIO()
    page = canvas.Canvas(out, pagesize=(page_mm[0] * mm, page_mm[1] * mm), invariant=1)
    page.setTitle("Art at 1:1")
    art = (left, bottom, left + size_mm[0], bottom + size_mm[1])
    x, y = bleed_mm
    page.setBleedBox([side * mm for side in art])
    page.setTrimBox([side * mm for side in (art[0] + x, art[1] + y, art[2] - x, art[3] - y)])
    page.drawImage(ImageReader(picture), left * mm, bottom * mm, size_mm[0] * mm, size_mm[1] * mm)
    page.save()
    return out.getvalue()


def _fits(size_mm: tuple[float, float], sheet_mm: tuple[float, float]) -> bool:
    return size_mm[0] <= sheet_mm[0] and size_mm[1] <= sheet_mm[1]
