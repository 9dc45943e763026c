"""Reading runs."""

from dataclasses import dataclass
from typing import Any

from django.db.models import Count, OuterRef, Q, QuerySet, Subquery

from tempermark.web.presses.models import Press
from tempermark.web.run.models import EntryKind, LogEntry, PieceOutcome, Run

IN_FULL = (
    "job__recipe__recipe",
    "job__blank",
    "job__press",
    "element__press",
    "started_by",
)
MOST_LISTED = 50


def runs() -> QuerySet[Run]:
    """Runs with what their pages name."""
    return Run.objects.select_related(*IN_FULL)


def under_way() -> QuerySet[Run]:
    """Runs that have not ended, newest first."""
    return counted(runs().filter(ended_at=None))


def last_on(press: Press, most: int = 5) -> list[Run]:
    """The last runs on a press, one of each recipe and blank: what may be run again."""
    found: dict[tuple[int, int], Run] = {}
    # A test press of an experiment is pressed from its sheet.
    for run in runs().filter(element__press=press, planned_press=None)[: 8 * most]:
        found.setdefault((run.job.recipe_id, run.job.blank_id), run)
    return list(found.values())[:most]


def counted(rows: QuerySet[Run]) -> QuerySet[Run]:
    """Runs each with its pieces `pressed` and `good`, and its last entry's kind and time."""
    last = LogEntry.objects.filter(run=OuterRef("pk")).order_by("-pk")
    counts = Q(test_presses__withdrawn_at=None)
    good = Q(test_presses__outcome=PieceOutcome.GOOD, test_presses__withdrawn_at=None)
    return rows.annotate(
        pressed=Count("test_presses__piece", filter=counts, distinct=True),
        good=Count("test_presses__piece", filter=good, distinct=True),
        last_kind=Subquery(last.values("kind")[:1]),
        last_at=Subquery(last.values("at")[:1]),
    )


@dataclass(frozen=True)
class BenchState:
    """A run in a word for who looks from elsewhere."""

    run: Run
    text: str


def bench_states() -> list[BenchState]:
    """Every run under way in a word."""
    return [BenchState(run, _state_text(run)) for run in under_way()[:MOST_LISTED]]


def _state_text(run: Any) -> str:
    """`closed`, `12 good of 40`, of a run that is `counted`."""
    if run.last_kind == EntryKind.CLOSED:
        return "closed"
    if run.last_kind is None:
        return "not begun"
    return f"{run.good} good of {run.job.quantity}"
