"""A piece as an outline with its art and marks, as it lay in the press."""

from dataclasses import dataclass
from typing import Any

from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.vocabulary.sightings import PLACE_WORDS, TIME_WORDS
from tempermark.web.kit.drawing.projection import Projection
from tempermark.web.run.models import Mark, MarkShape, TestPress
from tempermark.web.run.pieces.outlines import outline

BOX = (440, 460)
RIGID = ("panel", "tile", "glass", "hardboard", "wood", "plastic", "mug", "tumbler", "leather")
# Height of the art's centre on the blank, as a share from its front; the middle elsewhere.
ART_CENTRE = {"garment": 0.55, "bag": 0.4}
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
    symptom: str
    by: int | None
    line: str
    area: dict[str, Any] | None


@dataclass(frozen=True)
class PieceChart:
    """The piece in SVG units; `origin` maps platen millimetres for taps."""

    width: float
    height: float
    outline: str
    art: dict[str, Any]
    marks: list[DrawnMark]
    others: list[tuple[float, float]]
    scale: float
    left: float
    bottom: float

    @property
    def art_label(self) -> dict[str, Any]:
        """The art's front left corner."""
        return {"x": self.art["x"], "y": round(self.art["y"] + self.art["height"], 2)}


def piece_chart(
    piece: TestPress, others: list[Mark] | tuple[Any, ...] = (), over: str = "platen"
) -> PieceChart:
    """Outline, art and marks of a test press; `others` are marks on other pieces, laid over it by
    their place on the platen or, `over` the blank, by their place on the art.
    """
    width, height = _size(piece)
    x0 = piece.art_x_mm + piece.art_width_mm / 2 - width / 2
    up = ART_CENTRE.get(piece.blank.kind, 0.5)
    y0 = piece.art_y_mm + piece.art_height_mm / 2 - height * up
    view = Projection.fitting(width, height, *BOX, left=12, top=12)
    return PieceChart(
        width=view.width + 24,
        height=view.height + 24,
        outline=outline(piece.blank.kind, width, height, view),
        art=view.box(
            piece.art_x_mm - x0, piece.art_y_mm - y0, piece.art_width_mm, piece.art_height_mm
        ),
        marks=[_mark(m, i, view, x0, y0) for i, m in enumerate(piece.marks.all(), 1)],
        others=[
            (view.x(m.x_mm + dx - x0), view.y(m.y_mm + dy - y0))
            for m in others
            for dx, dy in [_carried(piece, m.test_press) if over == "blank" else (0.0, 0.0)]
        ],
        scale=view.scale,
        left=round(view.left - x0 * view.scale, 3),
        bottom=round(view.top + (height + y0) * view.scale, 3),
    )


def _carried(piece: TestPress, other: TestPress) -> tuple[float, float]:
    """From another piece's place on the platen to the same place of this one's art."""
    return piece.art_x_mm - other.art_x_mm, piece.art_y_mm - other.art_y_mm


def _size(piece: TestPress) -> tuple[float, float]:
    blank = piece.blank
    if blank.width_mm and blank.height_mm:
        return max(blank.width_mm, 1), max(blank.height_mm, 1)
    grow = 1.04 if blank.kind in RIGID else SOFT_MARGIN
    return piece.art_width_mm * grow, piece.art_height_mm * grow


def _mark(mark: Mark, number: int, view: Projection, x0: float, y0: float) -> DrawnMark:
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
        mark.symptom,
        mark.marked_by_id,
        _line(mark, view, x0, y0) if placed and mark.shape == MarkShape.LINE else "",
        _area(mark, view, x0, y0) if placed and mark.shape == MarkShape.AREA else None,
    )


def _line(mark: Mark, view: Projection, x0: float, y0: float) -> str:
    ends = [
        (mark.x_mm - x0 + sign * mark.half_x_mm, mark.y_mm - y0 + sign * mark.half_y_mm)
        for sign in (-1, 1)
    ]
    return view.path(ends)


def _area(mark: Mark, view: Projection, x0: float, y0: float) -> dict[str, Any]:
    wide, high = abs(mark.half_x_mm), abs(mark.half_y_mm)
    return view.box(mark.x_mm - x0 - wide, mark.y_mm - y0 - high, 2 * wide, 2 * high)
