"""The outline of art, taken from its picture: what is neither clear nor white.

Method: row by row from the first to the last inked pixel, widened by a pixel and made of fewer
corners without cutting in. Range: holes and inner bays are filled; parts side by side are one.
"""

import numpy as np
from PIL import Image
from shapely import Polygon, box, unary_union

from tempermark.core.errors import InputError

# A picture of this many pixels is fine enough for an outline.
SIDE_PX = 240
CLEAR_ALPHA, WHITE_LEVEL = 16, 245


def silhouette(
    picture: Image.Image, size_mm: tuple[float, float]
) -> tuple[tuple[float, float], ...]:
    """Corners (x, y) in mm of the art's outline at a size (width, height) in mm, counted from the
    lower left corner of the outline. Raises InputError where nothing is inked.
    """
    small = picture.copy()
    small.thumbnail((SIDE_PX, SIDE_PX))
    inked = _inked(small)
    rows = [(n, np.flatnonzero(row)) for n, row in enumerate(inked) if row.any()]
    if not rows:
        raise InputError.single("art", "The art is all white or clear: it has no outline.")
    high = inked.shape[0]
    strips = [box(at[0], high - n - 1, at[-1] + 1, high - n) for n, at in rows]
    whole = unary_union(strips).buffer(1.0).simplify(0.9)
    shape = whole if isinstance(whole, Polygon) else whole.convex_hull
    points = np.asarray(shape.exterior.coords)[:-1]
    points = points * np.array(size_mm) / np.array(small.size)
    points -= points.min(axis=0)
    return tuple((float(x), float(y)) for x, y in points)


def to_ink(
    picture: Image.Image, size_mm: tuple[float, float]
) -> tuple[Image.Image, tuple[float, float]]:
    """A picture without its white or clear rim, and the size (width, height) in mm of what is left.
    Raises InputError where nothing is inked.
    """
    inked = _inked(picture)
    columns, rows = np.flatnonzero(inked.any(axis=0)), np.flatnonzero(inked.any(axis=1))
    if not len(columns):
        raise InputError.single("art", "The art is all white or clear: it has no outline.")
    box = (int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1)
    wide, high = box[2] - box[0], box[3] - box[1]
    size = (size_mm[0] * wide / picture.width, size_mm[1] * high / picture.height)
    return picture.crop(box), size


def _inked(picture: Image.Image) -> np.ndarray:
    """Where a picture (height, width) carries ink."""
    pixels = np.asarray(picture.convert("RGBA"))
    inked: np.ndarray = pixels[..., 3] > CLEAR_ALPHA
    inked &= pixels[..., :3].min(axis=-1) < WHITE_LEVEL
    return inked
