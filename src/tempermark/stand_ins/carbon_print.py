"""A scanned carbon print of a press that is not there, with tilt and hollow as asked.

`python -m tempermark.stand_ins.carbon_print OUT.png` draws one; the demo and tests use
`scanned_print`. Nothing here knows how such pictures are read.
"""

import argparse
from dataclasses import dataclass

import numpy as np
from PIL import Image


@dataclass(frozen=True)
class PressedPad:
    """How a closed press lies on its pad: mm of compression in the middle, more at the right and
    back, and hollows as (x, y, depth, half width, half height) in mm.
    """

    middle_mm: float = 1.5
    right_mm: float = 0.0
    back_mm: float = 0.0
    hollows: tuple[tuple[float, float, float, float, float], ...] = ()
    pad_mm: float = 8.0
    quarter_kpa: float = 48.0

    def contact_kpa(
        self, x_mm: np.ndarray, y_mm: np.ndarray, size_mm: tuple[float, float]
    ) -> np.ndarray:
        """Contact pressure at places of the platen."""
        deep = (
            self.middle_mm
            + self.right_mm * (x_mm / size_mm[0] - 0.5)
            + self.back_mm * (y_mm / size_mm[1] - 0.5)
        )
        for x, y, depth, wide, high in self.hollows:
            deep = deep - depth * np.exp(-(((x_mm - x) / wide) ** 2) - ((y_mm - y) / high) ** 2)
        share = np.clip(deep / self.pad_mm, 0, 0.95)
        return 3 * self.quarter_kpa * share / (1 - share)


def scanned_print(
    pad: PressedPad,
    size_mm: tuple[float, float],
    rng: np.random.Generator,
    pixels_per_mm: float = 2.0,
    turned_deg: float = 0.0,
    bar_mm: float = 100.0,
    most_dark: float = 0.85,
    scale_kpa: float = 30.0,
) -> np.ndarray:
    """The picture (height, width) as grey bytes: paper, print, bar, grain and a crooked scan."""
    margin = 30.0
    wide, high = size_mm[0] + 2 * margin, size_mm[1] + 2 * margin + 24
    columns, rows = int(wide * pixels_per_mm), int(high * pixels_per_mm)
    right, down = np.meshgrid(
        (np.arange(columns) + 0.5) / pixels_per_mm, (np.arange(rows) + 0.5) / pixels_per_mm
    )
    x, y = right - margin, size_mm[1] + margin - down
    inside = (x >= 0) & (x <= size_mm[0]) & (y >= 0) & (y <= size_mm[1])
    contact = pad.contact_kpa(x, y, size_mm)
    dark = np.where(inside, most_dark * (1 - np.exp(-contact / scale_kpa)), 0.0)
    dark *= 1 + 0.10 * rng.standard_normal(dark.shape)
    bar = (np.abs(y + 24) <= 4) & (x >= 10) & (x <= 10 + bar_mm)
    dark = np.where(bar, 1.0, np.clip(dark, 0, 1))
    grey = 242 - 215 * dark + 2.5 * rng.standard_normal(dark.shape)
    picture = Image.fromarray(np.clip(grey, 0, 255).astype(np.uint8))
    if turned_deg:
        picture = picture.rotate(
            -turned_deg, resample=Image.Resampling.BILINEAR, expand=True, fillcolor=242
        )
    return np.asarray(picture)


def main() -> None:
    """Draw one to a file."""
    parser = argparse.ArgumentParser(description="Draw a simulated carbon print as a PNG.")
    parser.add_argument("out")
    parser.add_argument("--width-mm", type=float, default=400)
    parser.add_argument("--height-mm", type=float, default=500)
    parser.add_argument("--middle-mm", type=float, default=1.5, help="compression in the middle")
    parser.add_argument("--right-mm", type=float, default=0.6, help="more at the right")
    parser.add_argument("--back-mm", type=float, default=0.0, help="more at the back")
    parser.add_argument("--hollow-mm", type=float, default=0.5, help="depth of a hollow")
    parser.add_argument("--turned", type=float, default=0.8, help="degrees the scan is crooked by")
    parser.add_argument("--seed", type=int, default=1)
    given = parser.parse_args()
    size = (given.width_mm, given.height_mm)
    hollow = (0.45 * size[0], 0.55 * size[1], given.hollow_mm, 0.16 * size[0], 0.14 * size[1])
    pad = PressedPad(given.middle_mm, given.right_mm, given.back_mm, (hollow,))
    rng = np.random.default_rng(given.seed)
    Image.fromarray(scanned_print(pad, size, rng, turned_deg=given.turned)).save(given.out)


if __name__ == "__main__":
    main()
