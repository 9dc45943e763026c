"""What differs between two versions of a recipe, field by field."""

from dataclasses import dataclass, fields
from itertools import zip_longest
from typing import Any

from tempermark.core.recipes.steps import RecipeStep, School, Sheet

# Whole parts of a sheet, compared on their own below.
PARTS = ("steps", "schools")


@dataclass(frozen=True)
class Difference:
    """A field that differs: `where` is a step, a school or empty for the recipe itself."""

    where: str
    name: str
    before: object
    after: object


def differences(before: Sheet, after: Sheet) -> list[Difference]:
    """Every field that differs, in the order of the recipe; a step that one of them does not have
    is one difference of the name `step`. Steps are compared in their order, schools by name.
    """
    found = _fields("", before, after)
    for number, (old, new) in enumerate(zip_longest(before.steps, after.steps), 1):
        found += _part(f"step {number}, {(new or old).name}", "step", old, new)
    names = dict.fromkeys(school.name for school in (*before.schools, *after.schools))
    for name in names:
        old, new = _school(before, name), _school(after, name)
        found += _part(name, "school", old, new)
    return found


def _school(sheet: Sheet, name: str) -> School | None:
    return next((school for school in sheet.schools if school.name == name), None)


def _part(where: str, name: str, old: Any, new: Any) -> list[Difference]:
    if old is None or new is None:
        return [Difference(where, name, old, new)]
    return _fields(where, old, new)


def _fields(where: str, old: Sheet | RecipeStep | School, new: Any) -> list[Difference]:
    return [
        Difference(where, f.name, getattr(old, f.name), getattr(new, f.name))
        for f in fields(old)
        if f.name not in PARTS and getattr(old, f.name) != getattr(new, f.name)
    ]
