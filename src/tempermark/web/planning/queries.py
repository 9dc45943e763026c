"""Reading orders and plans."""

import itertools
from collections.abc import Collection, Iterable, Sequence
from datetime import datetime
from statistics import median

from django.contrib.postgres.expressions import ArraySubquery
from django.db.models import Count, F, OuterRef, Q, QuerySet, Sum

from tempermark.web.jobs.models import Job, Order
from tempermark.web.planning.models import Plan
from tempermark.web.run.models import Grade, PieceOutcome, Run, TestPress

# The pace of a run is that of its last loads; fewer say nothing.
LEAST_LOADS, MOST_LOADS = 3, 12


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


def jobs_left(only: Collection[int] | None = None) -> tuple[list[Job], dict[int, int]]:
    """The open jobs, those due first leading, without experiments, ``only`` some of them by their
    keys; and, by their keys, the pieces that are left of each.
    """
    which = Q(closed_at=None, experiment=None)
    if only is not None:
        which &= Q(pk__in=only)
    rows = Job.objects.filter(which).select_related("recipe__recipe", "blank", "order")
    jobs = list(rows.order_by(F("order__due_at").asc(nulls_last=True), "created_at", "pk"))
    done = pieces_done(jobs, Q(job__closed_at=None) if only is None else None)
    return jobs, {job.pk: job.quantity - done[job.pk] for job in jobs}


def pieces_done(jobs: Sequence[Job], which: Q | None = None) -> dict[int, int]:
    """Job, by its key → how many of its pieces are pressed and not spoiled; all in one query, which
    finds their presses by ``which`` where there are too many to name.
    """
    of_jobs = Q(job__in=jobs) if which is None else which
    # Said so, a press without a job is no press of an open one, and the job's index is used.
    rows = TestPress.objects.filter(of_jobs, job__isnull=False, step_number=None)
    spoiled = rows.filter(outcome=PieceOutcome.FAULTY, grade=Grade.SPOILED).values("piece")
    kept = rows.exclude(piece__in=spoiled).order_by().values_list("job")
    found = dict(kept.annotate(pieces=Count("piece", distinct=True)))
    return {job.pk: found.get(job.pk, 0) for job in jobs}


def in_force() -> QuerySet[Plan]:
    """The plan that the room works by, if there is one."""
    return Plan.objects.filter(in_force_since__isnull=False, replaced_at=None)


def plan_in_force() -> Plan | None:
    """The plan that the room works by; None before the first."""
    return in_force().first()


def load_seconds(jobs: Iterable[int]) -> dict[int, float]:
    """Job under way, by its key → seconds from load to load of late, breaks left aside; only where
    some loads say so.
    """
    # Pieces of one load are pressed at one moment.
    of_run = TestPress.objects.filter(run=OuterRef("pk"), step_number=None).order_by("-pressed_at")
    moments = of_run.values_list("pressed_at", flat=True).distinct()[: MOST_LOADS + 1]
    runs = Run.objects.filter(job__in=jobs, ended_at=None)
    newest: dict[int, list[datetime]] = {}
    for job, at in runs.annotate(at=ArraySubquery(moments)).values_list("job", "at"):
        newest.setdefault(job, []).extend(at)
    found = {}
    for job, at in newest.items():
        last = sorted(at)[-MOST_LOADS - 1 :]
        gaps = [(b - a).total_seconds() for a, b in itertools.pairwise(last)]
        if len(gaps) >= LEAST_LOADS:
            found[job] = median(gaps)
    return found
