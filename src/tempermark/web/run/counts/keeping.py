"""The worker's part: days that changed are counted again and kept."""

from collections.abc import Collection
from datetime import date

from django.conf import settings
from django.db import connection, transaction

from tempermark.web.run.counts.counting import ALL, Counted
from tempermark.web.run.counts.days import changed, pressed_on
from tempermark.web.run.models import CountChange, CountedIn, TestPress

# One keeper at a time, by an advisory lock of the transaction.
LOCK = 7_410_019
# So many days in one transaction: none holds its locks long.
DAYS_AT_ONCE = 31


def keep() -> int:
    """Count every day again that changed, each once; how many those were. A day that goes on
    changing meanwhile waits for the next time: on a busy day there would be no end.
    """
    _begin_again_in_another_zone()
    done: set[date] = set()
    while days := _some_days(done):
        done.update(days)
    return len(done)


@transaction.atomic
def _some_days(done: Collection[date]) -> list[date]:
    """Count some days again but those that are done; which. What was noted is taken before the
    presses are read: what is noted in between stays, and its day is counted once more. Readers see
    neither until both hold.
    """
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s)", [LOCK])
    days = sorted(changed().difference(done), reverse=True)[:DAYS_AT_ONCE]
    if not days:
        return []
    CountChange.objects.filter(pressed_on(days)).delete()
    for counted in ALL:
        _count(counted, days)
    return days


def _count(counted: Counted, days: Collection[date]) -> None:
    rows = counted.count(TestPress.objects.filter(pressed_on(days)))
    fields = {f.name: f.attname for f in counted.model._meta.concrete_fields}
    kept = [counted.model(**{fields[name]: value for name, value in row.items()}) for row in rows]
    counted.model._base_manager.filter(day__in=days).delete()
    counted.model._base_manager.bulk_create(kept, batch_size=5000)


@transaction.atomic
def _begin_again_in_another_zone() -> None:
    """Days of another time zone began at another moment: all presses are noted as changed."""
    if CountedIn.objects.filter(zone=settings.TIME_ZONE).exists():
        return
    for counted in ALL:
        counted.model._base_manager.all().delete()
    moments = TestPress.every.order_by().values_list("pressed_at", flat=True).distinct()
    CountChange.objects.bulk_create(
        (CountChange(pressed_at=at) for at in moments.iterator()), batch_size=5000
    )
    CountedIn.objects.all().delete()
    CountedIn.objects.create(zone=settings.TIME_ZONE)
