"""Survey readings as CSV (formats/commands.md, "survey"): one clear error per bad line."""

import csv
import io
import re
from dataclasses import dataclass, field
from math import isfinite

from tempermark.core.constants import TEMPERATURE_RANGE_C
from tempermark.core.errors import InputError, Problem
from tempermark.core.units import celsius_from_fahrenheit

MOST_LINES = 100_000
COLUMNS = "x_mm,y_mm,value_c (or value_f, or at_least_c,below_c)"
BOUNDS = ("at_least_c", "below_c")
_NUMBER = re.compile(r"^[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d+)?$")
_COMMENT_VALUE = re.compile(r"^#\s*(?P<key>[a-z_]+)\s*[:=]\s*(?P<value>.*?)\s*$")
MOST_PROBLEMS = 50


@dataclass(frozen=True)
class CsvReading:
    """One line: place in mm, value in °C, the figure as written, and its line number.

    A line of bounds has `at_least_c`, `below_c` or both; its value is then one of them.
    """

    x_mm: float
    y_mm: float
    value_c: float
    written: str
    line: int
    at_least_c: float | None = None
    below_c: float | None = None

    @property
    def is_bounded(self) -> bool:
        """Whether it only bounds the temperature."""
        return self.at_least_c is not None or self.below_c is not None


@dataclass
class CsvSurvey:
    """The readings in order and what the comment lines said."""

    readings: list[CsvReading]
    comments: dict[str, str] = field(default_factory=dict)


def decode(raw: bytes) -> str:
    """UTF-8 (with or without mark) or UTF-16 with its mark; else InputError."""
    if not raw.strip():
        raise InputError.single(None, f"The file is empty. It needs a header {COLUMNS}.", "empty")
    encoding = "utf-16" if raw[:2] in (b"\xff\xfe", b"\xfe\xff") else "utf-8-sig"
    try:
        text = raw.decode(encoding)
    except UnicodeDecodeError as error:
        line = raw[: error.start].count(b"\n") + 1
        raise InputError.single(
            f"line {line}",
            f"Line {line}: not UTF-8 text. Save the file as CSV in UTF-8 and try again.",
            "encoding",
        ) from None
    if "\x00" in text:
        raise InputError.single(None, "This is no text file. Save it as CSV in UTF-8.", "encoding")
    return text


def parse(
    text: str, width_mm: float, height_mm: float, refuse_duplicates: bool = False
) -> CsvSurvey:
    """Readings on a platen of this size; InputError lists every bad line."""
    lines = _content_lines(text)
    sentence = comments(text)
    if not lines:
        raise InputError.single(
            "readings_csv", f"There are no readings. A header {COLUMNS} is needed.", "empty"
        )
    if len(lines) - 1 > MOST_LINES:
        raise InputError.single(
            "readings_csv", f"Over {MOST_LINES} readings: split the file.", "too_many"
        )
    separator = ";" if ";" in lines[0][1] else ("\t" if "\t" in lines[0][1] else ",")
    header = [cell.strip().lower() for cell in _cells(lines[0], separator)]
    reader = _LineReader(header, separator, width_mm, height_mm, lines[0][0])
    readings = [reader.read(line) for line in lines[1:]]
    if not readings and not reader.problems:
        reader.problems.append(Problem("readings_csv", "The file has a header but no readings."))
    if refuse_duplicates:
        reader.problems += _duplicates([r for r in readings if r])
    if reader.problems:
        raise InputError(reader.problems[:MOST_PROBLEMS])
    return CsvSurvey([reading for reading in readings if reading], sentence)


def _content_lines(text: str) -> list[tuple[int, str]]:
    numbered = enumerate(io.StringIO(text, newline=None), 1)
    return [
        (n, line.rstrip("\n")) for n, line in numbered if line.strip() and line.lstrip()[0] != "#"
    ]


def comments(text: str) -> dict[str, str]:
    """`# key: value` lines, by key."""
    matches = (_COMMENT_VALUE.match(line.strip()) for line in text.splitlines())
    return {m["key"]: m["value"] for m in matches if m}


def _cells(line: tuple[int, str], separator: str) -> list[str]:
    try:
        return next(csv.reader([line[1]], delimiter=separator))
    except csv.Error as error:
        raise InputError.single(f"line {line[0]}", f"Line {line[0]}: {error}.", "bad_csv") from None


