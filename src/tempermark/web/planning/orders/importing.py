"""Rows of a shop's own table as orders and jobs: what can be taken, and why the rest cannot."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import NAMESPACE_URL, UUID, uuid5

from django.db import transaction
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.files.planning.order_table import (
    OrderLine,
    OrderTable,
    RefusedLine,
    read_lines,
    read_table,
)
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.heat.recipe.presses import elements_for
from tempermark.web.jobs.models import Job, Order
from tempermark.web.kit.records.audit import record
from tempermark.web.planning.models import OrderFile
from tempermark.web.prepare.jobs.views import USUAL_ART_MM
from tempermark.web.presses.models import Element
from tempermark.web.recipes.blanks.art_size import art_size_mm
from tempermark.web.recipes.cards.queries import current_versions
from tempermark.web.recipes.models import Blank, RecipeVersion

ROWS_AT_ONCE = 500


@dataclass(frozen=True)
class ImportedLine:
    """A row with the recipe, blank and element that it names or needs."""

    line: OrderLine
    version: RecipeVersion
    blank: Blank
    element: Element

    @property
    def due_at(self) -> datetime | None:
        """When it is due, in the room's zone."""
        due = self.line.due
        return None if due is None else timezone.make_aware(due)


@dataclass(frozen=True)
class OrdersToTake:
    """What a table gives by its matched columns."""

    lines: list[ImportedLine]
    refused: list[RefusedLine]


def orders_in(table: OrderTable, columns: Mapping[str, int]) -> OrdersToTake:
    """The orders of a table."""
    given, refused = read_lines(table, columns, timezone.localdate())
    known = _Known()
    lines: list[ImportedLine] = []
    first: dict[str, ImportedLine] = {}
    for line in given:
        try:
            found = known.named(line)
            _must_agree(first.setdefault(line.reference, found), found)
            lines.append(found)
        except ValueError as error:
            refused.append(RefusedLine(line.line, str(error)))
    return OrdersToTake(lines, sorted(refused, key=lambda row: row.line))


class _Known:
    """What rows may name, read once."""

    def __init__(self) -> None:
        versions = current_versions().select_related("recipe")
        self.recipes = {v.recipe.name.lower(): v for v in versions}
        self.recipes |= {v.recipe.slug: v for v in versions}
        self.blanks = {b.name.lower(): b for b in Blank.objects.all()}
        self.open = set(Order.objects.filter(closed_at=None).values_list("reference", flat=True))
        self.elements: dict[int, list[Element]] = {}

    def named(self, line: OrderLine) -> ImportedLine:
        """The rows that a line names. Raises ValueError for what there is not."""
        if line.reference in self.open:
            raise ValueError(f"an open order has the reference {line.reference}")
        version = self.recipes.get(line.recipe.lower())
        if version is None:
            raise ValueError(f"no recipe is called “{line.recipe[:40]}”")
        blank = self.blanks.get(line.blank.lower())
        if blank is None:
            raise ValueError(f"no blank is called “{line.blank[:40]}”")
        if blank.kind != version.recipe.blank_kind:
            raise ValueError(f"{version.recipe.name} does not print {blank.name}")
        if version.pk not in self.elements:
            self.elements[version.pk] = elements_for(version)
        if not self.elements[version.pk]:
            raise ValueError(f"no press takes {version.recipe.name}")
        return ImportedLine(line, version, blank, self.elements[version.pk][0])


def _must_agree(first: ImportedLine, line: ImportedLine) -> None:
    """Lines of one reference are one order. Raises ValueError where they differ in what it is."""
    for name in ("customer", "due"):
        if getattr(first.line, name) != getattr(line.line, name):
            raise ValueError(f"{line.line.reference} has another {name} in line {first.line.line}")


@transaction.atomic
def take_orders(user: User, file: OrderFile, columns: Mapping[str, int]) -> int:
    """Take all rows that can be taken; how many orders that orders. A file that was taken already
    makes none. Raises InputError where no row can be taken.
    """
    must_work(user)
    held = OrderFile.objects.select_for_update().get(pk=file.pk)
    if held.taken_at is not None:
        return 0
    found = orders_in(read_table(bytes(held.raw)), columns)
    if not found.lines:
        raise InputError.single(None, "No row can be taken.")
    orders = _orders(user, held, found.lines)
    jobs = [_job(user, held, orders[line.line.reference], line) for line in found.lines]
    Job.objects.bulk_create(jobs, batch_size=ROWS_AT_ONCE)
    held.taken_at = timezone.now()
    held.save(update_fields=["taken_at"])
    record(user, "took orders", held, orders=len(orders), jobs=len(jobs))
    return len(orders)


def _orders(user: User, file: OrderFile, lines: Sequence[ImportedLine]) -> dict[str, Order]:
    orders: dict[str, Order] = {}
    for row in lines:
        line = row.line
        orders.setdefault(
            line.reference,
            Order(
                reference=line.reference,
                customer=line.customer,
                due_at=row.due_at,
                note=line.note,
                entry_key=_key(file, f"order {line.reference}"),
                created_by=user,
            ),
        )
    Order.objects.bulk_create(orders.values(), batch_size=ROWS_AT_ONCE)
    return orders


def _job(user: User, file: OrderFile, order: Order, row: ImportedLine) -> Job:
    line = row.line
    width, height = art_size_mm(row.blank, row.element) or USUAL_ART_MM
    return Job(
        order=order,
        recipe=row.version,
        blank=row.blank,
        press=row.element.press,
        quantity=line.quantity,
        blank_lot=line.blank_lot,
        per_load=line.per_load,
        art_width_mm=line.art_width_mm or width,
        art_height_mm=line.art_height_mm or height,
        note=line.note,
        entry_key=_key(file, f"job {line.line}"),
        created_by=user,
    )


def _key(file: OrderFile, name: str) -> UUID:
    return uuid5(NAMESPACE_URL, f"orders:{file.entry_key}:{name}")
