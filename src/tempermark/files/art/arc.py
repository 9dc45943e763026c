"""A shop's straight art bent onto the flat template of a tapered vessel, so that it looks straight
on it.

Equation: each point of the template is rolled onto the vessel (core/preparing/vessels/template.py);
its turn there is the art's across, its height along the wall the art's up.
Range: art is as wide as it is printed at half the wall's height: narrower below, wider above on a
vessel that widens upwards.
"""

from dataclasses import dataclass

import numpy as np
from PIL import Image
from scipy.ndimage import map_coordinates

from tempermark.core.errors import InputError
from tempermark.core.preparing.vessels.template import FlatTemplate, outline, rolled_on
from tempermark.files.art.artwork import MM_PER_IN
from tempermark.files.art.limits import MOST_PIXELS

WARP_DPI = 300.0
# Rows of pixels bent at once: memory stays small.
ROWS_AT_ONCE = 256


@dataclass(frozen=True)
class WrapArt:
    """Art on a wall: its size (round the vessel at half height, along the wall) in mm, how far its
    middle is round to the right, and how far its foot is above the wall's, mm.
    """

    size_mm: tuple[float, float]
    right_mm: float = 0.0
    above_foot_mm: float = 0.0


def warped(
    picture: Image.Image,
    template: FlatTemplate,
    art: WrapArt,
    overlap_mm: float,
    gap_mm: float,
    dpi: float = WARP_DPI,
) -> Image.Image:
    """The template's box at so many pixels to the inch, white where there is no art. Raises
    InputError for a template too large, ValueError for a gap that leaves nothing.
    """
    ring = outline(template, overlap_mm, gap_mm)
    low, high = ring.min(axis=0), ring.max(axis=0)
    per_mm = dpi / MM_PER_IN
    width, height = (int(np.ceil(side * per_mm)) for side in high - low)
    if width * height > MOST_PIXELS:
        raise InputError.single(None, "The template is too large to bend art onto it at 300 dpi.")
    source = np.asarray(_no_finer(picture, art, per_mm).convert("RGB"), dtype=np.uint8)
    sheet = np.full((height, width, 3), 255, np.uint8)
    # Pixels are points at their middles.
    x = low[0] + (np.arange(width) + 0.5) / per_mm
    seams = _seams(template, overlap_mm, gap_mm)
    for first in range(0, height, ROWS_AT_ONCE):
        rows = np.arange(first, min(first + ROWS_AT_ONCE, height))
        y = high[1] - (rows + 0.5) / per_mm
        flat = np.stack(np.meshgrid(x, y), axis=-1).reshape(-1, 2)
        bent = _sampled(source, template, art, rolled_on(template, flat), seams)
        sheet[rows] = bent.reshape(len(rows), width, 3)
    return Image.fromarray(sheet)


def _no_finer(picture: Image.Image, art: WrapArt, per_mm: float) -> Image.Image:
    """The art no finer than it is printed, so that fine lines are averaged and not skipped."""
    size = [max(1, round(side * per_mm)) for side in art.size_mm]
    if picture.mode == "RGBA":
        ground = Image.new("RGB", picture.size, "white")
        ground.paste(picture, mask=picture.getchannel("A"))
        picture = ground
    if picture.width <= size[0] and picture.height <= size[1]:
        return picture
    smaller = (min(size[0], picture.width), min(size[1], picture.height))
    return picture.resize(smaller, Image.Resampling.LANCZOS, reducing_gap=3.0)


def _seams(template: FlatTemplate, overlap_mm: float, gap_mm: float) -> tuple[float, float]:
    """The turns, in radians, between which the template is."""
    whole = template.circumferences_mm[0]
    left = -np.pi * (1 - gap_mm / whole)
    return left, -left + (0.0 if gap_mm else 2 * np.pi * overlap_mm / whole)


def _sampled(
    source: np.ndarray,
    template: FlatTemplate,
    art: WrapArt,
    rolled: np.ndarray,
    seams: tuple[float, float],
) -> np.ndarray:
    """The art's colours (n, 3) at points (n, 2) of the vessel."""
    turn, height = rolled.T
    radius = (template.top_diameter_mm + template.bottom_diameter_mm) / 4
    along = height / template.height_mm * template.slant_mm
    # Round the vessel: what laps over the seam shows what lies under it.
    from_middle = (turn - art.right_mm / radius + np.pi) % (2 * np.pi) - np.pi
    across = from_middle * radius / art.size_mm[0] + 0.5
    up = (along - art.above_foot_mm) / art.size_mm[1]
    rows, columns = source.shape[:2]
    at = np.stack([(1 - up) * rows - 0.5, across * columns - 0.5])
    on_wall = (height >= 0) & (height <= template.height_mm)
    inside = on_wall & (across >= 0) & (across <= 1) & (up >= 0) & (up <= 1)
    inside &= (turn >= seams[0]) & (turn <= seams[1])
    found = np.full((len(turn), 3), 255, np.uint8)
    points = at[:, inside]
    for channel in range(3):
        colour = source[..., channel]
        found[inside, channel] = map_coordinates(colour, points, order=1, mode="nearest")
    return found
