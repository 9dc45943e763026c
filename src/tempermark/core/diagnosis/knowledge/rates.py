"""A shop's own rates: the shipped knowledge shifted by what a shop says and by its closed cases.

Shipped numbers count as so many cases already seen (their weight); each closed and proven case is
one more. Beta updating: (weight · rate + times so) / (weight + times looked).
"""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

from tempermark.core.diagnosis.knowledge.base import Cause, KnowledgeBase, Shows
from tempermark.core.vocabulary.sightings import AFTER_WASH

# So many cases the shipped rates of causes are worth, and each row of what a cause shows or of what
# tells of it. Stated on the page; with them ten cases alike move a rate plainly, one does not.
CAUSE_WEIGHT, ROW_WEIGHT = 60.0, 12.0
LEAST, MOST = 0.005, 0.985
# Shifts smaller than this are not worth a line.
SHOWN_FROM = 0.005


@dataclass(frozen=True)
class Change:
    """What a shop says: the `prior` of a cause, how strongly it `shows` the row `key`, or how often
    the fact `key` is true with it (`sign`).
    """

    cause: str
    part: str
    key: str
    value: float


@dataclass(frozen=True)
class ClosedCase:
    """A case that was closed with proof: its cause, method, what was seen, facts both ways, and a
    second cause where two were at work.
    """

    cause: str
    method: str
    symptoms: frozenset[str]
    facts: frozenset[str]
    not_facts: frozenset[str]
    second: str = ""

    @property
    def causes(self) -> tuple[str, ...]:
        """All that was at work."""
        return (self.cause, self.second) if self.second else (self.cause,)


@dataclass(frozen=True)
class Shift:
    """A rate that closed cases moved: of what, from where to where, and by how many cases."""

    cause: str
    part: str
    key: str
    before: float
    after: float
    seen: int
    looked: int


def changed(base: KnowledgeBase, changes: Iterable[Change]) -> KnowledgeBase:
    """The knowledge with a shop's own numbers in place; what names nothing is left out."""
    causes = dict(base.causes)
    for change in changes:
        cause = causes.get(change.cause)
        if cause is None:
            continue
        value = min(max(change.value, LEAST), MOST)
        if change.part == "prior":
            causes[cause.code] = replace(cause, prior=value)
        elif change.part == "shows":
            rows = tuple(
                replace(row, strength=value) if row_key(row) == change.key else row
                for row in cause.shows
            )
            causes[cause.code] = replace(cause, shows=rows)
        elif change.part == "sign" and change.key in cause.signs:
            pair = (value, cause.signs[change.key][1])
            causes[cause.code] = replace(cause, signs=cause.signs | {change.key: pair})
    return replace(base, causes=causes)


def row_key(row: Shows) -> str:
    """Names a row of a cause: its symptom, methods and time."""
    return "|".join((row.symptom, "+".join(row.methods), row.when or ""))


def learned(base: KnowledgeBase, closed: list[ClosedCase]) -> tuple[KnowledgeBase, list[Shift]]:
    """The knowledge shifted by closed cases, and every shift worth telling, the largest first."""
    causes, shifts = {}, []
    for code, cause in base.causes.items():
        own = [case for case in closed if code in case.causes]
        prior = _beta(cause.prior, CAUSE_WEIGHT, len(own), len(closed))
        shifts.append(Shift(code, "prior", "", cause.prior, prior, len(own), len(closed)))
        rows, row_shifts = _rows(cause, own, base)
        signs, sign_shifts = _signs(cause, own, [c for c in closed if code not in c.causes])
        shifts += row_shifts + sign_shifts
        causes[code] = replace(cause, prior=prior, shows=rows, signs=signs)
    shown = [s for s in shifts if abs(s.after - s.before) >= SHOWN_FROM]
    shown.sort(key=lambda s: (-abs(s.after - s.before), s.cause, s.part, s.key))
    return replace(base, causes=causes), shown


def _beta(rate: float, weight: float, seen: int, looked: int) -> float:
    value = (weight * rate + seen) / (weight + looked)
    return min(max(value, LEAST), MOST) if looked else rate


def _rows(
    cause: Cause, own: list[ClosedCase], base: KnowledgeBase
) -> tuple[tuple[Shows, ...], list[Shift]]:
    """A pair of rows of one symptom shares its cases by method."""
    rows, shifts = [], []
    # Where two causes were at work, which of them showed what is not known.
    alone = [c for c in own if not c.second]
    for row in cause.shows:
        # A later time was not looked at in every case: only those that show it speak.
        looked = [c for c in alone if not row.methods or c.method in row.methods]
        if row.when is not None or base.symptoms[row.symptom].when == AFTER_WASH:
            looked = [c for c in looked if row.symptom in c.symptoms]
        seen = sum(row.symptom in c.symptoms for c in looked)
        strength = _beta(row.strength, ROW_WEIGHT, seen, len(looked))
        key = row_key(row)
        shifts.append(Shift(cause.code, "shows", key, row.strength, strength, seen, len(looked)))
        rows.append(replace(row, strength=strength))
    return tuple(rows), shifts


def _signs(cause: Cause, own: list[ClosedCase], others: list[ClosedCase]) -> tuple[Any, ...]:
    signs, shifts = {}, []
    for fact, (with_cause, without) in cause.signs.items():
        pair = []
        for rate, cases, part in ((with_cause, own, "sign"), (without, others, "sign_without")):
            seen = sum(fact in c.facts for c in cases)
            looked = seen + sum(fact in c.not_facts for c in cases)
            value = _beta(rate, ROW_WEIGHT, seen, looked)
            shifts.append(Shift(cause.code, part, fact, rate, value, seen, looked))
            pair.append(value)
        signs[fact] = (pair[0], pair[1])
    return signs, shifts
