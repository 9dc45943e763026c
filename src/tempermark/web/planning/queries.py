"""Reading orders and plans."""

from django.db.models import Count, F, Q, QuerySet, Sum

from tempermark.web.jobs.models import Order
from tempermark.web.planning.models import Plan


def listed_orders(search: str = "") -> QuerySet[Order]:
    """Orders each with its number of `items` and `pieces`, those due first leading."""
    found = Order.objects.annotate(items=Count("jobs"), pieces=Sum("jobs__quantity"))
    if search:
        found = found.filter(
            Q(reference__icontains=search)
            | Q(customer__icontains=search)
            | Q(note__icontains=search)
        )
    return found.order_by(F("due_at").asc(nulls_last=True), "created_at", "pk")


def in_force() -> QuerySet[Plan]:
    """The plan that the room works by, if there is one."""
    return Plan.objects.filter(in_force_since__isnull=False, replaced_at=None)


def plan_in_force() -> Plan | None:
    """The plan that the room works by; None before the first."""
    return in_force().first()
