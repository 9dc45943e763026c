"""Changes to what was learned: accepted, taken back; traces kept and left out."""

from typing import Any

from django.db import transaction
from django.utils import timezone

from tempermark.core.thermal.library.receivers import receivers
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_lead, must_work
from tempermark.web.heat.lessons import held, learning
from tempermark.web.heat.models import HEAT_SUBJECT, Lesson, LessonRequest, StackTrace
from tempermark.web.kit.records.audit import record


@transaction.atomic
def accept_lesson(user: User, subject: str) -> Lesson | None:
    """What the pieces or traces of a subject teach now holds; None where they teach nothing."""
    must_lead(user)
    before = learning.before_values(subject)
    if subject == HEAT_SUBJECT:
        heat = learning.heat_learned()
        if heat.taught is None:
            return None
        values, count = held.heat_values(heat.taught), len(heat.traces)
        seen = f"{count} trace{'s' if count > 1 else ''}"
    else:
        summary = learning.learned(subject)
        if summary.taught is None:
            return None
        values, count = learning.law_values(summary.taught), summary.taught.pieces
        seen = f"{count} scored piece{'s' if count > 1 else ''}"
    lesson = Lesson.objects.create(
        subject=subject, values=values, before=before, pieces=count, seen=seen, by=user
    )
    _answer_requests(subject)
    record(user, "accepted lesson", lesson, of=subject, values=values)
    return lesson


@transaction.atomic
def compute_lesson_again(user: User, lesson: Lesson, why: str) -> Lesson | None:
    """A lesson on a surface from the pieces of its time that still stand, after one of them was
    corrected or withdrawn; None where none is left to teach it. The one before stays on record.
    """
    must_work(user)
    summary = learning.learned(lesson.subject, lesson.at)
    lesson.withdrawn_at = timezone.now()
    lesson.save(update_fields=["withdrawn_at"])
    if summary.taught is None:
        record(user, "took lesson back", lesson, of=lesson.subject, why=why)
        return None
    values, count = learning.law_values(summary.taught), summary.taught.pieces
    again = Lesson.objects.create(
        subject=lesson.subject,
        values=values,
        before=lesson.values,
        pieces=count,
        seen=f"{count} scored piece{'s' if count > 1 else ''}, computed again: {why}"[:200],
        at=lesson.at,
        by=lesson.by,
    )
    record(user, "computed lesson again", again, of=lesson.subject, values=values, why=why)
    return again


@transaction.atomic
def request_lesson(user: User, subject: str, note: str = "") -> LessonRequest:
    """Ask a lead to look at what pieces teach; a request that is open already stays."""
    must_work(user)
    open_one = LessonRequest.objects.filter(subject=subject, answered_at=None).first()
    if open_one is not None:
        return open_one
    query = LessonRequest.objects.create(subject=subject, note=note[:200], by=user)
    record(user, "requested lesson", query, of=subject)
    return query


@transaction.atomic
def decline_lesson(user: User, subject: str) -> None:
    """Leave things as they are: open requests about a subject are answered."""
    must_lead(user)
    if _answer_requests(subject):
        record(user, "declined lesson", LessonRequest.objects.filter(subject=subject).first())


def _answer_requests(subject: str) -> int:
    open_ones = LessonRequest.objects.filter(subject=subject, answered_at=None)
    return open_ones.update(answered_at=timezone.now())


def is_subject(subject: str) -> bool:
    """Whether anything can be learned about it."""
    return subject == HEAT_SUBJECT or subject in receivers()


@transaction.atomic
def withdraw_lesson(user: User, subject: str) -> Lesson | None:
    """Take the newest lesson of a subject back; None where there is none."""
    must_lead(user)
    lesson = held.holding(subject)
    if lesson is None:
        return None
    lesson.withdrawn_at = timezone.now()
    lesson.save(update_fields=["withdrawn_at"])
    record(user, "took lesson back", lesson, of=subject)
    return lesson


@transaction.atomic
def keep_trace(user: User, data: dict[str, Any]) -> StackTrace:
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
def turn_trace(user: User, trace: StackTrace, left_out: bool) -> None:
    """Leave a trace out, or take it in again; nothing where it is so already."""
    must_work(user)
    if left_out == (trace.withdrawn_at is not None):
        return
    trace.withdrawn_at = timezone.now() if left_out else None
    trace.save(update_fields=["withdrawn_at"])
    record(user, "left trace out" if trace.withdrawn_at else "took trace in", trace)
