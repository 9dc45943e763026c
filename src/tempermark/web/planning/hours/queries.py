"""Who is there from a moment on, by the hours of people."""

import itertools
from datetime import datetime, time, timedelta

from django.utils import timezone

from tempermark.core.planning.day import SECONDS_PER_MINUTE
from tempermark.core.planning.duty import DutySpan, Hands
from tempermark.web.planning.models import PlanRules, WorkHours

# A plan's day has the hours of these days; those of the next where they begin so soon after the
# plan does that whoever plans at night waits for them.
DAYS, NEXT_DAY_WITHIN_MIN = (-1, 0, 1), 6 * 60


def rules() -> PlanRules:
    """How the shop plans."""
    return PlanRules.objects.first() or PlanRules()


def hands_of(begins_at: datetime) -> Hands | None:
    """The hands of a day from a moment on; None where nobody's hours are known for it."""
    at = timezone.localtime(begins_at)
    spans = [
        span
        for row in WorkHours.objects.filter(person__is_active=True)
        for offset in DAYS
        for span in _spans(row, at, offset)
    ]
    if not spans:
        return None
    bends = sorted({0.0, *(minute for _, begins, ends in spans for minute in (begins, ends))})
    counted = [
        DutySpan(begins, ends, len({who for who, a, b in spans if a <= begins and ends <= b}))
        for begins, ends in itertools.pairwise(bends)
    ]
    return Hands(tuple(counted))


def _spans(row: WorkHours, at: datetime, offset: int) -> list[tuple[int, float, float]]:
    """A person's key with the minutes from when to when they are there, from a moment on."""
    day = at.date() + timedelta(days=offset)
    if day.weekday() not in row.weekdays:
        return []

    def minute(clock: time, after: time | None = None) -> float:
        moment = datetime.combine(day, clock, at.tzinfo)
        if after is not None and clock <= after:
            moment += timedelta(days=1)
        return (moment - at).total_seconds() / SECONDS_PER_MINUTE

    begins, ends = minute(row.begins), minute(row.ends, row.begins)
    if offset > 0 and begins > NEXT_DAY_WITHIN_MIN:
        return []
    parts = [(begins, ends)]
    if row.break_begins is not None and row.break_ends is not None:
        away = minute(row.break_begins, _before_midnight(row, row.break_begins))
        back = minute(row.break_ends, _before_midnight(row, row.break_ends))
        parts = [(begins, away), (back, ends)]
    return [(row.person_id, max(a, 0.0), b) for a, b in parts if b > max(a, 0.0)]


def _before_midnight(row: WorkHours, clock: time) -> time | None:
    """What a clock must be later than to be of the same day; None within hours of one day."""
    return row.begins if row.ends <= row.begins and clock < row.begins else None
