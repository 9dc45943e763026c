"""Surveys from open files: understood whole, or refused with every reason."""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Any
from uuid import UUID, uuid5

from django.db import transaction
from django.utils import timezone

from tempermark.core.errors import InputError, Problem
from tempermark.core.metrology.survey import TemperatureSurvey
from tempermark.files import survey as survey_format
from tempermark.files import survey_csv
from tempermark.files.document import Fields, parse_json, read_format
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.kit.forms.moments import read_moment
from tempermark.web.kit.records.audit import record
from tempermark.web.measure.exchange.export import HEADER_NUMBERS
from tempermark.web.measure.models import Instrument, Method, Reading, Station, Survey
from tempermark.web.measure.surveys import actions
from tempermark.web.measure.surveys.grids import MOST_POINTS
from tempermark.web.presses.models import Element

MOST_CORRECTIONS = 100


@dataclass(frozen=True)
class Shown:
    """One figure as typed."""

    typed: str
    value_c: float
    seconds_after_opening: float = 0.0
    at_least_c: float | None = None
    below_c: float | None = None


@dataclass(frozen=True)
class ImportedStation:
    """A station with the figures read there; none where it was never read."""

    label: str
    x_mm: float
    y_mm: float
    shown: tuple[Shown, ...]


@dataclass
class ImportedSurvey:
    """A file understood: header by field of `Survey`, and stations."""

    header: dict[str, Any]
    stations: list[ImportedStation]
    taken_at: datetime | None = None
    taken_by: str | None = None
    finished: bool = True
    comments: dict[str, str] = field(default_factory=dict)


def read_file(raw: bytes, element: Element) -> ImportedSurvey:
    """A JSON or CSV file as a survey of this element; InputError names what is wrong."""
    text = survey_csv.decode(raw)
    if text.lstrip()[:1] == "{":
        return _from_json(parse_json(text), element)
    return _from_csv(text, element)


def _from_csv(text: str, element: Element) -> ImportedSurvey:
    parsed = survey_csv.parse(text, element.width_mm, element.height_mm, refuse_duplicates=True)
    _few_enough(len(parsed.readings))
    stations = [
        ImportedStation(f"P{i}", r.x_mm, r.y_mm, (_csv_shown(r),))
        for i, r in enumerate(parsed.readings, 1)
    ]
    bounded = any(r.is_bounded for r in parsed.readings)
    method = Method.STRIP if bounded else Method.CORRECTED
    header = {"grid": "own", "method": method, **_comment_numbers(parsed.comments)}
    return ImportedSurvey(
        header, stations, taken_at=read_moment(parsed.comments.get("taken_at"), "taken_at")
    )


def _csv_shown(row: survey_csv.CsvReading) -> Shown:
    if not row.is_bounded:
        return Shown(row.written, row.value_c)
    low, high = row.at_least_c, row.below_c
    return Shown(bounds_text(low, high), row.value_c, 0.0, low, high)


def _comment_numbers(comments: dict[str, str]) -> dict[str, float]:
    """`# set_c: 195` and its like; InputError where they are no temperatures."""
    given = {k: comments[k] for k in ("set_c", "target_c", "tolerance_c") if k in comments}
    fields = Fields({name: _float(value) for name, value in given.items()})
    numbers: dict[str, float] = {}
    for name in given:
        low = 0.01 if name == "tolerance_c" else -50
        numbers[name] = fields.number(name, low, 600)
    fields.done()
    return numbers


def _float(text: str) -> float | str:
    try:
        return float(text.replace(",", "."))
    except ValueError:
        return text


def _few_enough(count: int) -> None:
    if count > MOST_POINTS:
        raise InputError.single(
            None, f"{count} points: a survey here holds at most {MOST_POINTS}. Thin the file."
        )


