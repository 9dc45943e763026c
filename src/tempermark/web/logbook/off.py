"""Presses made while a platen was off: found by surveys, carried between them by its drift."""

from bisect import bisect_right
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime

from django.db.models import QuerySet

from tempermark.web.measure.models import Survey
from tempermark.web.presses.history import MAPS_END
from tempermark.web.presses.models import Element, PressEvent
from tempermark.web.run.models import TestPress

FOUND, BETWEEN = "found", "between"
LOW, HIGH, EITHER = "low", "high", "either"
MOST_LISTED = 5000


@dataclass(frozen=True)
class KnownOffset:
    """What a survey found: true mean less the dial, K, and since when the element is the same."""

    at: datetime
    offset_k: float
    survey: Survey


@dataclass(frozen=True)
class PressWhileOff:
    """A press, what its platen was off by then, K, how that is known, and what lay before and
    after: `found` by a survey before it, or `between` one that found it right and one that did
    not.
    """

    press: TestPress
    offset_k: float
    how: str
    survey: Survey

    @property
    def true_c(self) -> float:
        """The platen's mean as it is known now, °C."""
        return self.press.set_c + self.offset_k

    @property
    def outside_k(self) -> float:
        """By how much that leaves the recipe's window: below it negative; 0 inside."""
        step = self.press.pressed_step
        return min(0.0, self.true_c - step.low_c) + max(0.0, self.true_c - step.high_c)


def known_offsets(element: Element) -> list[KnownOffset]:
    """Every finished survey and spot check of an element by time."""
    rows = element.surveys.exclude(finished_at=None).exclude(mean_true_c=None)
    rows = rows.select_related("instrument", "element__press").order_by("taken_at", "pk")
    return [KnownOffset(s.taken_at, s.mean_true_c - s.set_c, s) for s in rows]


def is_off(offset_k: float, by_k: float, side: str) -> bool:
    """Whether a platen that is off by so much, K, counts."""
    low, high = offset_k <= -by_k, offset_k >= by_k
    return {LOW: low, HIGH: high, EITHER: low or high}[side]


def pressed_while_off(
    element: Element, presses: QuerySet[TestPress], by_k: float, side: str
) -> Iterator[PressWhileOff]:
    """Presses of an element while it was off by at least `by_k`, K, the newest first."""
    known = known_offsets(element)
    if not known:
        return
    events = PressEvent.objects.filter(press=element.press_id, kind__in=MAPS_END)
    ends = list(events.order_by("at").values_list("at", flat=True))
    rows = presses.filter(element=element).order_by("-pressed_at", "-pk")
    needed = ("recipe__recipe", "blank", "piece", "element__press")
    for press in rows.select_related(*needed)[:MOST_LISTED]:
        before, later = _around(press.pressed_at, known, ends)
        offset_k = _offset(press.pressed_at, before, later)
        if offset_k is None or not is_off(offset_k, by_k, side):
            continue
        if before is not None and is_off(before.offset_k, by_k, side):
            yield PressWhileOff(press, offset_k, FOUND, before.survey)
        else:
            found_by = later or before
            if found_by is not None:
                yield PressWhileOff(press, offset_k, BETWEEN, found_by.survey)


def _around(
    when: datetime, known: list[KnownOffset], ends: list[datetime]
) -> tuple[KnownOffset | None, KnownOffset | None]:
    """What was known before a moment and what was found after it, of the same state of the press:
    nothing that ended a map lies between.
    """
    after = bisect_right([one.at for one in known], when)
    before = known[after - 1] if after else None
    later = known[after] if after < len(known) else None
    if before is not None and any(before.at < end <= when for end in ends):
        before = None
    if later is not None and any(when < end <= later.at for end in ends):
        later = None
    return before, later


def _offset(when: datetime, before: KnownOffset | None, later: KnownOffset | None) -> float | None:
    """What the platen was off by at a moment, K: it drifts in a line from one survey to the next;
    with one of them alone as that one found it.
    """
    if before is None or later is None:
        one = before or later
        return None if one is None else one.offset_k
    share = (when - before.at) / (later.at - before.at)
    return before.offset_k + share * (later.offset_k - before.offset_k)
