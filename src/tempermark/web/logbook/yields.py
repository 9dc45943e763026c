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


def _counts() -> dict[str, Any]:
    faulty = Q(outcome=PieceOutcome.FAULTY)
    return {
        "judged": Count("pk"),
        "good": Count("pk", filter=Q(outcome=PieceOutcome.GOOD)),
        "second": Count("pk", filter=faulty & Q(grade=Grade.SECOND)),
        "spoiled": Count("pk", filter=faulty & Q(grade=Grade.SPOILED)),
    }


def _rows(groups: Iterable[Any], label: str) -> list[YieldRow]:
    found = [
        YieldRow(str(row[label]), row["judged"], row["good"], row["second"], row["spoiled"])
        for row in groups
    ]
    return sorted(found, key=lambda row: (row.share, row.label))


def judged(rows: QuerySet[TestPress]) -> QuerySet[TestPress]:
    """Presses whose piece was judged."""
    return rows.exclude(outcome=PieceOutcome.OPEN).order_by()


def by_press(rows: QuerySet[TestPress]) -> list[YieldRow]:
    """The yield of each press, the lowest first."""
    groups = judged(rows).values("element__press__name").annotate(**_counts())
    return _rows(groups, "element__press__name")


def by_recipe(rows: QuerySet[TestPress]) -> list[YieldRow]:
    """The yield of each recipe, the lowest first."""
    groups = judged(rows).values("recipe__recipe__name").annotate(**_counts())
    return _rows(groups, "recipe__recipe__name")


def by_blank(rows: QuerySet[TestPress]) -> list[YieldRow]:
    """The yield of each blank, the lowest first."""
    groups = judged(rows).values("blank__name").annotate(**_counts())
    return _rows(groups, "blank__name")


def by_place(rows: QuerySet[TestPress]) -> list[YieldRow]:
    """The yield of each ninth of the platen, by where the middle of the art lay."""
    x = (F("art_x_mm") + F("art_width_mm") / 2) / F("element__width_mm")
    y = (F("art_y_mm") + F("art_height_mm") / 2) / F("element__height_mm")
    placed = judged(rows).annotate(across_share=x, along_share=y)
    groups = (
        placed.annotate(ninth=3 * _third("along_share") + _third("across_share"))
        .values("ninth")
        .annotate(**_counts())
    )
    named = [row | {"ninth": _name(row["ninth"])} for row in groups]
    return _rows(named, "ninth")


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
