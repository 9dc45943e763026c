"""Scans of carbon prints: read within bounds, as grey, and made anew for keeping."""

import io
from dataclasses import dataclass

import numpy as np

from tempermark.web.kit.drawing.pictures import opened

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
    plain = opened(raw, lambda picture: picture.convert("L"))
    values = np.asarray(plain)
    small = plain.copy()
    small.thumbnail((KEPT_SIDE, KEPT_SIDE))
    out = io.BytesIO()
    small.save(out, "JPEG", quality=80)
    return Scan(values, out.getvalue())
