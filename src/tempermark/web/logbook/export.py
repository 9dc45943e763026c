"""The logbook as CSV and JSON: the same rows, one press a row."""

import csv
import json
from collections.abc import Iterator
from typing import Any

from django.db.models import QuerySet

from tempermark.web.kit.forms.tables import Echo, guarded
from tempermark.web.run.models import LOT_FIELDS, SCORES, TestPress

FORMAT = "tempermark.logbook/1"
MOST_EXPORTED = 200_000
CHUNK = 2000
COLUMNS = (
    "piece",
    "pressed_at",
    "press",
    "element",
    "recipe",
    "recipe_version",
    "step",
    "blank",
    "placing",
    "set_c",
    "dwell_s",
    "closings",
    "open_s",
    "pressure",
    "pressure_as_set",
    "peel",
    "art_x_mm",
    "art_y_mm",
    "art_width_mm",
    "art_height_mm",
    "relative_humidity",
    *LOT_FIELDS.values(),
    "outcome",
    "grade",
    *(f"score_{code}" for code, _ in SCORES),
    "density",
    "symptoms",
    "operator",
    "note",
)


def row_of(press: TestPress) -> dict[str, Any]:
    """One press by column."""
    found: dict[str, Any] = {
        "piece": press.piece.code,
        "pressed_at": press.pressed_at.isoformat(timespec="seconds"),
        "press": press.element.press.name,
        "element": press.element.name,
        "recipe": press.recipe.recipe.name,
        "recipe_version": press.recipe.number,
        "step": "main" if press.step_number is None else press.step_number + 1,
        "blank": press.blank.name,
        "closings": press.closures,
        "pressure_as_set": press.knob,
        "symptoms": " ".join(mark.symptom for mark in press.marks.all()),
        "operator": press.pressed_by.username,
    }
    found |= {f"score_{code}": press.scores.get(code) for code, _ in SCORES}
    return {name: found[name] if name in found else getattr(press, name) for name in COLUMNS}


def as_csv(rows: QuerySet[TestPress]) -> Iterator[str]:
    """The file in parts; text that a spreadsheet would run is marked with an apostrophe."""
    writer = csv.writer(Echo(), lineterminator="\n")
    yield writer.writerow(COLUMNS)
    for press in rows[:MOST_EXPORTED].iterator(chunk_size=CHUNK):
        yield writer.writerow([guarded(value) for value in row_of(press).values()])


def as_json(rows: QuerySet[TestPress]) -> Iterator[str]:
    """The document in parts."""
    yield f'{{"format": "{FORMAT}", "presses": ['
    before = "\n"
    for press in rows[:MOST_EXPORTED].iterator(chunk_size=CHUNK):
        kept = {k: v for k, v in row_of(press).items() if v not in (None, "")}
        yield before + json.dumps(kept, ensure_ascii=False)
        before = ",\n"
    yield "\n]}\n"
