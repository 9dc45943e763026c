"""The knowledge of faults as this shop has it: shipped, its own numbers, shifted by its cases."""

from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache

from tempermark.core.diagnosis.knowledge.base import KnowledgeBase
from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.diagnosis.knowledge.rates import Change, ClosedCase, Shift, changed, learned
from tempermark.web.trace.models import FaultCase, KnowledgeChange


@dataclass(frozen=True)
class ShopKnowledge:
    """The knowledge that holds, what the closed cases shifted, and on how many it rests."""

    base: KnowledgeBase
    shifts: list[Shift]
    cases: int
    changes: list[KnowledgeChange]
    lessons: "Lessons"


def holding_changes(until: datetime | None = None) -> list[KnowledgeChange]:
    """The shop's own numbers that hold, now or at a moment, the newest of each part."""
    newest: dict[tuple[str, str, str], KnowledgeChange] = {}
    rows = KnowledgeChange.objects.filter(withdrawn_at=None)
    if until is not None:
        rows = rows.filter(at__lte=until)
    for row in rows.select_related("by"):
        newest.setdefault((row.cause, row.part, row.key), row)
    return list(newest.values())


def closed_cases(
    without: FaultCase | None = None, until: datetime | None = None
) -> list[ClosedCase]:
    """Cases closed with proof, or found to be normal, before a moment where one is given. One that
    nobody could prove teaches nothing.
    """
    rows = (
        FaultCase.objects.filter(test_press__withdrawn_at=None)
        .exclude(closed_at=None)
        .filter(unproven_why="")
        .exclude(pk=without.pk if without else None)
        .select_related("test_press__recipe__recipe")
        .prefetch_related("test_press__marks")
    )
    if until is not None:
        rows = rows.filter(closed_at__lt=until)
    return [_closed(row) for row in rows]


def _closed(row: FaultCase) -> ClosedCase:
    piece = row.test_press
    return ClosedCase(
        row.cause,
        piece.recipe.recipe.method,
        (frozenset(mark.symptom for mark in piece.marks.all()) | frozenset(row.also_seen))
        - frozenset(row.set_aside),
        frozenset(piece.facts) | frozenset(row.facts),
        frozenset(piece.not_facts) | frozenset(row.not_facts),
        row.second_cause,
    )


@dataclass(frozen=True)
class Lessons:
    """What shifts the shipped knowledge: the shop's own numbers and its closed cases."""

    changes: tuple[Change, ...]
    closed: tuple[ClosedCase, ...]


@dataclass(frozen=True)
class Shifted:
    """The shipped knowledge shifted by lessons, and every shift worth a line."""

    base: KnowledgeBase
    shifts: list[Shift]


@lru_cache(maxsize=8)
def knowledge_by(lessons: Lessons) -> Shifted:
    """The knowledge that follows from lessons; kept, for every page of a case asks it."""
    own = changed(shipped(), lessons.changes)
    return Shifted(*learned(own, list(lessons.closed)))


def shop_knowledge(without: FaultCase | None = None) -> ShopKnowledge:
    """All of it; `without` one case, which must not teach what is thought of itself. For a closed
    case what was known when it was closed: later ones say nothing of it.
    """
    until = without.closed_at if without is not None else None
    changes = holding_changes(until)
    lessons = Lessons(
        tuple(Change(c.cause, c.part, c.key, c.value) for c in changes),
        tuple(closed_cases(without, until)),
    )
    shifted = knowledge_by(lessons)
    return ShopKnowledge(shifted.base, shifted.shifts, len(lessons.closed), changes, lessons)
