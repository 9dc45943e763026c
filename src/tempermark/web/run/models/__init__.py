"""What is pressed: runs with their log, pieces, marks, photographs, lots."""

from tempermark.web.run.models.counts import (
    COUNTS,
    BlankCount,
    ClosingCount,
    CountChange,
    CountedIn,
    LotCount,
    YieldCount,
)
from tempermark.web.run.models.lots import LOT_FIELDS, REUSED, REUSED_MATERIALS, Lot, LotKind
from tempermark.web.run.models.photos import PiecePhoto
from tempermark.web.run.models.pieces import (
    SCORES,
    Grade,
    Mark,
    MarkShape,
    PieceOutcome,
    PressedPiece,
    PressSetting,
    TestPress,
)
from tempermark.web.run.models.runs import EntryKind, LogEntry, Run

__all__ = [
    "COUNTS",
    "LOT_FIELDS",
    "REUSED",
    "REUSED_MATERIALS",
    "SCORES",
    "BlankCount",
    "ClosingCount",
    "CountChange",
    "CountedIn",
    "EntryKind",
    "Grade",
    "LogEntry",
    "Lot",
    "LotCount",
    "LotKind",
    "Mark",
    "MarkShape",
    "PieceOutcome",
    "PiecePhoto",
    "PressSetting",
    "PressedPiece",
    "Run",
    "TestPress",
    "YieldCount",
]
