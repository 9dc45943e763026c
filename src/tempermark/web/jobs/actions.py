"""Changes to jobs: begun, ticked, closed; clocks started, lengthened, heard, stopped."""

from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any
from uuid import UUID

from django.db import transaction
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.core.preparing.heat.changeover import FASTEST_K_MIN, LEAST_CHANGE_K
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.jobs.models import Clock, Job, PlatenChange, Tick
from tempermark.web.kit.records.audit import record
from tempermark.web.presses.models import Element
from tempermark.web.printing.models import Art, PrintSettingsVersion
from tempermark.web.recipes.models import PlacingGuide

Size = tuple[float, float]

# The longest wait is a rest of some days; the shortest is long enough to be heard.
SHORTEST_S, LONGEST_S = 1.0, 14 * 24 * 3600.0
# No platen takes longer to another setting.
LONGEST_CHANGE_S = 4 * 3600.0


@transaction.atomic
def begin(user: User, fields: dict[str, Any], key: UUID) -> Job:
    """A new job; the same form sent twice is one job."""
    must_work(user)
    job, fresh = Job.objects.get_or_create(entry_key=key, defaults={**fields, "created_by": user})
    if fresh:
        record(user, "began job", job)
    return job


@transaction.atomic
def tick(user: User, job: Job, line: str, done: bool) -> None:
    """A line is done, or not after all; said twice it is the same. Raises InputError once the job
    is closed.
    """
    held = _open_job(user, job, "line")
    open_tick = held.ticks.filter(line=line, undone_at=None).first()
    if done and open_tick is None:
        Tick.objects.create(job=held, line=line, by=user)
        record(user, "ticked line", held, line=line)
    elif not done and open_tick is not None:
        open_tick.undone_at = timezone.now()
        open_tick.save(update_fields=["undone_at"])
        record(user, "took tick back", held, line=line)


@transaction.atomic
def close(user: User, job: Job, closed: bool) -> None:
    """A job is finished with, or taken up again."""
    must_work(user)
    job.closed_at = timezone.now() if closed else None
    job.save(update_fields=["closed_at"])
    record(user, "closed job" if closed else "reopened job", job)


@transaction.atomic
def choose_art(user: User, job: Job, art: Art | None, size_mm: Size | None = None) -> None:
    """The art of a job, printed at a size (width, height) in mm, the outline in its middle; none
    takes it away and leaves the size.
    """
    held = _open_job(user, job, "art")
    held.art = art
    held.outline_left_mm = held.outline_top_mm = None
    if size_mm is not None:
        held.art_width_mm, held.art_height_mm = size_mm
    held.save()
    record(user, "chose art", held, art=art.pk if art else None)


@transaction.atomic
def place_outline(user: User, job: Job, size_mm: Size, corner_mm: Size | None) -> None:
    """The art's printed size, and where the outline begins on it (None: in its middle), mm."""
    held = _open_job(user, job, "art")
    held.art_width_mm, held.art_height_mm = size_mm
    held.outline_left_mm, held.outline_top_mm = corner_mm or (None, None)
    held.save()
    record(user, "sized art", held, width_mm=size_mm[0], height_mm=size_mm[1])


@transaction.atomic
def choose_print_settings(user: User, job: Job, version: PrintSettingsVersion | None) -> None:
    """How a job is printed."""
    held = _open_job(user, job, "print_settings")
    held.print_settings = version
    held.save(update_fields=["print_settings"])
    record(user, "chose print settings", held, version=version.pk if version else None)


@transaction.atomic
def choose_guide(user: User, job: Job, guide: PlacingGuide | None, size: str) -> None:
    """Where the art goes, and for which size. Raises InputError for a size that it has not."""
    held = _open_job(user, job, "guide")
    if guide is not None and guide.size(size) is None:
        raise InputError.single("guide", f"{guide.name} has no size {size}.")
    held.guide, held.guide_size = guide, size if guide else ""
    held.save(update_fields=["guide", "guide_size"])
    record(user, "chose guide", held, guide=str(guide or ""), size=held.guide_size)


@transaction.atomic
def set_charge(user: User, job: Job, charge: Decimal | None, minutes: float | None) -> None:
    """What is charged for one piece, and the minutes of work that it takes."""
    held = _open_job(user, job, "charge")
    held.charge, held.minutes = charge, minutes
    held.save(update_fields=["charge", "minutes"])
    record(user, "set charge", held, charge=str(charge or ""), minutes=minutes)


def _open_job(user: User, job: Job, field: str) -> Job:
    """The job, locked for a change. Raises InputError once it is closed."""
    must_work(user)
    held = Job.objects.select_for_update().get(pk=job.pk)
    if held.closed_at is not None:
        raise InputError.single(field, "This job is closed: take it up again first.")
    return held


