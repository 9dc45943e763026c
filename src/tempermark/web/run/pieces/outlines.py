"""Outlines of blanks in shares of their width and height, front (operator's side) at 0.

Each is a list of SVG path commands with points in shares: M and L take one point, Q two,
C three, Z none. Holes are cut by the even-odd rule.
"""

from tempermark.web.kit.drawing.projection import Projection

Command = tuple[str, tuple[tuple[float, float], ...]]

RECTANGLE: tuple[Command, ...] = (
    ("M", ((0, 0),)),
    ("L", ((1, 0),)),
    ("L", ((1, 1),)),
    ("L", ((0, 1),)),
    ("Z", ()),
)
SHAPES: dict[str, tuple[Command, ...]] = {
    "garment": (
        ("M", ((0.17, 0),)),
        ("L", ((0.83, 0),)),
        ("Q", ((0.82, 0.40), (0.83, 0.64))),
        ("L", ((1, 0.75),)),
        ("Q", ((0.97, 0.88), (0.91, 0.96))),
        ("Q", ((0.78, 0.985), (0.66, 1))),
        ("Q", ((0.62, 0.89), (0.5, 0.885))),
        ("Q", ((0.38, 0.89), (0.34, 1))),
        ("Q", ((0.22, 0.985), (0.09, 0.96))),
        ("Q", ((0.03, 0.88), (0, 0.75))),
        ("L", ((0.17, 0.64),)),
        ("Q", ((0.18, 0.40), (0.17, 0))),
        ("Z", ()),
    ),
    "bag": (
        ("M", ((0.03, 0),)),
        ("L", ((0.97, 0),)),
        ("L", ((1, 0.78),)),
        ("L", ((0, 0.78),)),
        ("Z", ()),
        ("M", ((0.28, 0.78),)),
        ("C", ((0.28, 1.07), (0.72, 1.07), (0.72, 0.78))),
        ("L", ((0.66, 0.78),)),
        ("C", ((0.66, 1.0), (0.34, 1.0), (0.34, 0.78))),
        ("Z", ()),
    ),
    "cap": (
        ("M", ((0, 0),)),
        ("Q", ((0.5, 0.12), (1, 0))),
        ("L", ((0.97, 0.38),)),
        ("C", ((0.93, 0.8), (0.72, 1), (0.5, 1))),
        ("C", ((0.28, 1), (0.07, 0.8), (0.03, 0.38))),
        ("Z", ()),
    ),
}


def outline(kind: str, width_mm: float, height_mm: float, view: Projection) -> str:
    """The outline of a blank of this kind and size as an SVG path."""
    steps = []
    for letter, points in SHAPES.get(kind, RECTANGLE):
        places = (f"{view.x(u * width_mm)} {view.y(v * height_mm)}" for u, v in points)
        steps.append(letter + " ".join(places))
    return " ".join(steps)
