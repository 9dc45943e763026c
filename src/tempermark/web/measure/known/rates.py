"""How presses of a kind have moved, by their surveys or their pressure maps alike."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import pairwise
from typing import Any

from django.db.models import QuerySet

from tempermark.core.metrology.memory.learning import SurveyStep
from tempermark.web.presses.models import Element

# Older ones say little of how a press moves.
LOOK_BACK = timedelta(days=720)
MOST_OF_KIND = 400
SECONDS_PER_DAY = 86_400


@dataclass(frozen=True)
class KindHistory:
    """Steps of one element and of all of its kind; of how many it was judged whether something had
    happened, and how often it had.
    """

    own: list[SurveyStep]
    of_kind: list[SurveyStep]
    new: int
    judged: int


def kind_history(
    rows: QuerySet[Any],
    names: Iterable[str],
    element: Element,
    when: datetime,
    steps: Callable[[dict[str, Any], dict[str, Any], float], list[SurveyStep]],
) -> KindHistory:
    """What finished `rows` before a moment tell; `steps` makes of two of them, with their fields
    `names` and the days between, how far things moved.
    """
    newest = of_kind(rows, element, when).order_by("-taken_at")
    found = newest.values("element_id", "taken_at", "memory", *names)[:MOST_OF_KIND]
    by_element: dict[int, list[dict[str, Any]]] = {}
    for row in reversed(found):
        by_element.setdefault(row["element_id"], []).append(row)
    of_each = {
        pk: [
            step
            for first, then in pairwise(of)
            for step in steps(first, then, days_between(first["taken_at"], then["taken_at"]))
        ]
        for pk, of in by_element.items()
    }
    unchanged = [row["memory"].get("unchanged", 1.0) for row in found if row["memory"]]
    return KindHistory(
        of_each.get(element.pk, []),
        [step for of in of_each.values() for step in of],
        sum(chance < 0.5 for chance in unchanged),
        len(unchanged),
    )


def of_kind(rows: QuerySet[Any], element: Element, when: datetime) -> QuerySet[Any]:
    """Those of `rows`, surveys or pressure maps, of all elements of a kind that were finished and
    taken before a moment, as far back as they tell how presses are now.
    """
    return rows.filter(
        element__press__kind=element.press.kind,
        taken_at__lt=when,
        taken_at__gte=when - LOOK_BACK,
        finished_at__isnull=False,
    )


def days_between(first: datetime, then: datetime) -> float:
    """From one moment to the next, days."""
    return (then - first).total_seconds() / SECONDS_PER_DAY
