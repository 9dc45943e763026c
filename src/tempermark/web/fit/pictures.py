"""Scans of carbon prints: read within bounds, as grey, and made anew for keeping."""

import io
import warnings
from dataclasses import dataclass

import numpy as np
from PIL import Image, UnidentifiedImageError

from tempermark.core.errors import InputError
from tempermark.web.kit.pictures import KINDS, MOST_BYTES, MOST_PIXELS

KEPT_SIDE = 900


@dataclass(frozen=True)
class Scan:
    """Grey values (height, width) 0–255, and a small JPEG to keep."""

    grey: np.ndarray
    small: bytes


def grey(raw: bytes) -> Scan:
    """A scan's grey values; InputError when it is no picture, damaged or too large.

    A scan is not turned by what a camera noted: its front is its bottom edge.
    """
    if len(raw) > MOST_BYTES:
        raise InputError.single(
            "picture", f"{len(raw) / 1e6:.0f} MB: at most {MOST_BYTES // 2**20} MB. Scan coarser."
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            picture = Image.open(io.BytesIO(raw), formats=KINDS)
            width, height = picture.size
            if width * height > MOST_PIXELS:
                raise InputError.single(
                    "picture", f"{width} × {height} pixels are too many: scan at 100 dpi."
                )
            plain = picture.convert("L")
    except InputError:
        raise
    except (UnidentifiedImageError, Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise InputError.single("picture", "This is no picture. Right is PNG or JPEG.") from None
    except (OSError, ValueError, SyntaxError, EOFError) as error:
        raise InputError.single(
            "picture", f"The picture is damaged ({error}). Scan it again."
        ) from None
    values = np.asarray(plain)
    plain.thumbnail((KEPT_SIDE, KEPT_SIDE))
    out = io.BytesIO()
    plain.save(out, "JPEG", quality=80)
    return Scan(values, out.getvalue())
