"""Queries whose text is worked out once: what every request and every entry of a bench looks up.

Django works a query's text out anew each time, which takes longer than the database takes to answer
(docs/decisions/0044-queries-worked-out-once.md). For the few that run tens of times a second.
"""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, Generic, TypeVar
from uuid import UUID

from django.db import connection
from django.db.models import Model, QuerySet

M = TypeVar("M", bound=Model)
Kind = type[int] | type[str] | type[UUID] | type[datetime]


@dataclass(frozen=True)
class _Text:
    """A query's text; for each parameter the name of its value, or what it always is."""

    sql: str
    names: tuple[str | None, ...]
    constants: tuple[Any, ...]

    def parameters(self, values: dict[str, Any]) -> list[Any]:
        """Every parameter, in order."""
        pairs = zip(self.names, self.constants, strict=True)
        return [constant if name is None else values[name] for name, constant in pairs]


class Prepared(Generic[M]):
    """Rows of one model by values that differ each time.

    `build` makes the query of a value for each name; `kinds` are their types. Whole rows of one
    table, or what `values_list` names of it. A value is never None.
    """

    def __init__(self, build: Callable[..., QuerySet[M, Any]], **kinds: Kind) -> None:
        self._build, self._kinds = build, kinds
        self._text: _Text | None = None
        self._model: type[M]
        self._names: list[str] = []
        self._converters: list[tuple[int, Callable[..., Any]]] = []

    def first(self, **values: Any) -> M | None:
        """The first row there is."""
        return next(iter(self.all(**values)), None)

    def only(self, **values: Any) -> M:
        """The one row that there must be."""
        (found,) = self.all(**values)
        return found

    def all(self, **values: Any) -> list[M]:
        """Every row as an instance."""
        rows = self.rows(**values)
        return [self._model.from_db(connection.alias, self._names, row) for row in rows]

    def exists(self, **values: Any) -> bool:
        """Whether there is a row."""
        return bool(self.rows(**values))

    def rows(self, **values: Any) -> list[list[Any]]:
        """Every row as a list."""
        if self._text is None:
            self._text = self._worked_out()
        with connection.cursor() as cursor:
            cursor.execute(self._text.sql, self._text.parameters(values))
            rows = [list(row) for row in cursor.fetchall()]
        for position, convert in self._converters:
            for row in rows:
                row[position] = convert(row[position], None, connection)
        return rows

    def _worked_out(self) -> _Text:
        """The text, made of two sets of examples: a parameter that differs is a value's."""
        one, other = (self._build(**self._examples(turn)) for turn in (0, 1))
        self._model = one.model
        if not (names := one.query.values_select):
            names = tuple(field.attname for field in self._model._meta.concrete_fields)
            one, other = one.values_list(*names), other.values_list(*names)
        self._names = list(names)
        self._converters = self._converters_of(names)
        name_of = {example: name for name, example in self._examples(0).items()}
        sql, first = one.query.sql_with_params()
        _, second = other.query.sql_with_params()
        pairs = list(zip(first, second, strict=True))
        found = tuple(None if a == b else name_of[a] for a, b in pairs)
        if set(self._kinds) - set(found):
            raise ValueError(f"{sorted(self._kinds)} are not all in the text: {sql}")
        return _Text(sql, found, tuple(a for a, _ in pairs))

    def _converters_of(self, names: tuple[str, ...]) -> list[tuple[int, Callable[..., Any]]]:
        by_name = {field.attname: field for field in self._model._meta.concrete_fields}
        by_name["pk"] = self._model._meta.pk
        fields = [by_name[name] for name in names]
        return [
            (position, convert)
            for position, field in enumerate(fields)
            for convert in field.get_db_converters(connection)
        ]

    def _examples(self, turn: int) -> dict[str, Any]:
        numbers = range(1 + turn, 100, 2)
        kinds = self._kinds.items()
        return {
            n: _example(kind, number) for (n, kind), number in zip(kinds, numbers, strict=False)
        }


def _example(kind: Kind, number: int) -> Any:
    """A value of a kind that no constant of a query is."""
    return {
        int: 20_000 + number,
        str: f"example {number}",
        UUID: UUID(int=number),
        datetime: datetime.fromtimestamp(number, UTC),
    }[kind]


def by_key(model: type[M]) -> Prepared[M]:
    """A row of a model by `pk`."""
    return Prepared(lambda pk: model._default_manager.filter(pk=pk), pk=int)
