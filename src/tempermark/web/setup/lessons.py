"""Changes to what was learned: accepted, taken back; traces kept and left out."""

from django.db import transaction
from django.utils import timezone

from tempermark.web.accounts.permissions import must_lead, must_work
from tempermark.web.kit.audit import record
from tempermark.web.setup import learning
from tempermark.web.setup.models import Lesson, StackTrace, Subject


@transaction.atomic
def accept_lesson(user, subject: str) -> Lesson | None:
    """What the pieces or traces of a subject teach now holds; None where they teach nothing."""
    must_lead(user)
    before = learning.before_values(subject)
    if subject == Subject.HEAT:
        heat = learning.heat_learned()
        if heat.taught is None:
            return None
        values, count = learning.heat_values(heat.taught), len(heat.traces)
        seen = f"{count} trace{'s' if count > 1 else ''}"
    else:
        told = learning.learned(subject)
        if told.taught is None:
            return None
        values, count = learning.law_values(told.taught), told.taught.pieces
        seen = f"{count} scored piece{'s' if count > 1 else ''}"
    lesson = Lesson.objects.create(
        subject=subject, values=values, before=before, pieces=count, seen=seen, by=user
    )
    record(user, "accepted lesson", lesson, of=subject, values=values)
    return lesson


@transaction.atomic
def withdraw_lesson(user, subject: str) -> Lesson | None:
    """Take the newest lesson of a subject back; None where there is none."""
    must_lead(user)
    lesson = learning.holding(subject)
    if lesson is None:
        return None
    lesson.withdrawn_at = timezone.now()
    lesson.save(update_fields=["withdrawn_at"])
    record(user, "took lesson back", lesson, of=subject)
    return lesson


@transaction.atomic
def keep_trace(user, data: dict) -> StackTrace:
    """A thermocouple's trace."""
    must_work(user)
    trace = StackTrace.objects.create(
        recipe=data["recipe"],
        element=data["element"],
        blank=data["blank"],
        set_c=data["set_c"],
        contact_kpa=data["contact_kpa"],
        relative_humidity=data["humidity"] / 100,
        under_blank=data["place"] == "blank",
        time_s=data["time_s"],
        seen_c=data["seen_c"],
        by=user,
    )
    record(user, "kept trace", trace, samples=len(trace.time_s))
    return trace


@transaction.atomic
def turn_trace(user, trace: StackTrace) -> None:
    """Leave a trace out, or take it in again."""
    must_work(user)
    trace.withdrawn_at = None if trace.withdrawn_at else timezone.now()
    trace.save(update_fields=["withdrawn_at"])
    record(user, "left trace out" if trace.withdrawn_at else "took trace in", trace)