def _from_json(data: object, element: Element) -> ImportedSurvey:
    fields = read_format(data, survey_format.FORMAT)
    if fields.choice("quantity", ("temperature", "pull"), default="temperature") == "pull":
        raise InputError.single(
            "quantity", "This file holds strip pulls: import it where strips are pulled."
        )
    checked = survey_format.temperature_from_fields(fields)
    _same_platen(checked, element)
    _few_enough(len(checked.value_c))
    head = fields.object("survey", None)
    header = {
        "set_c": checked.set_c,
        "target_c": checked.target_c,
        "tolerance_c": checked.tolerance_c,
        "repeatability_c": checked.repeatability_c,
        "grid": "own",
        "method": Method.CORRECTED if checked.seen_c is None else Method.STRIP,
    }
    if head is not None:
        header |= _header(head)
    stations = _json_stations(fields, checked, head)
    fields.done()
    return ImportedSurvey(
        header,
        stations,
        taken_at=read_moment(head.text("taken_at", None), "survey.taken_at") if head else None,
        taken_by=head.text("taken_by", None) if head else None,
        finished=head.flag("finished", True) if head else True,
    )


def _same_platen(checked: TemperatureSurvey, element: Element) -> None:
    if (
        max(abs(checked.width_mm - element.width_mm), abs(checked.height_mm - element.height_mm))
        > 1
    ):
        raise InputError.single(
            "platen",
            f"The file's platen is {checked.width_mm:g} × {checked.height_mm:g} mm, this one is "
            f"{element.width_mm:g} × {element.height_mm:g} mm. Choose the press it was taken on.",
        )


def _header(head: Fields) -> dict[str, Any]:
    header = {"method": head.choice("method", Method.values, Method.CORRECTED)}
    header["grid"] = head.text("grid", "own", limit=8)
    header["note"] = head.text("note", "", limit=400)
    for name, low, high in HEADER_NUMBERS:
        if head.has(name):
            header[name] = head.number(name, low, high)
    header["instrument"] = Instrument.objects.filter(name=head.text("instrument", "")).first()
    header["instrument_overdue_days"] = int(head.number("instrument_overdue_days", 0, 10_000, 0))
    header["corrections"] = [
        [row.temperature("shown_c"), row.number("correction_c", -100, 100)]
        for row in head.objects("corrections", 0, MOST_CORRECTIONS, default=[])
    ]
    header["common_covariance"] = _covariance(head)
    return header


def _covariance(head: Fields) -> list[Any]:
    """The 2 × 2 covariance of a comparison, if the file carries one."""
    rows = head.items("common_covariance", 0, 2, default=[])
    flat = [v for row in rows if isinstance(row, list) for v in row]
    numbers = [v for v in flat if isinstance(v, (int, float)) and not isinstance(v, bool)]
    if rows and (len(flat) != 4 or len(numbers) != 4 or not _is_covariance(rows)):
        head.problem("common_covariance", "is no covariance of two; leave it out")
        return []
    return rows


def _is_covariance(rows: list[Any]) -> bool:
    (a, b), (c, d) = rows
    return bool(b == c and a >= 0 and d >= 0 and a * d >= b * c)


def _json_stations(
    fields: Fields, checked: TemperatureSurvey, head: Fields | None
) -> list[ImportedStation]:
    """Stations in walking order: those read, and those of the header never read."""
    rows = fields.objects("readings", 0, MOST_POINTS, default=[])
    found = []
    for index, (place, value) in enumerate(zip(checked.place_mm, checked.value_c, strict=True)):
        row = rows[index] if rows else Fields({})
        shown = _shown(row) if head is not None and row.has("shown") else ()
        plain = _bounded(row) or Shown(f"{value:.10g}", float(value))
        label = row.text("station", None, limit=8) or f"P{index + 1}"
        order = row.number("order", 0, MOST_POINTS * 2, index)
        found.append(
            (order, ImportedStation(label, float(place[0]), float(place[1]), shown or (plain,)))
        )
    for row in head.objects("unread", 0, MOST_POINTS, default=[]) if head else []:
        place = (row.number("x_mm", 0, checked.width_mm), row.number("y_mm", 0, checked.height_mm))
        order = row.number("order", 0, MOST_POINTS * 2, len(found))
        found.append((order, ImportedStation(row.text("station", "P", limit=8), *place, ())))
    _no_duplicates([station for _, station in found], fields)
    return [station for _, station in sorted(found, key=lambda pair: pair[0] or 0)]


