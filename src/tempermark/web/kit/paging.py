"""Lists page by key: the time and the number of the last row of a page, as an index has them, so
that the thousandth page costs what the first does.
"""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Generic, TypeVar
from urllib.parse import urlencode

from django.db.models import Model, Q, QuerySet
from django.http import QueryDict
from django.utils import timezone

from tempermark.web.kit.forms.numbers import row_key

AFTER = "after"
CURSOR_SIGN = "."
M = TypeVar("M", bound=Model)


@dataclass(frozen=True)
class Cursor:
    """The last row of a page."""

    at: datetime
    pk: int

    @classmethod
    def read(cls, text: str) -> "Cursor | None":
        """A cursor from an address; None for any other text."""
        microseconds, _, pk = text.partition(CURSOR_SIGN)
        if not (row_key(microseconds) and row_key(pk)):
            return None
        try:
            zone = timezone.get_current_timezone()
            return cls(datetime.fromtimestamp(row_key(microseconds) / 1e6, zone), row_key(pk))
        except (ValueError, OverflowError, OSError):
            return None

    @classmethod
    def of(cls, at: datetime, pk: int) -> str:
        """The cursor of a row as an address carries it."""
        return f"{round(at.timestamp() * 1e6)}{CURSOR_SIGN}{pk}"


def after(rows: QuerySet[M], text: str, by: str) -> QuerySet[M]:
    """Rows behind the cursor of an address, newest first by the time ``by``; all of them where the
    text is no cursor.
    """
    rows = rows.order_by(f"-{by}", "-pk")
    cursor = Cursor.read(text)
    if cursor is None:
        return rows
    # The first condition alone is a range of the index.
    later = Q(**{f"{by}__lt": cursor.at}) | Q(pk__lt=cursor.pk)
    return rows.filter(Q(**{f"{by}__lte": cursor.at}) & later)


@dataclass(frozen=True)
class Page(Generic[M]):
    """Some rows, and the addresses of the pages beside them; empty where there is none."""

    rows: list[M]
    older: str = ""
    newest: str = ""


def page_of(rows: QuerySet[M], query: QueryDict, by: str, size: int, name: str = AFTER) -> Page[M]:
    """The page that an address names: ``size`` rows, newest first by the time ``by``; ``name`` is
    the word of its cursor where a page has several lists.
    """
    text = query.get(name, "")
    found: list[Any] = list(after(rows, text, by)[: size + 1])
    kept = [(key, value) for key, many in query.lists() for value in many if key != name]
    older = ""
    if len(found) > size:
        last = found[size - 1]
        older = f"?{urlencode([*kept, (name, Cursor.of(getattr(last, by), last.pk))])}"
    return Page(found[:size], older, f"?{urlencode(kept)}" if text else "")
