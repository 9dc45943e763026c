"""Days by the room's clock as moments, and which of them wait to be counted again."""

import itertools
from collections.abc import Collection
from datetime import date, datetime, time, timedelta

from django.db.models import Q
from django.db.models.functions import TruncDate
from django.utils import timezone

from tempermark.web.run.models.counts import CountChange


def began(day: date) -> datetime:
    """When a day began by the room's clock."""
    return timezone.make_aware(datetime.combine(day, time()))


def pressed_on(days: Collection[date]) -> Q:
    """Presses of some days: of spans of them, as an index can find them."""
    found = Q(pk=None)
    for first, last in _spans(sorted(days)):
        found |= Q(pressed_at__gte=began(first), pressed_at__lt=began(last + timedelta(days=1)))
    return found


def _spans(days: list[date]) -> list[tuple[date, date]]:
    """Days in a row as first and last."""
    spans = []
    for _, group in itertools.groupby(enumerate(days), lambda p: p[1].toordinal() - p[0]):
        of_span = [day for _, day in group]
        spans.append((of_span[0], of_span[-1]))
    return spans


def changed() -> set[date]:
    """Days whose counts wait to be counted again."""
    noted = CountChange.objects.annotate(day=TruncDate("pressed_at"))
    return set(noted.values_list("day", flat=True).distinct())
