"""A piece as an outline with its art and marks, as it lay in the press."""

from dataclasses import dataclass

from tempermark.core.diagnosis.knowledge_base import shipped
from tempermark.core.vocabulary import PLACE_WORDS, TIME_WORDS
from tempermark.web.kit.drawing import Projection
from tempermark.web.run.models import TestPress

BOX = (440, 460)
RIGID = ("panel", "tile", "glass", "hardboard", "wood", "plastic", "mug", "tumbler", "leather")
# Outlines in shares of the blank, front (operator's side) at y = 0: points of a path.
OUTLINES = {
    "garment": (
        (0.14, 0.0),
        (0.86, 0.0),
        (0.84, 0.62),
        (1.0, 0.74),
        (0.94, 1.0),
        (0.70, 0.97),
        (0.62, 0.88),
        (0.50, 0.85),
        (0.38, 0.88),
        (0.30, 0.97),
        (0.06, 1.0),
        (0.0, 0.74),
        (0.16, 0.62),
    ),
    "bag": (
        (0.06, 0.0),
        (0.94, 0.0),
        (1.0, 0.80),
        (0.72, 0.80),
        (0.70, 1.0),
        (0.64, 1.0),
        (0.66, 0.80),
        (0.34, 0.80),
        (0.36, 1.0),
        (0.30, 1.0),
        (0.28, 0.80),
        (0.0, 0.80),
    ),
    "cap": (
        (0.0, 0.0),
        (1.0, 0.0),
        (0.97, 0.45),
        (0.80, 0.86),
        (0.5, 1.0),
        (0.20, 0.86),
        (0.03, 0.45),
    ),
}
RECTANGLE = ((0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0))
# Soft blanks whose size nobody noted are drawn this much larger than the art.
SOFT_MARGIN = 1.55


@dataclass(frozen=True)
class DrawnMark:
    """A mark with its number and words."""

    pk: int
    number: int
    x: float | None
    y: float | None
    label: str
    where: str
    when: str
    severity: int


@dataclass(frozen=True)
class PieceChart:
    """The piece in SVG units; `origin` maps platen millimetres for taps."""

    width: float
    height: float
    outline: str
    art: dict
    marks: list[DrawnMark]
    scale: float
    left: float
    bottom: float

    @property
    def art_label(self) -> dict:
        """The art's front left corner."""
        return {"x": self.art["x"], "y": round(self.art["y"] + self.art["height"], 2)}


def piece_chart(piece: TestPress) -> PieceChart:
    """Outline, art and marks of a test press."""
    width, height = _size(piece)
    x0 = piece.art_x_mm + piece.art_width_mm / 2 - width / 2
    y0 = piece.art_y_mm + piece.art_height_mm / 2 - height / 2
    view = Projection.fitting(width, height, *BOX, left=12, top=12)
    shape = OUTLINES.get(piece.blank.kind, RECTANGLE)
    return PieceChart(
        width=view.width + 24,
        height=view.height + 24,
        outline=view.path([(u * width, v * height) for u, v in shape], close=True),
        art=view.box(
            piece.art_x_mm - x0, piece.art_y_mm - y0, piece.art_width_mm, piece.art_height_mm
        ),
        marks=[_mark(m, i, view, x0, y0) for i, m in enumerate(piece.marks.all(), 1)],
        scale=view.scale,
        left=round(view.left - x0 * view.scale, 3),
        bottom=round(view.top + (height + y0) * view.scale, 3),
    )


def _size(piece: TestPress) -> tuple[float, float]:
    blank = piece.blank
    if blank.width_mm and blank.height_mm:
        return max(blank.width_mm, 1), max(blank.height_mm, 1)
    grow = 1.04 if blank.kind in RIGID else SOFT_MARGIN
    return piece.art_width_mm * grow, piece.art_height_mm * grow


def _mark(mark, number, view, x0, y0) -> DrawnMark:
    placed = mark.x_mm is not None
    return DrawnMark(
        mark.pk,
        number,
        view.x(mark.x_mm - x0) if placed else None,
        view.y(mark.y_mm - y0) if placed else None,
        shipped().symptoms[mark.symptom].label,
        PLACE_WORDS[mark.where],
        TIME_WORDS[mark.when],
        mark.severity,
    )
