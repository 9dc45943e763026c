"""Tables out and in: the same rows as CSV or JSON, checked by the forms that people fill.

A row is text by column. Every problem of a file is gathered with its line or entry and what was
given; a file with any is refused whole.
"""

import csv
import io
import json
import math
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from typing import Any

from django import forms

from tempermark.core.errors import InputError, Problem
from tempermark.files.document import parse_json, read_format
from tempermark.files.survey_csv import decode
from tempermark.web.kit.forms.fields import UnitForm
from tempermark.web.kit.units import METRIC

MOST_ROWS = 2000
LONGEST_CELL = 2000
MOST_PROBLEMS = 50
# A spreadsheet would take a text that begins so for a formula.
FORMULA_SIGNS = ("=", "+", "-", "@", "\t")


@dataclass(frozen=True)
class TableRow:
    """A row with where it stands: `Line 3` or `presses[1]`."""

    where: str
    cells: dict[str, str]


def to_csv(columns: tuple[str, ...], rows: list[dict[str, Any]]) -> str:
    """Rows under a header; text that a spreadsheet would run is marked with an apostrophe."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(columns)
    writer.writerows([guarded(row.get(name)) for name in columns] for row in rows)
    return out.getvalue()


def to_json(format_name: str, key: str, rows: list[dict[str, Any]]) -> str:
    """Rows as a document; empty cells are left out."""
    kept = [{k: _plain(v) for k, v in row.items() if v not in (None, "", [])} for row in rows]
    return json.dumps({"format": format_name, key: kept}, ensure_ascii=False, indent=1) + "\n"


def cell(value: Any) -> str:
    """A value as text that its form field reads again."""
    if value is None or value is False:
        return ""
    if value is True:
        return "yes"
    if isinstance(value, float):
        return f"{value:.10g}"
    if isinstance(value, list):
        return " ".join(cell(v) for v in value)
    return value.isoformat() if isinstance(value, date) else str(value)


def _plain(value: Any) -> Any:
    return value.isoformat() if isinstance(value, date) else value


class Echo:
    """Hands on what a csv writer writes, for a file in parts."""

    @staticmethod
    def write(text: str) -> str:
        """The text itself."""
        return text


def guarded(value: Any) -> str:
    """A cell's text; what a spreadsheet would run is marked with an apostrophe."""
    text = cell(value)
    return f"'{text}" if isinstance(value, str) and text.startswith(FORMULA_SIGNS) else text


def read_rows(raw: bytes, format_name: str, key: str, columns: tuple[str, ...]) -> list[TableRow]:
    """Rows of a CSV or JSON file; InputError when it is neither, or has foreign columns."""
    text = decode(raw)
    rows = _json_rows(text, format_name, key) if text.lstrip()[:1] == "{" else _csv_rows(text)
    if not rows:
        raise InputError.single(None, "The file has no rows.")
    if len(rows) > MOST_ROWS:
        raise InputError.single(None, f"{len(rows)} rows: at most {MOST_ROWS}. Split the file.")
    foreign = sorted({name for row in rows for name in row.cells if name not in columns})
    if foreign:
        raise InputError.single(
            None,
            f"Unknown here: {', '.join(foreign[:8])}. Known columns: {', '.join(columns)}.",
        )
    return rows


def _csv_rows(text: str) -> list[TableRow]:
    lines = [line for line in text.splitlines() if line.strip() and line.lstrip()[0] != "#"]
    separator = ";" if lines and lines[0].count(";") > lines[0].count(",") else ","
    reader = csv.reader(io.StringIO(text), delimiter=separator)
    header, rows = None, []
    try:
        for cells in reader:
            if not any(c.strip() for c in cells) or cells[0].lstrip().startswith("#"):
                continue
            if header is None:
                header = [c.strip().lower() for c in cells]
                continue
            pairs = dict(zip(header, (_unguarded(c.strip()) for c in cells), strict=False))
            rows.append(TableRow(f"Line {reader.line_num}", pairs))
    except csv.Error as error:
        raise InputError.single(None, f"Line {reader.line_num}: {error}.") from None
    return rows


def _unguarded(text: str) -> str:
    return text[1:] if text[:1] == "'" and text[1:].startswith(FORMULA_SIGNS) else text


def _json_rows(text: str, format_name: str, key: str) -> list[TableRow]:
    fields = read_format(parse_json(text), format_name)
    entries = fields.objects(key, 0, MOST_ROWS)
    fields.done()
    return [
        TableRow(entry.path, {name: cell(value) for name, value in entry.data.items()})
        for entry in entries
    ]


def checked(
    rows: list[TableRow], form_class: Any, columns: tuple[str, ...], **kwargs: Any
) -> list[dict[str, Any]]:
    """Each row's clean values for a form's columns, which files give in °C, mm and kPa; InputError
    lists what every row has wrong.
    """
    clean, problems = [], []
    if issubclass(form_class, UnitForm):
        kwargs = {"units": METRIC, **kwargs}
    for row in rows:
        form = form_class({n: row.cells.get(n, "")[:LONGEST_CELL] for n in columns}, **kwargs)
        if form.is_valid():
            clean.append(form.cleaned_data)
        else:
            problems += [Problem(row.where, text) for text in _wrong(row, form)]
    if problems:
        raise InputError(problems[:MOST_PROBLEMS])
    return clean


def _wrong(row: TableRow, form: forms.Form) -> Iterator[Any]:
    for name, errors in form.errors.items():
        shown = row.cells.get(name, "")
        given = f" “{shown[:40]}”" if shown and shown not in errors[0] else ""
        choices = getattr(form.fields.get(name), "choices", None)
        if choices and shown:
            codes = ", ".join(str(code) for code, _ in choices if code)
            yield f"{row.where}, {name}: “{shown[:40]}” is unknown; known are {codes}."
        else:
            yield f"{row.where}, {name}{given}: {errors[0]}"


def pairs(text: str, right: str) -> list[list[float]]:
    """`100:0.5 200:0.9` as pairs of figures; ValidationError says what is `right`."""
    found = []
    for part in text.split():
        try:
            first, second = (float(v) for v in part.split(":"))
        except ValueError:
            raise forms.ValidationError(f"“{part}” is not a pair; right is {right}") from None
        if not (math.isfinite(first) and math.isfinite(second)):
            raise forms.ValidationError(f"“{part}” is not a pair of numbers.")
        found.append([first, second])
    return found
