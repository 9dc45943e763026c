"""How many pieces come out well: by press, by recipe, by place on the platen."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from django.db.models import Case, Count, F, IntegerField, Q, QuerySet, Value, When
from scipy.stats import beta

from tempermark.web.run.models import Grade, PieceOutcome, TestPress

# Thirds of the platen, from the left and from the front.
ACROSS = ("left", "middle", "right")
ALONG = ("front", "middle", "back")
SURE = 0.9
MOST_JUDGED = 10_000


@dataclass(frozen=True)
class YieldRow:
    """Of what, how many pieces were judged, and how many of them were good, second, spoiled."""

    label: str
    judged: int
    good: int
    second: int
    spoiled: int

    @property
    def share(self) -> float:
        """Good ones of those judged."""
        return self.good / self.judged

    @property
    def interval(self) -> tuple[float, float]:
        """Where the share of good ones lies with 90 %, by what was counted alone."""
        low, high = (1 - SURE) / 2, (1 + SURE) / 2
        good, bad = self.good, self.judged - self.good
        return (
            float(beta.ppf(low, good + 0.5, bad + 0.5)),
            float(beta.ppf(high, good + 0.5, bad + 0.5)),
        )


@dataclass(frozen=True)
class Yields:
    """Yields of the same presses, by what they are grouped by; the lowest first."""

    by_press: list[YieldRow]
    by_recipe: list[YieldRow]
    by_blank: list[YieldRow]
    by_place: list[YieldRow]

    @property
    def judged(self) -> int:
        """Pieces that were judged."""
        return sum(row.judged for row in self.by_press)

    @property
    def is_cut(self) -> bool:
        """Whether there may be older ones that are not counted."""
        return self.judged >= MOST_JUDGED

    @property
    def good(self) -> int:
        """Pieces that came out good."""
        return sum(row.good for row in self.by_press)


PRESS, RECIPE, BLANK = "element__press__name", "recipe__recipe__name", "blank__name"
COUNTED = ("judged", "good", "second", "spoiled")


def yields_of(rows: QuerySet[TestPress]) -> Yields:
    """The yields of presses whose piece was judged, read in one pass; test presses of experiments,
    which are to fail at the edges, say nothing of a press. The place is that of the middle of the
    art, by ninths of the platen. No more than the newest pieces: what was long ago says little of
    today.
    """
    x = (F("art_x_mm") + F("art_width_mm") / 2) / F("element__width_mm")
    y = (F("art_y_mm") + F("art_height_mm") / 2) / F("element__height_mm")
    faulty = Q(outcome=PieceOutcome.FAULTY)
    at_work = rows.filter(planned_press=None, run__planned_press=None)
    judged = at_work.exclude(outcome=PieceOutcome.OPEN)
    newest = judged.order_by("-pressed_at", "-pk").values("pk")[:MOST_JUDGED]
    placed = (
        TestPress.objects.filter(pk__in=newest)
        .order_by()
        .annotate(across_share=x, along_share=y)
        .annotate(ninth=3 * _third("along_share") + _third("across_share"))
    )
    cells = list(
        placed.values(PRESS, RECIPE, BLANK, "ninth").annotate(
            judged=Count("pk"),
            good=Count("pk", filter=Q(outcome=PieceOutcome.GOOD)),
            second=Count("pk", filter=faulty & Q(grade=Grade.SECOND)),
            spoiled=Count("pk", filter=faulty & Q(grade=Grade.SPOILED)),
        )
    )
    named = [cell | {"ninth": _name(cell["ninth"])} for cell in cells]
    return Yields(*(_grouped(named, name) for name in (PRESS, RECIPE, BLANK, "ninth")))


def _grouped(cells: Iterable[Any], name: str) -> list[YieldRow]:
    sums: dict[str, list[int]] = {}
    for cell in cells:
        held = sums.setdefault(str(cell[name]), [0] * len(COUNTED))
        for n, column in enumerate(COUNTED):
            held[n] += cell[column]
    found = [YieldRow(label, *counts) for label, counts in sums.items()]
    return sorted(found, key=lambda row: (row.share, row.label))


def _third(name: str) -> Case:
    return Case(
        When(**{f"{name}__lt": 1 / 3}, then=Value(0)),
        When(**{f"{name}__lt": 2 / 3}, then=Value(1)),
        default=Value(2),
        output_field=IntegerField(),
    )


def _name(ninth: int) -> str:
    along, across = ALONG[ninth // 3], ACROSS[ninth % 3]
    return (
        "middle"
        if along == across == "middle"
        else f"{along} {across}".replace(" middle", "").replace("middle ", "")
    )
