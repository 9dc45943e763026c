"""Art as it is kept: read once within bounds, drawn again at whatever size it is printed."""

import io
import json
import os
import subprocess
import sys
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PIL import Image

from tempermark.core.errors import InputError
from tempermark.files.art.drawing import checked_drawing
from tempermark.files.art.limits import MOST_BYTES, MOST_PIXELS, MOST_SECONDS

# First bytes → kind; a drawing is what is none of these.
SIGNS = {b"\x89PNG\r\n\x1a\n": "png", b"\xff\xd8\xff": "jpeg", b"%PDF-": "pdf"}
# A PDF may carry some bytes before its head.
HEAD_BYTES = 1024
MM_PER_IN = 25.4
# Where the worker finds this package.
SOURCES = Path(__file__).parents[3]


@dataclass(frozen=True)
class Artwork:
    """Art to be kept: its bytes made again, pixels (a picture) or own size in mm (a drawing, a
    page), both (width, height); the dpi of the coarsest picture on a page; remarks.
    """

    kind: str
    data: bytes
    size_px: tuple[int, int] | None
    size_mm: tuple[float, float] | None
    page: int = 1
    pages: int = 1
    inner_dpi: float | None = None
    notes: tuple[str, ...] = ()

    @property
    def ratio(self) -> float:
        """Height ÷ width."""
        width, height = self.size_px or self.size_mm or (1.0, 1.0)
        return height / width


def read_artwork(raw: bytes, page: int = 1) -> Artwork:
    """Art from a file's bytes, of a PDF one page counted from 1.

    Raises InputError where it is no PNG, JPEG, SVG or PDF, is damaged, or asks for too much.
    """
    if len(raw) > MOST_BYTES:
        raise InputError.single(
            None, f"{len(raw) / 1e6:.0f} MB: {MOST_BYTES // 2**20} MB at most. Save it smaller."
        )
    kind = _kind(raw)
    if kind == "svg":
        data, size, notes = checked_drawing(raw)
        return Artwork("svg", data, None, size, notes=notes)
    if kind == "pdf":
        facts, data = _worker({"act": "pdf", "page": page}, raw)
        size_mm = (facts["size_mm"][0], facts["size_mm"][1])
        return Artwork("pdf", data, None, size_mm, page, facts["pages"], facts["inner_dpi"])
    facts, data = _worker({"act": "picture"}, raw)
    natural = tuple(facts["size_mm"]) if facts["size_mm"] else None
    return Artwork(kind, data, tuple(facts["size_px"]), natural, notes=tuple(facts["notes"]))


def drawn(kind: str, data: bytes, width_px: int, height_px: int) -> Image.Image:
    """Kept art as a picture of so many pixels. Raises InputError where it cannot be drawn."""
    if width_px < 1 or height_px < 1 or width_px * height_px > MOST_PIXELS:
        raise InputError.single(
            None, f"{width_px} × {height_px} pixels: {MOST_PIXELS // 10**6} million at most."
        )
    request = {"act": "draw", "kind": kind, "width_px": width_px, "height_px": height_px}
    _, png = _worker(request, data)
    return Image.open(io.BytesIO(png), formats=("PNG",))


def effective_dpi(
    width_px: int | None, own_width_mm: float | None, inner_dpi: float | None, width_mm: float
) -> float | None:
    """Pixels to the inch at a printed width in mm: of a picture by its pixels, of a page by its
    coarsest picture and own width; None where lines stay sharp at any size.
    """
    if width_px:
        return width_px * MM_PER_IN / width_mm
    if inner_dpi and own_width_mm:
        return inner_dpi * own_width_mm / width_mm
    return None


def _kind(raw: bytes) -> str:
    for sign, kind in SIGNS.items():
        if raw.startswith(sign):
            return kind
    if b"%PDF-" in raw[:HEAD_BYTES]:
        return "pdf"
    if b"<" in raw[:HEAD_BYTES]:
        return "svg"
    raise InputError.single(None, "This is no art that can be read: send PNG, JPEG, SVG or PDF.")


def _worker(request: dict[str, Any], raw: bytes) -> tuple[dict[str, Any], bytes]:
    """What the process of its own answers; one that dies or is late is a refusal."""
    command = [sys.executable, "-m", "tempermark.files.art.worker"]
    line = json.dumps(request).encode() + b"\n"
    env = os.environ | {"PYTHONPATH": str(SOURCES)}
    try:
        done = subprocess.run(
            command, input=line + raw, capture_output=True, env=env, timeout=2 * MOST_SECONDS
        )
    except subprocess.TimeoutExpired:
        raise InputError.single(None, "It took too long to draw. Save it simpler.") from None
    head, found, picture = done.stdout.partition(b"\n")
    if done.returncode != 0 or not found:
        raise InputError.single(None, "It could not be drawn: it may be damaged, or too large.")
    facts = json.loads(head)
    if "refused" in facts:
        raise InputError.single(None, facts["refused"])
    return facts, picture
