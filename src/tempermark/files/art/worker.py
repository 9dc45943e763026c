"""A process of its own that decodes and draws one picture, within bounds of time and memory.

In: a line of JSON, then the file's bytes. Out: a line of JSON, then the picture's bytes. A line
with `refused` says why there is no picture. Started by artwork.py; it imports only what it needs.
"""

import io
import json
import resource
import sys
from typing import Any

from PIL import Image, ImageCms, ImageOps, UnidentifiedImageError

from tempermark.files.art.limits import MOST_MEMORY_BYTES, MOST_PAGES, MOST_PIXELS, MOST_SECONDS

# A picture's own figure counts as its size only where a printer could mean it.
DPI_RANGE = (36.0, 2400.0)
PT_MM = 25.4 / 72
CSS_DPI = 96


class NoPicture(Exception):
    """Why there is no picture, in words for the person."""


def main() -> None:
    """One picture; refusals are answers, not failures."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY_BYTES, MOST_MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_SECONDS, MOST_SECONDS))
    # The bound on pixels is our own, with a sentence of its own.
    Image.MAX_IMAGE_PIXELS = None
    request = json.loads(sys.stdin.buffer.readline())
    raw = sys.stdin.buffer.read()
    try:
        facts, picture = ACTS[request["act"]](raw, request)
    except NoPicture as why:
        facts, picture = {"refused": str(why)}, b""
    except MemoryError:
        facts, picture = {"refused": "It needs more memory than a picture should."}, b""
    sys.stdout.buffer.write(json.dumps(facts).encode() + b"\n" + picture)


def _picture(raw: bytes, request: dict[str, Any]) -> tuple[dict[str, Any], bytes]:
    """A PNG or JPEG, made again: upright, in sRGB, without anything but its pixels."""
    try:
        found = Image.open(io.BytesIO(raw), formats=("PNG", "JPEG"))
        width, height = found.size
        if width * height > MOST_PIXELS:
            raise NoPicture(
                f"{width} × {height} pixels are too many: {MOST_PIXELS // 10**6} million at "
                "most. Save it smaller."
            )
        notes, dpi, kind = [], found.info.get("dpi", (0, 0)), found.format
        found.load()
        plain, converted = _in_srgb(ImageOps.exif_transpose(found))
    except UnidentifiedImageError:
        raise NoPicture(
            "This is not a picture that can be read: send PNG, JPEG, SVG or PDF."
        ) from None
    except (OSError, ValueError, SyntaxError, EOFError) as error:
        raise NoPicture(f"The picture is damaged ({error}). Send it again.") from None
    if converted:
        notes.append(converted)
    size = plain.size
    natural = None
    if all(DPI_RANGE[0] <= float(value) <= DPI_RANGE[1] for value in dpi):
        natural = [pixels / float(d) * 25.4 for pixels, d in zip(size, dpi, strict=True)]
    facts = {"size_px": list(size), "size_mm": natural, "notes": notes}
    return facts, _encoded(plain, "JPEG" if kind == "JPEG" else "PNG")


def _in_srgb(picture: Image.Image) -> tuple[Image.Image, str]:
    """RGB or RGBA in sRGB, and a remark where colours were converted."""
    profile = picture.info.get("icc_profile")
    has_alpha = picture.mode in ("RGBA", "LA", "PA") or "transparency" in picture.info
    if picture.mode == "CMYK":
        note = "Its colours were CMYK and are RGB now: compare them with your proof."
    else:
        note = ""
    if profile and picture.mode in ("RGB", "CMYK", "L"):
        try:
            source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            target = ImageCms.createProfile("sRGB")
            converted = ImageCms.profileToProfile(picture, source, target, outputMode="RGB")
            if converted is not None:
                picture = converted
        except (ImageCms.PyCMSError, OSError):
            note = "Its colour profile could not be read: compare the colours with your proof."
    picture = picture.convert("RGBA" if has_alpha else "RGB")
    picture.info.clear()
    return picture, note


def _pdf_page(raw: bytes, request: dict[str, Any]) -> tuple[dict[str, Any], bytes]:
    """One page of a PDF as a PDF of its own, without scripts, forms or attachments."""
    import pypdfium2 as pdfium  # noqa: PLC0415  heavy, and only this act needs it

    try:
        found = pdfium.PdfDocument(raw)
        pages = len(found)
    except pdfium.PdfiumError:
        raise NoPicture("This PDF is damaged or locked. Export it without a password.") from None
    if pages > MOST_PAGES:
        raise NoPicture(
            f"This PDF has {pages} pages: {MOST_PAGES} at most. Send the page to be printed."
        )
    number = int(request["page"])
    if not 1 <= number <= pages:
        raise NoPicture(f"There is no page {number}: the PDF has {pages}.")
    single = pdfium.PdfDocument.new()
    single.import_pages(found, [number - 1])
    page = single[0]
    width, height = page.get_size()
    if not (width > 0 and height > 0):
        raise NoPicture("The page has no size.")
    out = io.BytesIO()
    single.save(out)
    facts = {
        "pages": pages,
        "size_mm": [width * PT_MM, height * PT_MM],
        "inner_dpi": _lowest_dpi(page, pdfium),
        "notes": [],
    }
    return facts, out.getvalue()


def _lowest_dpi(page: Any, pdfium: Any) -> float | None:
    """The dpi of the coarsest picture on a page at its own size; None without pictures."""
    found = []
    for part in page.get_objects(filter=[pdfium.raw.FPDF_PAGEOBJ_IMAGE], max_depth=4):
        left, bottom, right, top = part.get_bounds()
        pixels = part.get_px_size()
        if right - left > 1 and top - bottom > 1:
            found.append(min(pixels[0] * 72 / (right - left), pixels[1] * 72 / (top - bottom)))
    return min(found, default=None)


def _draw(raw: bytes, request: dict[str, Any]) -> tuple[dict[str, Any], bytes]:
    """A picture so many pixels across and down, as a PNG."""
    width, height = int(request["width_px"]), int(request["height_px"])
    if not 0 < width * height <= MOST_PIXELS:
        raise NoPicture(f"{width} × {height} pixels are too many.")
    drawn = DRAWN[request["kind"]](raw, width, height)
    if drawn.size != (width, height):
        drawn = drawn.resize((width, height), Image.Resampling.LANCZOS, reducing_gap=3.0)
    return {"size_px": [width, height]}, _encoded(drawn, "PNG")


def _draw_picture(raw: bytes, width: int, height: int) -> Image.Image:
    return Image.open(io.BytesIO(raw), formats=("PNG", "JPEG"))


def _draw_svg(raw: bytes, width: int, height: int) -> Image.Image:
    import resvg_py  # noqa: PLC0415  heavy, and only this act needs it

    try:
        png = resvg_py.svg_to_bytes(svg_string=raw.decode(), width=width, dpi=CSS_DPI)
        return Image.open(io.BytesIO(png)).convert("RGBA")
    except (ValueError, OSError) as error:
        raise NoPicture(f"The drawing could not be drawn ({str(error)[:80]}).") from None


def _draw_pdf(raw: bytes, width: int, height: int) -> Image.Image:
    import pypdfium2 as pdfium  # noqa: PLC0415  heavy, and only this act needs it

    page = pdfium.PdfDocument(raw)[0]
    bitmap = page.render(scale=width / page.get_size()[0], may_draw_forms=False)
    drawn: Image.Image = bitmap.to_pil()
    return drawn.convert("RGB")


def _encoded(picture: Image.Image, kind: str) -> bytes:
    out = io.BytesIO()
    if kind == "JPEG":
        picture.convert("RGB").save(out, "JPEG", quality=95, subsampling=0)
    else:
        picture.save(out, "PNG", compress_level=3)
    return out.getvalue()


ACTS = {"picture": _picture, "pdf": _pdf_page, "draw": _draw}
DRAWN = {"png": _draw_picture, "jpeg": _draw_picture, "svg": _draw_svg, "pdf": _draw_pdf}

if __name__ == "__main__":
    main()
