"""tempermark.recipe/1: a recipe with its steps and schools, to take from one shop to another."""

from collections.abc import Collection
from typing import Any

from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.recipes.blank_types import blank_types
from tempermark.core.recipes.layers import MOST_LAYERS, SLEEVE, code_of
from tempermark.core.recipes.steps import KINDS, MAIN, RecipeStep, School, Sheet, to_dict
from tempermark.core.vocabulary.methods import METHODS
from tempermark.core.vocabulary.settings import PEELS, PRESSURE_CLASSES
from tempermark.core.vocabulary.things import BLANK_KINDS
from tempermark.files.document import Fields, read_format

FORMAT = "tempermark.recipe/1"
MOST_STEPS, MOST_SCHOOLS, MOST_LINES = 30, 4, 12
WINDOW_C, LONGEST_S = (40.0, 260.0), 14 * 86_400.0


def to_document(sheet: Sheet) -> dict[str, Any]:
    """The recipe as a document."""
    return {
        "format": FORMAT,
        "name": sheet.name,
        "method": sheet.method,
        "blank_kind": sheet.blank_kind,
        "blank": sheet.blank,
        "note": sheet.note,
        "cautions": list(sheet.cautions),
        "normal": list(sheet.normal),
        "faults": list(sheet.faults),
        "steps": [_plain(to_dict(step)) for step in sheet.steps],
        "schools": [_plain(to_dict(school)) for school in sheet.schools],
    }


def _plain(row: dict[str, Any]) -> dict[str, Any]:
    return {key: list(value) if isinstance(value, tuple) else value for key, value in row.items()}


def read_recipe(data: object, materials: Collection[str]) -> Sheet:
    """The recipe of a document, its layers of `materials`; InputError with all problems' paths."""
    fields = read_format(data, FORMAT)
    steps = [_step(row, materials) for row in fields.objects("steps", 1, MOST_STEPS)]
    schools = fields.objects("schools", 0, MOST_SCHOOLS, default=[])
    sheet = Sheet(
        fields.text("name", limit=80) or "",
        fields.choice("method", METHODS) or "",
        fields.choice("blank_kind", BLANK_KINDS) or "",
        tuple(steps),
        tuple(_school(row, materials) for row in schools),
        _lines(fields, "cautions"),
        _lines(fields, "normal"),
        tuple(fields.codes("faults", tuple(shipped().symptoms))),
        fields.text("note", default="", limit=300),
        blank=fields.choice("blank", ("", *blank_types()), default="") or "",
    )
    if not sheet.name.strip():
        fields.problem("name", "is empty")
    if all(step.kind != MAIN for step in steps):
        fields.problem("steps", f"hold no step of the kind {MAIN}")
    fields.done()
    return sheet


def _step(row: Fields, materials: Collection[str]) -> RecipeStep:
    kind = row.choice("kind", tuple(KINDS)) or "prepare"
    step = RecipeStep(
        kind=kind,
        do=row.text("do", limit=300) or "",
        gap_mm=row.number("gap_mm", 1, 100, default=None, unit=" mm"),
        lower_c=row.window("lower_c", *WINDOW_C, " °C", default=None),
        look_for=row.text("look_for", default="", limit=200),
        cautions=_lines(row, "cautions"),
        **_shared(row, materials),
    )
    needed = ("temperature_c", "time_s") if KINDS[kind][1] else ()
    for key in (*needed, "pressure", "stack") if kind == MAIN else needed:
        if not row.has(key):
            row.problem(key, f"is missing: a step of the kind {kind} needs it", "missing_key")
    return step


def _school(row: Fields, materials: Collection[str]) -> School:
    return School(
        name=row.text("name", limit=60) or "",
        costs=row.text("costs", limit=200) or "",
        risks=row.text("risks", limit=200) or "",
        equal_dose=row.flag("equal_dose", default=False),
        upper_only=row.flag("upper_only", default=False),
        polyester=row.window("polyester", 0, 1, default=None),
        **_shared(row, materials),
    )


def _shared(row: Fields, materials: Collection[str]) -> dict[str, Any]:
    return {
        "temperature_c": row.window("temperature_c", *WINDOW_C, " °C", default=None),
        "time_s": row.window("time_s", 0.5, LONGEST_S, " s", default=None),
        "pressure": row.choice("pressure", PRESSURE_CLASSES, default=""),
        "peel": row.choice("peel", PEELS, default=""),
        "stack": _stack(row, materials),
    }


def _stack(row: Fields, materials: Collection[str]) -> tuple[str, ...]:
    entries = _texts(row, "stack", MOST_LAYERS, 60)
    for index, entry in enumerate(entries):
        if code_of(entry) not in materials and code_of(entry) != SLEEVE:
            row.problem(f"stack[{index}]", f"is “{entry}”, no material of the library")
    return entries


def _lines(row: Fields, key: str) -> tuple[str, ...]:
    return _texts(row, key, MOST_LINES, 200)


def _texts(row: Fields, key: str, most: int, limit: int) -> tuple[str, ...]:
    values = row.items(key, 0, most, default=[])
    inner = Fields({f"{key}[{i}]": v for i, v in enumerate(values)}, row.path, row.problems)
    return tuple(inner.text(name, limit=limit) or "" for name in inner.data)
