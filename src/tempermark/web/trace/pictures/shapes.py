"""What pictures of faults are drawn with: paths, one made-up emblem on a blank, strewn places."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

SIZE = 160.0
LEFT, TOP, WIDTH, HEIGHT = 34.0, 36.0, 92.0, 88.0
BLACK, PINE, RUST, BLANK, RULE = "#23282b", "#14584a", "#c4682a", "#ffffff", "#cfccc0"


@dataclass(frozen=True)
class Shape:
    """A path with its fill, stroke, width and opacity."""

    d: str
    fill: str = "none"
    stroke: str = "none"
    width: float = 1.0
    opacity: float = 1.0


def box(x: float, y: float, width: float, height: float) -> str:
    """A rectangle's path."""
    return f"M{x:.1f} {y:.1f} h{width:.1f} v{height:.1f} h{-width:.1f} Z"


def disc(x: float, y: float, r: float) -> str:
    """A circle's path."""
    half = f"a{r:.1f} {r:.1f} 0 1 0"
    return f"M{x - r:.1f} {y:.1f} {half} {2 * r:.1f} 0 {half} {-2 * r:.1f} 0 Z"


def line(*points: tuple[float, float]) -> str:
    """A line's path."""
    return "M" + " L".join(f"{x:.1f} {y:.1f}" for x, y in points)


# The emblem: a black bar, a pine field with a blade in it, a rust disc.
BAR = box(LEFT, TOP, 30, HEIGHT)
FIELD = box(LEFT + 36, TOP, 56, 52)
BLADE = line((LEFT + 46, TOP + 44), (LEFT + 70, TOP + 20), (LEFT + 84, TOP + 10))
DISC = disc(LEFT + 64, TOP + 72, 15)
PARTS = ((BAR, BLACK), (FIELD, PINE), (DISC, RUST))


def blank(fill: str = BLANK) -> list[Shape]:
    """The bare blank."""
    return [Shape(box(8, 8, SIZE - 16, SIZE - 16), fill, BLACK, 1.2)]


def art(opacity: float = 1.0, colours: tuple[str, str, str] = (BLACK, PINE, RUST)) -> list[Shape]:
    """The emblem."""
    paths = [d for d, _ in PARTS]
    shapes = [Shape(d, c, opacity=opacity) for d, c in zip(paths, colours, strict=True)]
    return [*shapes, Shape(BLADE, stroke=BLANK, width=4, opacity=opacity)]


def moved(shapes: list[Shape], dx: float, dy: float, opacity: float) -> list[Shape]:
    """Shapes a little further, fainter: only paths that begin at a point and go on relatively."""
    return [
        Shape(_shifted(s.d, dx, dy), s.fill, s.stroke, s.width, s.opacity * opacity) for s in shapes
    ]


def _shifted(d: str, dx: float, dy: float) -> str:
    """A path moved: its absolute points are those after M and L."""
    parts = d.replace("M", "M ").replace("L", "L ").split()
    out, absolute, axis = [], False, 0
    for part in parts:
        if part[0].isalpha():
            absolute, axis = part in ("M", "L"), 0
            out.append(part)
        elif absolute:
            out.append(f"{float(part) + (dx if axis == 0 else dy):.1f}")
            axis = 1 - axis
        else:
            out.append(part)
    return " ".join(out)


def scattered(symptom: str, count: int) -> Iterator[tuple[float, float, float]]:
    """Places over the emblem with a size 0–1, the same for a symptom every time."""
    rng = np.random.default_rng(sum(map(ord, symptom)))
    for _ in range(count):
        x, y, size = rng.random(3)
        yield LEFT + x * WIDTH, TOP + y * HEIGHT, size
