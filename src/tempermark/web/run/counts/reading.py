"""Sums of counts: of what is kept, and of the days that wait to be counted again afresh."""

from collections.abc import Collection, Mapping
from datetime import date
from typing import Any

from django.db.models import Max, Q, Sum

from tempermark.web.run.counts.counting import Counted, Row
from tempermark.web.run.counts.days import changed, pressed_on
from tempermark.web.run.models import TestPress
from tempermark.web.run.models.counts import DayCount

# Field → the values that count.
Where = Mapping[str, Collection[Any]]
Key = tuple[Any, ...]


class Counts:
    """One look at the counts, exact at any moment; the days that wait are counted once."""

    def __init__(self) -> None:
        self._waiting = changed()
        self._afresh: dict[type[DayCount], list[Row]] = {}

    def sums(
        self,
        counted: Counted,
        by: tuple[str, ...],
        where: Where | None = None,
        since: date | None = None,
        until: date | None = None,
    ) -> dict[Key, Row]:
        """Sums of counts by some of their keys, from and to a day; where the table keeps the last
        moment, `last` is the last of all.
        """
        kept = counted.model._base_manager.exclude(day__in=self._waiting)
        kept = kept.filter(_within(since, until))
        if where:
            kept = kept.filter(**{f"{name}__in": list(values) for name, values in where.items()})
        has_last = any(f.name == "last" for f in counted.model._meta.concrete_fields)
        added: dict[str, Any] = {name: Sum(name) for name in counted.sums}
        if has_last:
            added["last"] = Max("last")
        kept = kept.order_by()
        # Without a key to add up by, all is one sum.
        rows = list(kept.values(*by).annotate(**added)) if by else [kept.aggregate(**added)]
        rows += [
            row
            for row in self._counted_now(counted)
            if _is_within(row["day"], since, until)
            and all(row[name] in values for name, values in (where or {}).items())
        ]
        found: dict[Key, Row] = {}
        for row in rows:
            held = found.setdefault(tuple(row[name] for name in by), dict.fromkeys(counted.sums, 0))
            for name in counted.sums:
                held[name] += row[name] or 0
            if has_last and row["last"] is not None:
                held["last"] = max(held.get("last", row["last"]), row["last"])
        return found

    def _counted_now(self, counted: Counted) -> list[Row]:
        """What is on the days that wait to be counted again."""
        if not self._waiting:
            return []
        if counted.model not in self._afresh:
            rows = TestPress.objects.filter(pressed_on(self._waiting))
            self._afresh[counted.model] = list(counted.count(rows))
        return self._afresh[counted.model]


def _within(since: date | None, until: date | None) -> Q:
    found = Q(day__gte=since) if since else Q()
    return found & Q(day__lte=until) if until else found


def _is_within(day: date, since: date | None, until: date | None) -> bool:
    return (since is None or day >= since) and (until is None or day <= until)
