"""Art with the outline of its blank laid over it: what is printed, and where white would show.

Range: upright rectangles; the outline may lie anywhere on the art.
"""

from dataclasses import dataclass

# Below this rim, mm, nothing white can be seen: what a ruler's mark is wide.
SEEN_RIM_MM = 0.2


@dataclass(frozen=True)
class PlacedArt:
    """Sizes (width, height) in mm of the art as printed and of the blank's outline, the outline's
    upper left corner from the art's, and the bleed on each side.
    """

    art_mm: tuple[float, float]
    outline_mm: tuple[float, float]
    corner_mm: tuple[float, float]
    bleed_mm: tuple[float, float]

    @property
    def page_mm(self) -> tuple[float, float]:
        """What is printed, mm: the outline and its bleed."""
        sides = zip(self.outline_mm, self.bleed_mm, strict=True)
        wide, high = (side + 2 * bleed for side, bleed in sides)
        return wide, high

    @property
    def rims_mm(self) -> dict[str, float]:
        """By side, how far the art ends short of the outline and its bleed, mm; 0 where it does
        not.
        """
        (x, y), (bleed_x, bleed_y) = self.corner_mm, self.bleed_mm
        short = {
            "left": bleed_x - x,
            "top": bleed_y - y,
            "right": x + self.outline_mm[0] + bleed_x - self.art_mm[0],
            "bottom": y + self.outline_mm[1] + bleed_y - self.art_mm[1],
        }
        return {side: max(rim, 0.0) for side, rim in short.items()}

    @property
    def white(self) -> dict[str, float]:
        """The rims that can be seen, by side, mm."""
        return {side: rim for side, rim in self.rims_mm.items() if rim > SEEN_RIM_MM}


def covering(
    ratio: float, outline_mm: tuple[float, float], bleed_mm: tuple[float, float]
) -> PlacedArt:
    """The smallest art of a shape (height ÷ width) that covers an outline and its bleed, mm, with
    the outline in its middle.
    """
    page = PlacedArt((1.0, ratio), outline_mm, (0.0, 0.0), bleed_mm).page_mm
    width = max(page[0], page[1] / ratio)
    return placed_in_middle((width, width * ratio), outline_mm, bleed_mm)


def placed_in_middle(
    art_mm: tuple[float, float], outline_mm: tuple[float, float], bleed_mm: tuple[float, float]
) -> PlacedArt:
    """Art of a size with the outline in its middle, all in mm."""
    corner = ((art_mm[0] - outline_mm[0]) / 2, (art_mm[1] - outline_mm[1]) / 2)
    return PlacedArt(art_mm, outline_mm, corner, bleed_mm)
