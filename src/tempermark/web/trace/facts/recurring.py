"""Whether a fault comes again at one place, by marks on other pieces."""

from tempermark.core.diagnosis.past.recurrence import PlacedMark, Recurrence, follows, recurrence
from tempermark.web.run.models import Mark, TestPress


def recurring(piece: TestPress, others: list[Mark]) -> str | None:
    """Whether the piece's marks follow the platen or the blank, by other pieces' marks."""
    found = {
        follows(_placed(mark, piece), [_placed(o, o.test_press) for o in others if _alike(o, mark)])
        for mark in piece.marks.all()
        if mark.x_mm is not None
    } - {None}
    return found.pop() if len(found) == 1 else None


def recurrence_of(piece: TestPress, others: list[Mark]) -> Recurrence | None:
    """What other pieces' marks tell of the piece's plainest mark, with the chance of accident."""
    placed = [m for m in piece.marks.all() if m.x_mm is not None]
    if not placed:
        return None
    mark = max(placed, key=lambda m: m.severity)
    same = [_placed(o, o.test_press) for o in others if _alike(o, mark)]
    size = (piece.art_width_mm, piece.art_height_mm)
    summary = recurrence(_placed(mark, piece), same, size)
    return summary if summary.looked else None


def _alike(other: Mark, mark: Mark) -> bool:
    return other.symptom == mark.symptom


def _placed(mark: Mark, piece: TestPress) -> PlacedMark:
    return PlacedMark((mark.x_mm, mark.y_mm), (piece.art_x_mm, piece.art_y_mm))
