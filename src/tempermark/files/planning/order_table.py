"""A shop's own table of orders: which column is what, and each row as an order's line.

A row that cannot be taken is named with its line and its reason; the others are taken.
"""

import csv
import io
import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time

from tempermark.core.days import EARLIEST_YEAR
from tempermark.core.errors import InputError
from tempermark.files.survey_csv import decode

MOST_ROWS, MOST_COLUMNS, LONGEST_CELL = 10_000, 60, 400
MOST_PIECES, MOST_PER_LOAD, LARGEST_MM = 100_000, 20, 5000.0
# Field → what shops call its column, lower case, most likely first.
COLUMN_NAMES: dict[str, tuple[str, ...]] = {
    "reference": ("reference", "order", "order no", "order number", "ref", "po", "id"),
    "customer": ("customer", "client", "for", "name"),
    "due": ("due", "due date", "due at", "needed by", "ship by", "date", "deadline"),
    "recipe": ("recipe", "method", "process", "print"),
    "blank": ("blank", "product", "item", "article", "garment", "sku"),
    "blank_lot": ("blank lot", "lot", "lot of blanks", "batch", "lot no"),
    "quantity": ("quantity", "qty", "pieces", "pcs", "amount", "count", "number"),
    "per_load": ("per load", "pieces per load", "per_load"),
    "art_width_mm": ("art width", "art_width_mm", "width", "width mm", "across"),
    "art_height_mm": ("art height", "art_height_mm", "height", "height mm", "front to back"),
    "note": ("note", "notes", "remark", "comment"),
}
NEEDED = ("reference", "recipe", "blank", "quantity")
LENGTH_UNITS_MM = {"": 1.0, "mm": 1.0, "cm": 10.0, "in": 25.4, '"': 25.4, "”": 25.4, "inch": 25.4}
MOMENTS = ("%Y-%m-%d %H:%M", "%Y-%m-%dT%H:%M", "%d.%m.%Y %H:%M", "%Y-%m-%d %H:%M:%S")
DAYS = ("%Y-%m-%d", "%d.%m.%Y")
# What is due on a day is due at its end of work.
END_OF_WORK = time(17, 0)
LATEST_YEAR = 2100


@dataclass(frozen=True)
class OrderTable:
    """A table as it came: its header, and each row with its line in the file."""

    header: tuple[str, ...]
    rows: tuple[tuple[int, tuple[str, ...]], ...]


@dataclass(frozen=True)
class OrderLine:
    """A row as a line of an order; sizes in mm, None where the table does not say."""

    line: int
    reference: str
    customer: str
    due: datetime | None
    recipe: str
    blank: str
    quantity: int
    per_load: int
    art_width_mm: float | None
    art_height_mm: float | None
    note: str
    blank_lot: str = ""


@dataclass(frozen=True)
class RefusedLine:
    """A row that cannot be taken, and why."""

    line: int
    why: str


def read_table(raw: bytes) -> OrderTable:
    """The table in a CSV file. Raises InputError for what is none, or is too large."""
    if not raw.strip():
        raise InputError.single(None, "The file is empty.", "empty")
    text = decode(raw)
    lines = text.splitlines()
    first = next((line for line in lines if line.strip()), "")
    separator = max((";", "\t", ","), key=first.count)
    header: tuple[str, ...] = ()
    rows: list[tuple[int, tuple[str, ...]]] = []
    reader = csv.reader(io.StringIO(text), delimiter=separator)
    try:
        for cells in reader:
            if not any(cell.strip() for cell in cells):
                continue
            row = tuple(cell.strip()[: LONGEST_CELL + 1] for cell in cells[: MOST_COLUMNS + 1])
            if not header:
                header = row
                continue
            rows.append((reader.line_num, row))
            if len(rows) > MOST_ROWS:
                raise InputError.single(None, f"Over {MOST_ROWS} rows: split the file.")
    except csv.Error as error:
        raise InputError.single(None, f"Line {reader.line_num}: {error}.") from None
    if len(header) > MOST_COLUMNS:
        raise InputError.single(None, f"Over {MOST_COLUMNS} columns: take out what is not needed.")
    if not header or not rows:
        raise InputError.single(None, "The file has no rows under a header.")
    return OrderTable(header, tuple(rows))


