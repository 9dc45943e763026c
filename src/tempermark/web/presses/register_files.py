"""The register as a table: one row for each element, its press's properties beside it."""

from typing import Any

from django.db import transaction
from django.utils import timezone

from tempermark.core.errors import InputError, Problem
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_lead
from tempermark.web.kit.forms import tables
from tempermark.web.kit.units import METRIC
from tempermark.web.presses import register
from tempermark.web.presses.forms import ElementForm, PressForm
from tempermark.web.presses.models import Element, Press

FORMAT, KEY = "tempermark.register/1", "presses"
PRESS = tuple(PressForm.base_fields)
ELEMENT = tuple(ElementForm.base_fields)
PREFIX = "element_"
COLUMNS = (*PRESS, *(f"{PREFIX}{name}" for name in ELEMENT), f"{PREFIX}in_store")


def rows() -> list[dict[str, Any]]:
    """Every press with each of its elements; an empty press has one row."""
    found = []
    for press in Press.objects.prefetch_related("elements"):
        own = {name: getattr(press, name) for name in PRESS}
        elements = list(press.elements.all()) or [None]
        found += [own | _element_cells(element) for element in elements]
    return found


def _element_cells(element: Element | None) -> dict[str, Any]:
    if element is None:
        return {}
    cells = {f"{PREFIX}{name}": getattr(element, name) for name in ELEMENT}
    return cells | {f"{PREFIX}in_store": element.taken_out_on is not None}


@transaction.atomic
def take_in(user: User, raw: bytes) -> str:
    """Add and change presses from a file, whole or not at all; what was done, in words.

    A press of a known name is changed; its elements must be those it has: exchanging one is an
    event and is done on its page.
    """
    must_lead(user)
    given = tables.read_rows(raw, FORMAT, KEY, COLUMNS)
    presses = tables.checked(given, PressForm, PRESS)
    elements = [_element(row) for row in given]
    problems = [p for p in elements if isinstance(p, Problem)]
    if problems:
        raise InputError(problems)
    added, changed = set(), set()
    for row, press, element in zip(given, presses, elements, strict=True):
        try:
            known = Press.objects.filter(name__iexact=press["name"]).first()
            if known is None:
                known = Press.objects.create(slug=register.free_slug(press["name"]), **press)
                added.add(known.pk)
            elif known.pk not in added:
                register.change_press(user, known, press)
                changed.add(known.pk)
            _fit(known, element, known.pk in added)
        except InputError as error:
            raise InputError.single(row.where, f"{row.where}: {error}") from None
    register.record_import(user, len(added), len(changed))
    return f"{len(added)} presses added, {len(changed)} known ones updated."


def _element(row: tables.TableRow) -> dict[str, Any] | Problem | None:
    """An element's clean values; None where the row has none."""
    cells = {name: row.cells.get(f"{PREFIX}{name}", "") for name in ELEMENT}
    if not any(cells.values()):
        return None
    form = ElementForm(cells, units=METRIC)
    if not form.is_valid():
        name, errors = next(iter(form.errors.items()))
        return Problem(row.where, f"{row.where}, {PREFIX}{name}: {errors[0]}")
    stored = row.cells.get(f"{PREFIX}in_store", "").lower() in ("yes", "true", "1", "on")
    return form.cleaned_data | {"in_store": stored}


def _fit(press: Press, element: Any, is_new: bool) -> None:
    if element is None:
        return
    fields = {name: element[name] for name in ELEMENT}
    alike = press.elements.filter(
        role=fields["role"], label=fields["label"], shape=fields["shape"]
    ).filter(width_mm=fields["width_mm"], height_mm=fields["height_mm"])
    if alike.exists():
        return
    if not is_new and press.elements.exists():
        raise InputError.single(
            None,
            f"{press.name} has no such element. Exchange it on its page “Elements and pad”: its "
            "map becomes history then.",
        )
    held = press.elements.filter(role=fields["role"], taken_out_on=None)
    if not element["in_store"] and held.exists():
        raise InputError.single(
            None,
            f"{press.name} has its {held[0].get_role_display()} already: one at a time is fitted, "
            f"another is “in store” ({PREFIX}in_store: yes).",
        )
    today = timezone.localdate()
    out = today if element["in_store"] else None
    Element.objects.create(press=press, fitted_on=today, taken_out_on=out, **fields)
