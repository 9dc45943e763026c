"""Labels on a drawing that never cover one another, nor what must stay visible."""

from collections.abc import Iterable
from dataclasses import dataclass, field

# The largest letters of a chart, on a phone, in the drawing's own units; a letter is at most so
# wide for its height (the style sheet's `.chart` rules).
LETTER_HEIGHT, LETTER_WIDTH = 18.0, 0.6
ANCHORS = {"start": 0.0, "middle": 0.5, "end": 1.0}


@dataclass(frozen=True)
class Box:
    """A rectangle in a drawing: left, top, right, bottom."""

    left: float
    top: float
    right: float
    bottom: float

    def meets(self, other: "Box") -> bool:
        """Whether the two overlap."""
        across = self.left < other.right and other.left < self.right
        return across and self.top < other.bottom and other.top < self.bottom

    def is_within(self, other: "Box") -> bool:
        """Whether it lies in the other."""
        across = other.left <= self.left and self.right <= other.right
        return across and other.top <= self.top and self.bottom <= other.bottom


@dataclass(frozen=True)
class Spot:
    """Where a label may stand: its base line and the end it is held by."""

    x: float
    y: float
    anchor: str = "start"


@dataclass
class Labels:
    """The room on a drawing, and what is taken of it."""

    room: Box
    taken: list[Box] = field(default_factory=list)

    def place(self, text: str, spots: Iterable[Spot]) -> Spot | None:
        """The first spot where a text covers nothing and stays inside; None where there is none.
        What is placed is taken from then on.
        """
        for spot in spots:
            box = text_box(text, spot)
            if box.is_within(self.room) and not any(box.meets(other) for other in self.taken):
                self.taken.append(box)
                return spot
        return None


def text_box(text: str, spot: Spot) -> Box:
    """What a text covers at its largest."""
    width = len(text) * LETTER_WIDTH * LETTER_HEIGHT
    left = spot.x - ANCHORS[spot.anchor] * width
    return Box(left, spot.y - 0.8 * LETTER_HEIGHT, left + width, spot.y + 0.25 * LETTER_HEIGHT)
