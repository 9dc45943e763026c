"""Steps and schools of one page as formsets, moved, added and taken out."""

import re
from collections.abc import Sequence
from typing import Any

from django import forms
from django.http import QueryDict

from tempermark.core.recipes.steps import RecipeStep, School
from tempermark.web.kit.forms.numbers import row_key, whole
from tempermark.web.recipes.cards.forms import MOST_SCHOOLS, MOST_STEPS, SchoolForm, StepForm


def part_initial(part: RecipeStep | School) -> dict[str, Any]:
    """A step or school as its form begins."""
    values = dict(vars(part))
    if isinstance(part, School) and part.equal_dose:
        # Computed again when it is kept, unless someone types one.
        values["time_s"] = None
    for name, (low, high) in {
        "temperature_c": ("low_c", "high_c"),
        "time_s": ("low_s", "high_s"),
        "lower_c": ("lower_low_c", "lower_high_c"),
        "polyester": ("polyester_from", "polyester_to"),
    }.items():
        values[low], values[high] = values.pop(name, None) or (None, None)
    return values


class PartFormSet(forms.BaseFormSet):  # type: ignore[type-arg]  # no generic at run time
    """All steps or all schools of one page: `prefix-0`, `prefix-1`, …"""

    @property
    def filled(self) -> list[Any]:
        """Forms that hold something: one that was added and left empty counts for nothing."""
        return [form for form in self.forms if form.has_changed()]


StepFormSet = forms.formset_factory(
    StepForm, PartFormSet, extra=0, max_num=MOST_STEPS, absolute_max=MOST_STEPS
)


SchoolFormSet = forms.formset_factory(
    SchoolForm, PartFormSet, extra=0, max_num=MOST_SCHOOLS, absolute_max=MOST_SCHOOLS
)


def parts_initial(parts: Sequence[RecipeStep | School]) -> list[dict[str, Any]]:
    """Steps or schools as their forms begin."""
    return [part_initial(part) for part in parts]


def rearranged(data: QueryDict, prefix: str, most: int) -> QueryDict:
    """What was sent, after the button that was pressed: `step-up-2`, `step-out-0`, `step-add`.

    None of the forms counts as there before: which of them hold something is seen by what was sent.
    """
    count = min(row_key(data.get(f"{prefix}-TOTAL_FORMS", "0")), most)
    order: list[int | None] = list(range(count))
    doing = data.get("op", "").split("-")
    if doing[0] == prefix and len(doing) > 1:
        order = _moved(order, doing[1], whole(doing[2]) if len(doing) > 2 else None)
    copy = _renumbered(data, prefix, order[:most])
    copy[f"{prefix}-INITIAL_FORMS"] = "0"
    return copy


def _moved(order: list[int | None], act: str, at: int | None) -> list[int | None]:
    """Numbers of the forms in their new order; None for a new one."""
    if act == "add":
        return [*order, None]
    if at is None or not 0 <= at < len(order):
        return order
    moved = order.pop(at)
    if act == "up":
        order.insert(max(at - 1, 0), moved)
    elif act == "down":
        order.insert(at + 1, moved)
    return order


def _renumbered(data: QueryDict, prefix: str, order: list[int | None]) -> QueryDict:
    """What was sent for the forms, under the numbers they have now."""
    copy, numbered = data.copy(), re.compile(rf"{prefix}-(\d+)-(.+)")
    for key in [key for key in copy if numbered.fullmatch(key)]:
        del copy[key]
    for key in data:
        found = numbered.fullmatch(key)
        if found and int(found.group(1)) in order:
            now = order.index(int(found.group(1)))
            copy.setlist(f"{prefix}-{now}-{found.group(2)}", data.getlist(key))
    copy[f"{prefix}-TOTAL_FORMS"] = str(len(order))
    return copy
