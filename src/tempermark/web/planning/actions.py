"""Changes to orders and plans."""

from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from django.db import transaction
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.jobs.models import Job, Order
from tempermark.web.kit.records.audit import record
from tempermark.web.planning.day import as_given, job_of, shop_day
from tempermark.web.planning.found import runs_found
from tempermark.web.planning.models import Plan, PlanState
from tempermark.web.planning.plans.wishes import Wish, moved_jobs
from tempermark.web.planning.queries import in_force
from tempermark.web.planning.tasks import search_plan
from tempermark.web.presses.models import Press

# A plan that began longer ago is moved from now, not from its own beginning.
STILL_FRESH = timedelta(minutes=10)


@transaction.atomic
def take_order(user: User, fields: dict[str, Any], key: UUID) -> Order:
    """A new order; the same form sent twice is one. Raises InputError where an open order has the
    reference.
    """
    must_work(user)
    given = Order.objects.filter(entry_key=key).first()
    if given is not None:
        return given
    _must_be_new(fields["reference"])
    order = Order.objects.create(entry_key=key, created_by=user, **fields)
    record(user, "took order", order)
    return order


@transaction.atomic
def change_order(user: User, order: Order, fields: dict[str, Any]) -> None:
    """Another reference, customer, due time or note."""
    must_work(user)
    if fields["reference"] != order.reference:
        _must_be_new(fields["reference"])
    for name, value in fields.items():
        setattr(order, name, value)
    order.save()
    record(user, "changed order", order)


def _must_be_new(reference: str) -> None:
    if Order.objects.filter(reference=reference, closed_at=None).exists():
        raise InputError.single("reference", f"An open order has the reference {reference}.")


@transaction.atomic
def close_order(user: User, order: Order, closed: bool) -> None:
    """An order and its open jobs are finished with; or taken up again, with the jobs that were
    closed with it. Raises InputError where another open order has its reference by now.
    """
    must_work(user)
    held = Order.objects.select_for_update().get(pk=order.pk)
    if (held.closed_at is not None) == closed:
        return
    if not closed:
        _must_be_new(held.reference)
    was, held.closed_at = held.closed_at, timezone.now() if closed else None
    held.save(update_fields=["closed_at"])
    held.jobs.filter(closed_at=was).update(closed_at=held.closed_at)
    record(user, "closed order" if closed else "reopened order", order)


@transaction.atomic
def ask_for_plan(
    user: User,
    objective: str,
    begins_at: datetime,
    key: UUID,
    without: list[int] | None = None,
    after: Plan | None = None,
) -> Plan:
    """A plan of the open jobs, searched in the background; the same form sent twice is one plan.
    Raises InputError where there is nothing to plan.
    """
    must_work(user)
    given = Plan.objects.filter(entry_key=key).first()
    if given is not None:
        return given
    was_on = {run["job"]: run["press"] for run in (after.found.get("runs", []) if after else [])}
    day = shop_day(begins_at, without or [], was_on)
    if not day.stages:
        raise InputError.single(None, "No open job can be planned.")
    if not day.presses:
        raise InputError.single(None, "No press is there to plan on.")
    plan = Plan.objects.create(
        begins_at=begins_at,
        objective=objective,
        given=as_given(day),
        after=after,
        entry_key=key,
        created_by=user,
    )
    record(user, "asked for plan", plan)
    transaction.on_commit(lambda: search_plan.defer(plan=plan.pk))
    return plan


@transaction.atomic
def move_run(user: User, plan: Plan, wish: Wish, key: UUID) -> Plan:
    """Another plan of the same day in which a run is where somebody wants it, searched in the
    background. Raises InputError for what cannot be.
    """
    must_work(user)
    given = Plan.objects.filter(entry_key=key).first()
    if given is not None:
        return given
    begins_at, today = plan.begins_at, plan.given
    if timezone.now() - begins_at > STILL_FRESH:
        begins_at = timezone.now().replace(second=0, microsecond=0)
        today = as_given(shop_day(begins_at, plan.given.get("away", [])))
    moved = Plan.objects.create(
        begins_at=begins_at,
        objective=plan.objective,
        given={
            **today,
            "jobs": moved_jobs(today, runs_found(plan.found), wish),
            "wish": wish.stage,
        },
        after=plan,
        entry_key=key,
        created_by=user,
    )
    record(user, "moved run", moved, run=wish.stage, press=wish.press)
    transaction.on_commit(lambda: search_plan.defer(plan=moved.pk))
    return moved


@transaction.atomic
def search_again(user: User, plan: Plan) -> None:
    """A search that nobody goes on with is begun anew."""
    must_work(user)
    held = Plan.objects.select_for_update().get(pk=plan.pk)
    if not held.is_stalled:
        return
    held.state, held.looked_at, held.is_to_end = PlanState.WAITING, timezone.now(), False
    held.save(update_fields=["state", "looked_at", "is_to_end"])
    record(user, "searched plan again", held)
    transaction.on_commit(lambda: search_plan.defer(plan=held.pk))


@transaction.atomic
def end_search(user: User, plan: Plan) -> None:
    """Its best so far is enough."""
    must_work(user)
    if Plan.objects.filter(pk=plan.pk, is_to_end=False).update(is_to_end=True):
        record(user, "ended search", plan)


@transaction.atomic
def put_in_force(user: User, plan: Plan) -> None:
    """The room works by this plan from now on: each job goes to the press that it has there.
    Raises InputError for one without runs.
    """
    must_work(user)
    held = Plan.objects.select_for_update().get(pk=plan.pk)
    if held.state != PlanState.READY or not held.found.get("runs"):
        raise InputError.single(None, "This plan is not ready.")
    now = timezone.now()
    in_force().exclude(pk=held.pk).update(replaced_at=now)
    held.in_force_since, held.replaced_at = now, None
    held.save(update_fields=["in_force_since", "replaced_at"])
    presses = {press.slug: press for press in Press.objects.all()}
    moved = {job_of(run["job"]): run["press"] for run in reversed(held.found["runs"])}
    for job in Job.objects.filter(pk__in=moved):
        press = presses.get(moved[job.pk])
        if press is not None and job.press_id != press.pk:
            job.press = press
            job.save(update_fields=["press"])
    record(user, "put plan in force", held)
