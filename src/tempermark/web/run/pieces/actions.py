"""Changes to test presses."""

from dataclasses import asdict, dataclass, field, fields
from datetime import datetime
from typing import Any
from uuid import UUID, uuid5

from django.db import transaction
from django.utils import timezone

from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.kit.drawing.places import where_code
from tempermark.web.kit.records.audit import record
from tempermark.web.kit.records.prepared import Prepared
from tempermark.web.presses.models import Element
from tempermark.web.run.models import LOT_FIELDS, EntryKind, Mark, MarkShape, TestPress
from tempermark.web.run.record.log import append, labelled, newest

LOGGED_BEFORE = Prepared(lambda key: TestPress.every.filter(entry_key=key), key=UUID)
LOGGED_FIELDS = (
    "recipe",
    "blank",
    "step_number",
    "set_c",
    "dwell_s",
    "closures",
    "pressure",
    "peel",
    "art_width_mm",
    "art_height_mm",
    "art_x_mm",
    "art_y_mm",
    "stack",
    "facts",
    "room_c",
    "note",
)
# What only run mode knows of a press.
RUN_FIELDS = ("open_s", "placing", "knob")


@dataclass(frozen=True)
class Scored:
    """How a piece came out: outcome and, of a faulty one, its grade; scores from 1 to 5, of the
    whole and by part of the art; the measured density of its black, 1 the proof's.
    """

    outcome: str
    grade: str = ""
    scores: dict[str, int] = field(default_factory=dict)
    zone_scores: dict[str, dict[str, int]] = field(default_factory=dict)
    density: float | None = None


SCORED_FIELDS = tuple(part.name for part in fields(Scored))


@transaction.atomic(savepoint=False)
def log_test_press(
    user: User,
    element: Element,
    data: dict[str, Any],
    form_key: UUID,
    pressed_at: datetime | None = None,
) -> TestPress:
    """A new test press; the same form sent twice is one piece."""
    must_work(user)
    if (sent_before := LOGGED_BEFORE.first(key=form_key)) is not None:
        return sent_before
    now = timezone.now()
    piece = TestPress.every.create(
        entry_key=form_key,
        **piece_values(data),
        element=element,
        piece=data.get("piece") or labelled(form_key),
        run=data.get("run"),
        **{name: data[name] for name in RUN_FIELDS if name in data},
        pressed_by=user,
        job=data.get("job"),
        logged_at=pressed_at or now,
        pressed_at=pressed_at or data.get("pressed_at") or now,
    )
    detail = {"set_c": piece.set_c, "dwell_s": piece.dwell_s, "pressure": piece.pressure}
    append(user, EntryKind.LOGGED, detail, test_press=piece, at=piece.pressed_at, key=form_key)
    record(user, "logged test press", piece)
    return piece


def piece_values(data: dict[str, Any]) -> dict[str, Any]:
    """What was set and done, by field of a piece, of what the form holds."""
    humidity = data.get("relative_humidity")
    return {
        **{name: data.get(name) for name in LOGGED_FIELDS},
        "peel": data.get("peel") or "",
        **{name: (data.get(name) or "").strip() for name in LOT_FIELDS.values()},
        "relative_humidity": None if humidity is None else humidity / 100,
    }


@transaction.atomic(savepoint=False)
def mark(user: User, piece: TestPress, data: dict[str, Any], form_key: UUID) -> Mark:
    """A mark on the piece; without a place in words it gets the one it was tapped at."""
    must_work(user)
    values = mark_values(piece, data)
    x, y = values["x_mm"], values["y_mm"]
    half_x, half_y = values["half_x_mm"], values["half_y_mm"]
    content = f"{values['symptom']}:{values['where']}:{values['when']}:{x}:{y}"
    if half_x or half_y:
        content += f":{half_x}:{half_y}"
    found, fresh = Mark.every.get_or_create(
        entry_key=uuid5(form_key, content),
        defaults={"test_press": piece, "marked_by": user, **values},
    )
    if fresh:
        record(user, "marked", piece, symptom=found.symptom, where=found.where)
    return found


def mark_values(piece: TestPress, data: dict[str, Any]) -> dict[str, Any]:
    """What is seen and where, by field of a mark, of what the form holds."""
    x, y, half_x, half_y = _extent(data)
    placed = x is not None and y is not None
    return {
        "symptom": data["symptom"],
        "where": data.get("where")
        or where_code(
            (x - piece.art_x_mm) / piece.art_width_mm, (y - piece.art_y_mm) / piece.art_height_mm
        ),
        "when": data["when"],
        "severity": data["severity"],
        "x_mm": x if placed else None,
        "y_mm": y if placed else None,
        "shape": data.get("shape") or MarkShape.POINT,
        "half_x_mm": half_x,
        "half_y_mm": half_y,
    }


def _extent(data: dict[str, Any]) -> tuple[float | None, float | None, float, float]:
    """Middle of a mark and how far it reaches to each side; a point reaches nowhere."""
    x, y = data.get("x_mm"), data.get("y_mm")
    x2, y2 = data.get("x2_mm"), data.get("y2_mm")
    is_point = data.get("shape") not in (MarkShape.LINE, MarkShape.AREA)
    if is_point or None in (x, y, x2, y2):
        return x, y, 0.0, 0.0
    return (x + x2) / 2, (y + y2) / 2, (x2 - x) / 2, (y2 - y) / 2


@transaction.atomic(savepoint=False)
def score(user: User, piece: TestPress, found: Scored, at: datetime | None = None) -> TestPress:
    """Note how the piece came out; the log keeps what was said of it before."""
    must_work(user)
    was = {name: getattr(piece, name) for name in SCORED_FIELDS}
    now = asdict(found)
    for name, value in now.items():
        setattr(piece, name, value)
    piece.save(update_fields=list(SCORED_FIELDS))
    old = newest(piece, EntryKind.OUTCOME)
    append(user, EntryKind.OUTCOME, now, test_press=piece, corrects=old, at=at)
    record(user, "scored test press", piece, **now, before=was)
    return piece
