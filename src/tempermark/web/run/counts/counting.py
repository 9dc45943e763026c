"""What is counted of test presses, day by day: the same queries for what is kept and for the days
that wait to be counted again.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from django.db.models import (
    Case,
    Count,
    Exists,
    F,
    IntegerField,
    Max,
    OuterRef,
    Q,
    QuerySet,
    Sum,
    Value,
    When,
)
from django.db.models.functions import TruncDate

from tempermark.web.run.models import (
    LOT_FIELDS,
    Grade,
    PieceOutcome,
    TestPress,
)
from tempermark.web.run.models.counts import (
    BlankCount,
    ClosingCount,
    DayCount,
    LotCount,
    YieldCount,
)

Row = dict[str, Any]
FAULTY = Q(outcome=PieceOutcome.FAULTY)


@dataclass(frozen=True)
class Counted:
    """A table of counts: what its rows are of (`keys`, beside the day), what is added up (`sums`),
    and how it is counted from test presses.
    """

    model: type[DayCount]
    keys: tuple[str, ...]
    sums: tuple[str, ...]
    count: Callable[[QuerySet[TestPress]], Iterable[Row]]


def _by_day(rows: QuerySet[TestPress]) -> QuerySet[Any]:
    return rows.order_by().annotate(day=TruncDate("pressed_at"))


def _earlier(*same: str, **also: Any) -> Exists:
    """Whether the piece has an earlier press that is the same in some fields."""
    of_piece = TestPress.objects.filter(
        piece=OuterRef("piece"), **{name: OuterRef(name) for name in same}, **also
    )
    before = Q(pressed_at__lt=OuterRef("pressed_at"))
    before |= Q(pressed_at=OuterRef("pressed_at"), pk__lt=OuterRef("pk"))
    return Exists(of_piece.filter(before))


def _closings(rows: QuerySet[TestPress]) -> Iterable[Row]:
    counted = _by_day(rows).values("day", "element", "recipe")
    return counted.annotate(closings=Sum("closures"), last=Max("pressed_at"))


def _lots(rows: QuerySet[TestPress]) -> Iterable[Row]:
    found: dict[tuple[Any, ...], Row] = {}
    for kind, field in LOT_FIELDS.items():
        named = _by_day(rows.exclude(**{field: ""})).values("day", field)
        first = Q(~_earlier(field))
        first_faulty = FAULTY & Q(~_earlier(field, outcome=PieceOutcome.FAULTY))
        counted = named.annotate(
            pieces=Count("pk", filter=first),
            faulty=Count("pk", filter=first_faulty),
            uses=Count("pk"),
            last=Max("pressed_at"),
        )
        for row in counted:
            code = row.pop(field)
            found[kind, code, row["day"]] = {**row, "kind": kind.value, "code": code}
    return found.values()


def first_of_blank(rows: QuerySet[TestPress]) -> QuerySet[TestPress]:
    """Of each piece the main press that used its blank up."""
    return rows.filter(~_earlier("blank", step_number=None), step_number=None)


def _blanks(rows: QuerySet[TestPress]) -> Iterable[Row]:
    counted = _by_day(first_of_blank(rows)).values("day", "blank", "blank_lot")
    return counted.annotate(pieces=Count("pk"))


def yield_cells(rows: QuerySet[TestPress], *by: str) -> Iterable[Row]:
    """Judged presses by element, recipe's version, blank and ninth of the platen, where the middle
    of the art lay; those of experiments, which are to fail at the edges, say nothing of a press.
    """
    x = (F("art_x_mm") + F("art_width_mm") / 2) / F("element__width_mm")
    y = (F("art_y_mm") + F("art_height_mm") / 2) / F("element__height_mm")
    at_work = rows.filter(planned_press=None, run__planned_press=None)
    placed = (
        at_work.exclude(outcome=PieceOutcome.OPEN)
        .order_by()
        .annotate(across_share=x, along_share=y)
        .annotate(ninth=3 * _third("along_share") + _third("across_share"))
    )
    return placed.values(*by, "element", "recipe", "blank", "ninth").annotate(
        judged=Count("pk"),
        good=Count("pk", filter=Q(outcome=PieceOutcome.GOOD)),
        second=Count("pk", filter=FAULTY & Q(grade=Grade.SECOND)),
        spoiled=Count("pk", filter=FAULTY & Q(grade=Grade.SPOILED)),
    )


def _third(name: str) -> Case:
    return Case(
        When(**{f"{name}__lt": 1 / 3}, then=Value(0)),
        When(**{f"{name}__lt": 2 / 3}, then=Value(1)),
        default=Value(2),
        output_field=IntegerField(),
    )


def _yields(rows: QuerySet[TestPress]) -> Iterable[Row]:
    return yield_cells(_by_day(rows.filter(step_number=None)), "day")


YIELD_SUMS = ("judged", "good", "second", "spoiled")
CLOSINGS = Counted(ClosingCount, ("element", "recipe"), ("closings",), _closings)
LOTS = Counted(LotCount, ("kind", "code"), ("pieces", "faulty", "uses"), _lots)
BLANKS = Counted(BlankCount, ("blank", "blank_lot"), ("pieces",), _blanks)
YIELDS = Counted(YieldCount, ("element", "recipe", "blank", "ninth"), YIELD_SUMS, _yields)
ALL = (CLOSINGS, LOTS, BLANKS, YIELDS)