def _bounded(row: Fields) -> Shown | None:
    """A reading of a file that only bounds the temperature."""
    if not (row.has("at_least_c") or row.has("below_c")):
        return None
    low, high = row.temperature("at_least_c", None), row.temperature("below_c", None)
    return Shown(bounds_text(low, high), high if low is None else low, 0.0, low, high)


def bounds_text(low_c: float | None, high_c: float | None) -> str:
    """As it could have been typed."""
    if low_c is None:
        return f"<{high_c:g} c"
    return f">={low_c:g} c" if high_c is None else f"{low_c:g}-{high_c:g} c"


def _shown(row: Fields) -> tuple[Shown, ...]:
    return tuple(
        Shown(
            entry.text("typed", "", limit=40) or "",
            entry.temperature("value_c"),
            entry.number("seconds_after_opening", 0, 3600, 0.0) or 0.0,
            entry.temperature("at_least_c", None),
            entry.temperature("below_c", None),
        )
        for entry in row.objects("shown", 1, 1000)
    )


def _no_duplicates(stations: list[ImportedStation], fields: Fields) -> None:
    seen: set[tuple[float, float]] = set()
    for index, station in enumerate(stations):
        if (station.x_mm, station.y_mm) in seen:
            fields.problem(f"readings[{index}]", "is at a point given before; give each point once")
        seen.add((station.x_mm, station.y_mm))


def import_survey(user: User, element: Element, imported: ImportedSurvey, form_key: UUID) -> Survey:
    """Save an imported survey whole or not at all; the same form twice makes one."""
    must_work(user)
    missing = [n for n in ("set_c", "target_c", "tolerance_c") if imported.header.get(n) is None]
    if missing:
        names = {"set_c": "the setting", "target_c": "the target", "tolerance_c": "the tolerance"}
        raise InputError(
            [Problem(n, f"The file does not give {names[n]}: type it here.") for n in missing]
        )
    keys = _keys(form_key, imported)
    known = Reading.objects.filter(entry_key__in=keys[:1]).select_related("station__survey").first()
    if known:
        return known.station.survey
    return _save(user, element, imported, keys)


def _keys(form_key: UUID, imported: ImportedSurvey) -> list[UUID]:
    count = sum(len(s.shown) for s in imported.stations)
    return [uuid5(form_key, f"import:{index}") for index in range(count)]


@transaction.atomic
def _save(user: User, element: Element, imported: ImportedSurvey, keys: list[Any]) -> Survey:
    author = User.objects.filter(username=imported.taken_by or "").first() or user
    survey = Survey.objects.create(
        element=element,
        taken_by=author,
        taken_at=imported.taken_at or timezone.now(),
        finished_at=timezone.now() if imported.finished else None,
        **imported.header,
    )
    stations = Station.objects.bulk_create(
        Station(survey=survey, label=s.label, order=i, x_mm=s.x_mm, y_mm=s.y_mm)
        for i, s in enumerate(imported.stations)
    )
    pairs = [
        (station, shown)
        for station, source in zip(stations, imported.stations, strict=True)
        for shown in source.shown
    ]
    Reading.objects.bulk_create(
        Reading(
            station=station,
            entry_key=key,
            typed=shown.typed[:40],
            shown_c=shown.value_c,
            seconds_after_opening=shown.seconds_after_opening,
            at_least_c=shown.at_least_c,
            below_c=shown.below_c,
            read_by=user,
        )
        for key, (station, shown) in zip(keys, pairs, strict=True)
    )
    actions.refresh_summary(survey)
    record(user, "imported survey", survey, readings=len(pairs))
    return survey
