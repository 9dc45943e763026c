"""tempermark.run-entries/1: what a bench has queued, in the order in which it was done."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any
from uuid import UUID

from tempermark.core.constants import TEMPERATURE_RANGE_C
from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.errors import InputError
from tempermark.core.vocabulary.sightings import PLACES
from tempermark.files.document import Fields, read_format

FORMAT = "tempermark.run-entries/1"
MOST_ENTRIES = 500
MOST_PIECES = 100_000
MOST_IN_LOAD = 12
MOST_STEPS = 100
LONGEST_NOTE = 1000
# Seconds since 1970: 2001 to 2100.
TIME_RANGE_S = (1.0e9, 4.1e9)
OUTCOMES = ("open", "good", "second", "spoiled", "faulty")


@dataclass(frozen=True)
class RunEntry:
    """One act: its key, kind and time (s since 1970 by the bench's clock), and what it says."""

    key: UUID
    kind: str
    at_s: float
    detail: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Rejected:
    """An entry that cannot be read: its key as sent, and why."""

    key: str
    why: str


@dataclass(frozen=True)
class RunEntries:
    """What was sent at once: the bench's clock as it sent, s since 1970, and the entries."""

    sent_at_s: float
    entries: tuple[RunEntry | Rejected, ...]


def read_entries(data: object) -> RunEntries:
    """The document. Raises InputError where it is none; a single entry that cannot be read is
    `Rejected` and holds up no other.
    """
    fields = read_format(data, FORMAT)
    sent = fields.number("sent_at_s", *TIME_RANGE_S, unit=" s since 1970")
    rows = fields.items("entries", 1, MOST_ENTRIES)
    fields.done()
    return RunEntries(sent, tuple(_entry(row) for row in rows))


def _entry(row: object) -> RunEntry | Rejected:
    key = row.get("key") if isinstance(row, dict) else None
    try:
        return _read(Fields(row))
    except InputError as error:
        return Rejected(str(key)[:60], str(error))


def _read(fields: Fields) -> RunEntry:
    fields.done()
    key = _uuid(fields, "key")
    kind = fields.choice("kind", tuple(KINDS))
    at_s = fields.number("at_s", *TIME_RANGE_S, unit=" s since 1970")
    detail = KINDS[kind](fields) if kind else {}
    corrects = _uuid(fields, "corrects") if fields.has("corrects") else None
    fields.done()
    given = {name: value for name, value in detail.items() if value not in (None, "")}
    if corrects:
        given["corrects"] = str(corrects)
    return RunEntry(key, kind, at_s, given)


def _uuid(fields: Fields, name: str) -> Any:
    text = fields.text(name, limit=60)
    if text is None:
        return None
    try:
        return UUID(text)
    except ValueError:
        fields.problem(name, f"is “{text}”; a UUID is needed")
        return None


def _whole(fields: Fields, name: str, low: int, high: int, default: Any = None) -> Any:
    value = fields.number(name, low, high, default=default)
    if value is not None and value != int(value):
        fields.problem(name, f"is {value:g}; a whole number is needed")
        return None
    return None if value is None else int(value)


def _pieces(fields: Fields) -> list[int]:
    rows = fields.items("pieces", 1, MOST_IN_LOAD)
    inner = Fields({f"pieces[{i}]": v for i, v in enumerate(rows)}, fields.path, fields.problems)
    found = [_whole(inner, f"pieces[{i}]", 1, MOST_PIECES) for i in range(len(rows))]
    return sorted({number for number in found if number is not None})


def _position(fields: Fields) -> dict[str, Any]:
    return {
        "load": _whole(fields, "load", 1, MOST_PIECES, 1),
        "placing": _whole(fields, "placing", 0, MOST_IN_LOAD, 0),
        "step": _whole(fields, "step", 0, MOST_STEPS, 0),
    }


def _setting(fields: Fields) -> dict[str, Any]:
    return {
        **_position(fields),
        "set_c": fields.number("set_c", *TEMPERATURE_RANGE_C, default=None, unit=" °C"),
    }


def _closed(fields: Fields) -> dict[str, Any]:
    return {
        **_position(fields),
        "press": str(_uuid(fields, "press")),
        "pieces": _pieces(fields),
        "set_c": fields.number("set_c", *TEMPERATURE_RANGE_C, unit=" °C"),
    }


def _opened(fields: Fields) -> dict[str, Any]:
    return {
        **_position(fields),
        "press": str(_uuid(fields, "press")),
        "is_last": fields.flag("is_last", default=True),
    }


def _outcome(fields: Fields) -> dict[str, Any]:
    return {
        "pieces": _pieces(fields),
        "outcome": fields.choice("outcome", OUTCOMES),
        **_sighting(fields, None),
    }


def _sighting(fields: Fields, default: Any) -> dict[str, Any]:
    symptoms = tuple(shipped().symptoms)
    return {
        "symptom": fields.choice("symptom", symptoms, default=default),
        "where": fields.choice("where", PLACES, default=None),
        "x": fields.number("x", -1, 2, default=None),
        "y": fields.number("y", -1, 2, default=None),
    }


def _mark(fields: Fields) -> dict[str, Any]:
    return {
        "pieces": _pieces(fields),
        "symptom": fields.choice("symptom", tuple(shipped().symptoms)),
        **{k: v for k, v in _sighting(fields, None).items() if k != "symptom"},
    }


def _note(fields: Fields) -> dict[str, Any]:
    text = fields.text("text", limit=LONGEST_NOTE)
    if text is not None and not text.strip():
        fields.problem("text", "is empty")
    pieces = _pieces(fields) if fields.has("pieces") else None
    return {"text": text, "pieces": pieces}


def _nothing(fields: Fields) -> dict[str, Any]:
    return {}


# Kind of entry → what it brings.
KINDS: dict[str, Callable[[Fields], dict[str, Any]]] = {
    "set": _setting,
    "ready": _setting,
    "closed": _closed,
    "opened": _opened,
    "done": _position,
    "went_to": _position,
    "outcome": _outcome,
    "mark": _mark,
    "note": _note,
    "ended": _nothing,
}