@transaction.atomic
def start_clock(
    user: User,
    name: str,
    seconds: float,
    key: UUID,
    job: Job | None = None,
    line: str = "",
    repeats: bool = False,
) -> Clock:
    """A clock that rings after so many seconds, once or again and again; the same form sent twice
    is one clock.

    Raises InputError for a wait that is none, or longer than a fortnight.
    """
    must_work(user)
    if not SHORTEST_S <= seconds <= LONGEST_S:
        raise InputError.single("seconds", "A clock runs from 1 second to 14 days.")
    now = timezone.now()
    clock, is_new = Clock.objects.get_or_create(
        entry_key=key,
        defaults={
            "name": name[:60],
            "job": job,
            "line": line,
            "by": user,
            "started_at": now,
            "ends_at": now + timedelta(seconds=seconds),
            "repeat_s": seconds if repeats else None,
        },
    )
    if is_new:
        record(user, "started clock", clock, wait_s=seconds)
    return clock


@transaction.atomic
def lengthen(user: User, clock: Clock, seconds: float) -> Clock:
    """Ring so much later; one that has rung rings again. Raises InputError beyond a fortnight."""
    must_work(user)
    held = Clock.objects.select_for_update().get(pk=clock.pk)
    base = max(held.ends_at, timezone.now())
    ends = base + timedelta(seconds=seconds)
    if not SHORTEST_S <= (ends - held.started_at).total_seconds() <= LONGEST_S:
        raise InputError.single("seconds", "A clock runs from 1 second to 14 days.")
    held.ends_at, held.rung_at = ends, None
    held.save(update_fields=["ends_at", "rung_at"])
    record(user, "lengthened clock", held, by_s=seconds)
    return held


@transaction.atomic
def hear(user: User, clock: Clock) -> None:
    """Somebody heard it: it leaves every page. One that repeats rings at its next whole turn."""
    must_work(user)
    held = Clock.objects.select_for_update().get(pk=clock.pk)
    now = timezone.now()
    if held.repeat_s is None:
        held.rung_at = held.rung_at or now
    elif held.ends_at <= now:
        turns = (now - held.ends_at).total_seconds() // held.repeat_s + 1
        held.ends_at += timedelta(seconds=turns * held.repeat_s)
    held.save(update_fields=["rung_at", "ends_at"])
    record(user, "heard clock", held)


@transaction.atomic
def begin_change(
    user: User,
    element: Element,
    from_c: float,
    to_c: float,
    key: UUID,
    at: datetime | None = None,
) -> None:
    """A platen is set to another true temperature, °C, at a moment (now); one that was under way
    is given up. Raises InputError for one that says nothing of its rate.
    """
    must_work(user)
    if abs(to_c - from_c) < LEAST_CHANGE_K:
        raise InputError.single("to_c", "So small a change says nothing of how fast it is.")
    started_at = at or timezone.now()
    open_changes = PlatenChange.objects.filter(
        element=element, there_at=None, given_up_at=None
    ).exclude(entry_key=key)
    open_changes.update(given_up_at=started_at)
    values = {
        "element": element,
        "from_c": from_c,
        "to_c": to_c,
        "by": user,
        "started_at": started_at,
    }
    change, is_new = PlatenChange.objects.get_or_create(entry_key=key, defaults=values)
    if is_new:
        record(user, "began a change", change, from_c=from_c, to_c=to_c)


@transaction.atomic
def end_change(
    user: User, change: PlatenChange, is_there: bool, at: datetime | None = None
) -> bool:
    """The platen is there at a moment (now), or the change is given up; so is one that took too
    long, or too short, to say anything of the platen's rate. Whether it was timed.
    """
    must_work(user)
    held = PlatenChange.objects.select_for_update().get(pk=change.pk)
    if held.there_at or held.given_up_at:
        return held.there_at is not None
    ended_at = at or timezone.now()
    took_s = (ended_at - held.started_at).total_seconds()
    least_s = abs(held.to_c - held.from_c) / FASTEST_K_MIN * 60
    is_timed = is_there and least_s <= took_s <= LONGEST_CHANGE_S
    if is_timed:
        held.there_at = ended_at
    else:
        held.given_up_at = ended_at
    held.save(update_fields=["there_at", "given_up_at"])
    record(user, "timed a change" if is_timed else "gave up a change", held)
    return is_timed


@transaction.atomic
def stop(user: User, clock: Clock) -> None:
    """It is not needed any more."""
    must_work(user)
    if Clock.objects.filter(pk=clock.pk, stopped_at=None).update(stopped_at=timezone.now()):
        record(user, "stopped clock", clock)
