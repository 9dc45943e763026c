"""Pictures that come from outside: read within bounds and made anew, so that only pixels stay."""

import io
import warnings
from collections.abc import Callable

from django.http import Http404, HttpResponse
from PIL import Image, ImageOps, UnidentifiedImageError

from tempermark.core.errors import InputError

KINDS = ("JPEG", "PNG", "WEBP")
MOST_BYTES = 12 * 1024 * 1024
MOST_PIXELS = 50_000_000
LONGEST_SIDE, SMALL_SIDE = 1600, 320
QUALITY = 82


def remade(raw: bytes) -> tuple[bytes, bytes, tuple[int, int]]:
    """JPEGs (large, small) and the size of the large one; InputError when it is no picture.

    Turned upright as the camera noted; everything but the pixels (place, time, camera) is left
    behind.
    """
    plain = opened(raw, _upright)
    large, small = plain.copy(), plain
    large.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    small.thumbnail((SMALL_SIDE, SMALL_SIDE))
    return _jpeg(large), _jpeg(small), large.size


def _upright(picture: Image.Image) -> Image.Image:
    picture.draft("RGB", (LONGEST_SIDE, LONGEST_SIDE))
    return _on_white(ImageOps.exif_transpose(picture))


def opened(raw: bytes, decode: Callable[[Image.Image], Image.Image]) -> Image.Image:
    """What `decode` makes of a picture; InputError when it is none, damaged or too large."""
    if len(raw) > MOST_BYTES:
        raise InputError.single(
            None, f"{len(raw) / 1e6:.0f} MB: at most {MOST_BYTES // 2**20} MB. Send a smaller one."
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            picture = Image.open(io.BytesIO(raw), formats=KINDS)
            width, height = picture.size
            if width * height > MOST_PIXELS:
                raise InputError.single(
                    None, f"{width} × {height} pixels are too many: at most 50 million."
                )
            return decode(picture)
    except InputError:
        raise
    except (UnidentifiedImageError, Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise InputError.single(None, "This is not a picture. Send a JPEG, PNG or WebP.") from None
    except (OSError, ValueError, SyntaxError, EOFError) as error:
        raise InputError.single(None, f"The picture is damaged ({error}). Send it again.") from None


def picture_response(data: bytes | memoryview | None) -> HttpResponse:
    """A kept JPEG for one's own browser; Http404 for none."""
    if data is None:
        raise Http404("There is no such picture.")
    response = HttpResponse(bytes(data), content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=86400, immutable"
    return response


def _on_white(picture: Image.Image) -> Image.Image:
    """Without transparency, in plain colours."""
    if picture.mode in ("RGBA", "LA", "PA") or "transparency" in picture.info:
        clear = picture.convert("RGBA")
        ground = Image.new("RGB", clear.size, "white")
        ground.paste(clear, mask=clear.getchannel("A"))
        return ground
    return picture.convert("RGB")


def _jpeg(picture: Image.Image) -> bytes:
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=QUALITY, optimize=True)
    return out.getvalue()
