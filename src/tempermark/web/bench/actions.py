"""Runs: begun from a job, a recipe or the last run; ended."""

from typing import Any
from uuid import UUID, uuid5

from django.db import transaction
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.bench.places import places_of_load
from tempermark.web.jobs import actions as jobs
from tempermark.web.jobs.models import Job
from tempermark.web.kit.records.audit import record
from tempermark.web.kit.records.prepared import Prepared
from tempermark.web.presses.models import Element
from tempermark.web.run.models import PressedPiece, Run
from tempermark.web.run.record.log import labelled

# Pieces that are pressed beyond the number of the job, for those that were spoiled.
MOST_MORE = 1000

# What a new job takes over from the job that was run last.
SAME_JOB = (
    "recipe",
    "blank",
    "press",
    "quantity",
    "art_width_mm",
    "art_height_mm",
    "art",
    "outline_left_mm",
    "outline_top_mm",
    "fold_mm",
    "guide",
    "guide_size",
    "print_settings",
    "relative_humidity",
    "charge",
    "minutes",
    "note",
)


@transaction.atomic
def start(
    user: User,
    job: Job,
    element: Element,
    key: UUID,
    per_load: int = 1,
    placings: tuple[str, ...] = (),
    settings: dict[str, Any] | None = None,
) -> Run:
    """A run of a job on an element; the same form sent twice is one run.

    `settings` are what differs from the recipe's main press (set_c, dwell_s, pressure). Raises
    InputError for a closed job.
    """
    must_work(user)
    if job.closed_at is not None:
        raise InputError.single(None, "This job is closed: take it up again first.")
    run, fresh = Run.objects.get_or_create(
        entry_key=key,
        defaults={
            "job": job,
            "element": element,
            "per_load": per_load,
            "placings": [name.strip() for name in placings if name.strip()],
            "places_mm": places_of_load(element, job.art_width_mm, job.art_height_mm, per_load),
            "settings": settings or {},
            "started_by": user,
        },
    )
    if fresh:
        record(user, "started run", run)
    return run


@transaction.atomic
def start_again(user: User, last: Run, key: UUID) -> Run:
    """The last run once more: of its job while that is open, else of a new job like it."""
    must_work(user)
    job = last.job
    if job.closed_at is not None:
        fields = {name: getattr(job, name) for name in SAME_JOB}
        job = jobs.begin(user, fields, uuid5(key, "job"))
    return start(
        user, job, last.element, key, last.per_load, tuple(last.placings), dict(last.settings)
    )


PIECE_OF_RUN = Prepared(
    lambda run, number: PressedPiece.objects.filter(run=run, number=number)[:1], run=int, number=int
)


def piece_of_run(run: Run, number: int) -> PressedPiece:
    """A piece of a run by its number; it gets its label when it is first named. Raises InputError
    for a number that the run does not reach.
    """
    if not 1 <= number <= run.job.quantity + MOST_MORE:
        raise InputError.single("piece", f"This run has no piece {number}.")
    found = PIECE_OF_RUN.first(run=run.pk, number=number)
    return found or labelled(uuid5(run.entry_key, str(number)), run, number)


@transaction.atomic
def label_pieces(user: User, run: Run, count: int) -> None:
    """Labels for the first pieces of a run before they are pressed."""
    must_work(user)
    for number in range(1, count + 1):
        piece_of_run(run, number)
    record(user, "labelled pieces", run, pieces=count)


@transaction.atomic
def end(user: User, run: Run) -> None:
    """Nothing more is pressed in it; ended twice it is the same."""
    must_work(user)
    if run.ended_at is None:
        run.ended_at = timezone.now()
        run.save(update_fields=["ended_at"])
        record(user, "ended run", run)


@transaction.atomic
def resume(user: User, run: Run) -> None:
    """A run that was ended too early goes on."""
    must_work(user)
    if run.ended_at is not None:
        run.ended_at = None
        run.save(update_fields=["ended_at"])
        record(user, "resumed run", run)