class _LineReader:
    """Reads the lines under one header, gathering problems."""

    def __init__(
        self, header: list[str], separator: str, width_mm: float, height_mm: float, header_line: int
    ) -> None:
        self.separator = separator
        self.width_mm, self.height_mm = width_mm, height_mm
        self.problems: list[Problem] = []
        self.fahrenheit = "value_f" in header and "value_c" not in header
        value = "value_f" if self.fahrenheit else "value_c"
        self.bounds = () if value in header else tuple(n for n in BOUNDS if n in header)
        wanted = ("x_mm", "y_mm", *(self.bounds or (value,)))
        missing = [name for name in wanted if name not in header]
        if missing:
            raise InputError.single(
                f"line {header_line}",
                f"Line {header_line}: the header lacks {', '.join(missing)}. Needed: {COLUMNS}.",
                "missing_column",
            )
        self.index = {name: header.index(name) for name in wanted}
        self.value_name = value

    def read(self, line: tuple[int, str]) -> CsvReading | None:
        """The reading on this line, or None with its problems noted."""
        number, _ = line
        cells = [cell.strip() for cell in _cells(line, self.separator)]
        before = len(self.problems)
        x = self._figure(number, cells, "x_mm")
        y = self._figure(number, cells, "y_mm")
        if self.bounds:
            return self._read_bounds(number, cells, x, y)
        value = self._figure(number, cells, self.value_name)
        if x is None or y is None or value is None:
            return None
        value_c = celsius_from_fahrenheit(value) if self.fahrenheit else value
        self._check(number, x, y, value_c, cells)
        if len(self.problems) > before:
            return None
        written = cells[self.index[self.value_name]] + ("f" if self.fahrenheit else "")
        return CsvReading(x, y, value_c, written, number)

    def _read_bounds(
        self, number: int, cells: list[str], x: float | None, y: float | None
    ) -> CsvReading | None:
        """A line of `at_least_c`, `below_c`; an empty cell leaves its side open."""
        before = len(self.problems)
        given = {
            name: self._figure(number, cells, name)
            for name in self.bounds
            if self.index[name] < len(cells) and cells[self.index[name]]
        }
        low, high = given.get("at_least_c"), given.get("below_c")
        if not given:
            self._problem(number, f"neither of {' and '.join(self.bounds)} is given")
        elif low is not None and high is not None and low >= high:
            self._problem(number, f"below_c {high:g} is not above at_least_c {low:g}")
        if x is None or y is None or len(self.problems) > before:
            return None
        for name, value in given.items():
            if value is not None:
                self._check(number, x, y, value, cells, name)
        if len(self.problems) > before:
            return None
        value = next(v for v in (low, high) if v is not None)
        return CsvReading(x, y, value, "", number, low, high)

    def _figure(self, number: int, cells: list[str], name: str) -> float | None:
        index = self.index[name]
        cell = cells[index] if index < len(cells) else ""
        plain = cell.replace(",", ".") if self.separator != "," else cell
        if _NUMBER.match(plain):
            return float(plain)
        shown = f"“{cell[:40]}” is no number" if cell else "is empty"
        hint = "formulas are not read; " if cell[:1] in "=@" and cell else ""
        self._problem(number, f"{name} {shown}; {hint}a figure like 188.4 is needed")
        return None

    def _check(
        self,
        number: int,
        x: float,
        y: float,
        value_c: float,
        cells: list[str],
        value_name: str = "",
    ) -> None:
        low, high = TEMPERATURE_RANGE_C
        value_name = value_name or self.value_name
        if not low <= value_c <= high:
            shown = cells[self.index[value_name]]
            self._problem(
                number,
                f"{value_name} {shown} is {value_c:g} °C; a platen reads {low:g} to {high:g} °C",
            )
        for name, value, limit in (("x_mm", x, self.width_mm), ("y_mm", y, self.height_mm)):
            if not 0 <= value <= limit:
                self._problem(
                    number, f"{name} {value:g} is off the platen; right is 0 to {limit:g}"
                )

    def _problem(self, number: int, message: str) -> None:
        if len(self.problems) < MOST_PROBLEMS:
            self.problems.append(Problem(f"line {number}", f"Line {number}: {message}."))


def _duplicates(readings: list[CsvReading]) -> list[Problem]:
    first: dict[tuple[float, float], int] = {}
    problems = []
    for reading in readings:
        place = (reading.x_mm, reading.y_mm)
        if place in first:
            problems.append(
                Problem(
                    f"line {reading.line}",
                    f"Line {reading.line}: the point {place[0]:g}, {place[1]:g} stands already "
                    f"on line {first[place]}; give each point once.",
                )
            )
        first.setdefault(place, reading.line)
    return problems


def write(readings: list[tuple[float, float, float]], comments: dict[str, str]) -> str:
    """CSV of (x_mm, y_mm, value_c) rows under `# key: value` lines; figures to 0.0001."""
    rows = [f"{x:.10g},{y:.10g},{round(value, 4):.10g}\n" for x, y, value in readings]
    return _commented(comments) + "x_mm,y_mm,value_c\n" + "".join(rows)


def write_bounds(
    places: list[tuple[float, float]], bounds: list[tuple[float, float]], comments: dict[str, str]
) -> str:
    """CSV of (x_mm, y_mm) places with (at least, below) in °C, infinite where open."""
    rows = []
    for (x, y), pair in zip(places, bounds, strict=True):
        cells = [f"{round(v, 4):.10g}" if isfinite(v) else "" for v in pair]
        rows.append(f"{x:.10g},{y:.10g},{','.join(cells)}\n")
    return _commented(comments) + "x_mm,y_mm,at_least_c,below_c\n" + "".join(rows)


def _commented(comments: dict[str, str]) -> str:
    return "".join(f"# {key}: {' '.join(text.split())}\n" for key, text in comments.items())
