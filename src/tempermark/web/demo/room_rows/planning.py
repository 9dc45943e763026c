"""The demo's day: orders of the regatta, and the plan that the room works by."""

from datetime import datetime, timedelta
from typing import Any
from uuid import NAMESPACE_URL, uuid5

from django.utils import timezone

from tempermark.web.accounts.models import User
from tempermark.web.heat.recipe.presses import elements_for
from tempermark.web.jobs.models import Job, Order
from tempermark.web.planning.actions import put_in_force
from tempermark.web.planning.day import as_given, shop_day
from tempermark.web.planning.models import Objective, Plan, StockEntry, StockKind, WorkHours
from tempermark.web.planning.search import search
from tempermark.web.recipes.models import Blank, RecipeVersion

# Reference, for whom, due in h, then what: recipe slug, blank, pieces, per load, art (w, h) in mm.
ORDERS: tuple[tuple[str, str, float, tuple[tuple[Any, ...], ...]], ...] = (
    (
        "R-118",
        "Crews 1 to 3",
        3.0,
        (("dye-on-a-polyester-vest", "Crew vest, white", 27, 1, (240, 240)),),
    ),
    (
        "R-119",
        "The marshals",
        6.0,
        (("dye-on-a-polyester-vest", "Marshal's bib, yellow", 30, 2, (180, 120)),),
    ),
    (
        "R-120",
        "The boat house",
        4.0,
        (
            ("dye-on-a-hardboard-plate", "Boat-house door plate", 10, 2, (196, 116)),
            ("dye-on-a-coated-aluminium-panel", "Bow-number board", 12, 1, (190, 140)),
        ),
    ),
    (
        "R-121",
        "The stewards' shop",
        7.0,
        (
            ("film-on-a-cotton-bag", "Cotton bag, natural", 40, 1, (160, 160)),
            ("film-on-a-cap-front", "Sun hat, five panels", 24, 1, (90, 50)),
        ),
    ),
    (
        "R-122",
        "The prize table",
        5.0,
        (("dye-on-a-tapered-steel-beaker", "Tapered steel beaker", 16, 1, (180, 90)),),
    ),
)


# Blank, pieces that came in this week, lot.
STOCK = (
    ("Crew vest, white", 40, "V-12"),
    ("Marshal's bib, yellow", 60, ""),
    ("Boat-house door plate", 20, ""),
    ("Bow-number board", 30, ""),
    ("Cotton bag, natural", 100, "B-7"),
    ("Sun hat, five panels", 30, ""),
    ("Tapered steel beaker", 24, ""),
)
# From so many h before the plan until so many after it, with a break that begins after h and lasts
# min: the room opens when the demo is built, at whatever hour.
SHIFTS = (("isla", -1.0, 7.0, 3.0, 30), ("maren", -1.0, 8.0, 3.0, 30))


def _hours(begins: datetime) -> None:
    """The two who tend presses, from before now until the evening of the demo's day."""
    for name, from_h, to_h, break_h, break_min in SHIFTS:
        local = timezone.localtime(begins)
        away = local + timedelta(hours=break_h)
        clocks = (
            local + timedelta(hours=from_h),
            local + timedelta(hours=to_h),
            away,
            away + timedelta(minutes=break_min),
        )
        from_, to, off, back = (at.time().replace(second=0, microsecond=0) for at in clocks)
        WorkHours.objects.create(
            person=User.objects.get(username=name),
            weekdays=list(range(7)),
            begins=from_,
            ends=to,
            break_begins=off,
            break_ends=back,
            entry_key=_key(f"hours:{name}"),
        )


def _stock(person: User, begins: datetime) -> None:
    for name, pieces, lot in STOCK:
        StockEntry.objects.create(
            blank=Blank.objects.get(name=name),
            kind=StockKind.RECEIVED,
            pieces=pieces,
            lot=lot,
            at=begins - timedelta(hours=2),
            by=person,
            entry_key=_key(f"stock:{name}"),
        )


def build_planning(person: User, now: datetime) -> None:
    """The orders as they came in this morning, and the day's plan in force."""
    begins = now.replace(second=0, microsecond=0)
    for number, (reference, customer, due_h, items) in enumerate(ORDERS):
        came = begins - timedelta(minutes=90 - 10 * number)
        order = Order.objects.create(
            reference=reference,
            customer=customer,
            due_at=begins + timedelta(hours=due_h),
            created_at=came,
            created_by=person,
            entry_key=_key(reference),
        )
        for item in items:
            _job(order, item, person, came)
    _hours(begins)
    _stock(person, begins)
    plan = Plan.objects.create(
        begins_at=begins,
        objective=Objective.LATENESS,
        given=as_given(shop_day(begins)),
        created_at=begins,
        created_by=person,
        entry_key=_key("plan"),
    )
    search(plan.pk)
    put_in_force(person, plan)


def _job(order: Order, item: tuple[Any, ...], person: User, when: datetime) -> None:
    slug, blank, quantity, per_load, (width, height) = item
    version = RecipeVersion.objects.filter(recipe__slug=slug).order_by("-number").first()
    if version is None:
        raise LookupError(f"The recipe {slug} is not shipped.")
    Job.objects.create(
        order=order,
        recipe=version,
        blank=Blank.objects.get(name=blank),
        press=elements_for(version)[0].press,
        quantity=quantity,
        per_load=per_load,
        art_width_mm=width,
        art_height_mm=height,
        created_by=person,
        created_at=when,
        entry_key=_key(f"{order.reference}:{blank}"),
    )


def _key(name: str) -> Any:
    return uuid5(NAMESPACE_URL, f"demo:plan:{name}")
