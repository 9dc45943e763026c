"""Made-up art: pictures, drawings and pages as files come."""

import io
import struct
import zlib

from PIL import Image, ImageDraw
from reportlab.pdfgen import canvas

SVG = (
    '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" {}>{}</svg>'
)


def quartered(width=400, height=200):
    """A picture whose quarters are red, green (above), blue and black (below)."""
    picture = Image.new("RGB", (width, height))
    draw = ImageDraw.Draw(picture)
    half = (width // 2, height // 2)
    for colour, x, y in (("red", 0, 0), ("lime", 1, 0), ("blue", 0, 1), ("black", 1, 1)):
        corner = (x * half[0], y * half[1])
        draw.rectangle((*corner, corner[0] + half[0] - 1, corner[1] + half[1] - 1), fill=colour)
    return picture


def encoded(picture, kind="PNG", **options):
    """A picture as the bytes of a file."""
    out = io.BytesIO()
    picture.save(out, kind, **options)
    return out.getvalue()


def svg(inner="", attributes='width="100mm" height="50mm" viewBox="0 0 200 100"'):
    """A drawing as the bytes of a file."""
    return SVG.format(attributes, inner).encode()


def pdf(pages=1, size=(300, 200)):
    """A document of so many pages; each has a black square in its lower left corner."""
    out = io.BytesIO()
    paper = canvas.Canvas(out, pagesize=size)
    for _ in range(pages):
        paper.rect(0, 0, 100, 100, fill=1)
        paper.showPage()
    paper.save()
    return out.getvalue()


def bomb(width=50_000, height=50_000):
    """A PNG of a few kilobytes that says it has billions of pixels."""

    def chunk(name, data):
        sum_of = struct.pack(">I", zlib.crc32(name + data))
        return struct.pack(">I", len(data)) + name + data + sum_of

    head = struct.pack(">IIBBBBB", width, height, 1, 0, 0, 0, 0)
    rows = zlib.compress(bytes((1 + width // 8) * 1000))
    parts = chunk(b"IHDR", head) + chunk(b"IDAT", rows) + chunk(b"IEND", b"")
    return b"\x89PNG\r\n\x1a\n" + parts