def guessed_columns(header: Sequence[str]) -> dict[str, int]:
    """Field → the column that is most likely it, counted from 0; each column is one field's."""
    plain = [re.sub(r"[\s_]+", " ", name.lower()).strip(" .:#") for name in header]
    found: dict[str, int] = {}
    for field, names in COLUMN_NAMES.items():
        for name in (n.replace("_", " ") for n in names):
            places = [n for n, given in enumerate(plain) if given == name]
            places = [n for n in places if n not in found.values()]
            if places:
                found[field] = places[0]
                break
    return found


def read_lines(
    table: OrderTable, columns: Mapping[str, int], today: date
) -> tuple[list[OrderLine], list[RefusedLine]]:
    """Every row by the columns that were matched; a time without a day is of `today`."""
    taken: list[OrderLine] = []
    refused: list[RefusedLine] = []
    for number, cells in table.rows:
        given = {f: cells[n] if n < len(cells) else "" for f, n in columns.items()}
        try:
            taken.append(_line(number, given, today))
        except ValueError as error:
            refused.append(RefusedLine(number, str(error)))
    return taken, refused


def _line(number: int, given: Mapping[str, str], today: date) -> OrderLine:
    for field in NEEDED:
        if not given.get(field):
            raise ValueError(f"{field} is empty")
    long = next((f for f, text in given.items() if len(text) > LONGEST_CELL), None)
    if long:
        raise ValueError(f"{long} is over {LONGEST_CELL} characters")
    if len(given["reference"]) > 40:
        raise ValueError("reference is over 40 characters")
    if len(given.get("blank_lot", "")) > 40:
        raise ValueError("lot of blanks is over 40 characters")
    return OrderLine(
        line=number,
        reference=given["reference"],
        customer=given.get("customer", "")[:120],
        due=_due(given.get("due", ""), today),
        recipe=given["recipe"],
        blank=given["blank"],
        quantity=_count("quantity", given["quantity"], MOST_PIECES),
        per_load=_count("per_load", given.get("per_load") or "1", MOST_PER_LOAD),
        art_width_mm=_length("art width", given.get("art_width_mm", "")),
        art_height_mm=_length("art height", given.get("art_height_mm", "")),
        note=given.get("note", ""),
        blank_lot=given.get("blank_lot", ""),
    )


def _count(name: str, text: str, most: int) -> int:
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = math.nan
    if not (value == int(value) if math.isfinite(value) else False):
        raise ValueError(f"{name} is “{text[:20]}”, not a whole number")
    if not 1 <= value <= most:
        raise ValueError(f"{name} is {value:g}; right is 1 to {most}")
    return int(value)


def _length(name: str, text: str) -> float | None:
    if not text:
        return None
    found = re.fullmatch(r"\s*(\d+(?:[.,]\d+)?)\s*(mm|cm|in|inch|\"|”|)\s*", text.lower())
    if found is None:
        raise ValueError(f"{name} is “{text[:20]}”, not a length like 240 or 9.5 in")
    value = float(found[1].replace(",", ".")) * LENGTH_UNITS_MM[found[2]]
    if not 1 <= value <= LARGEST_MM:
        raise ValueError(f"{name} is {value:g} mm; right is 1 to {LARGEST_MM:g}")
    return value


def _due(text: str, today: date) -> datetime | None:
    """When it is due, without a zone."""
    if not text:
        return None
    found = [m for form in MOMENTS if (m := _read(text, form)) is not None]
    found += [datetime.combine(m.date(), END_OF_WORK) for form in DAYS if (m := _read(text, form))]
    try:
        moment = found[0] if found else datetime.combine(today, time.fromisoformat(text))
    except ValueError:
        raise ValueError(
            f"due is “{text[:20]}”, not a time like 2026-12-01 15:00 or 15:00"
        ) from None
    if not EARLIEST_YEAR <= moment.year <= LATEST_YEAR:
        raise ValueError(f"due is “{text[:20]}”: check the year")
    return moment


def _read(text: str, form: str) -> datetime | None:
    try:
        return datetime.strptime(text, form)  # noqa: DTZ007  (in the room's own zone)
    except ValueError:
        return None
