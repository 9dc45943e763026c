"""Changes to the register: presses, their elements, and what happens to them."""

from datetime import datetime
from typing import Any

from django.db import transaction
from django.utils import timezone
from django.utils.text import slugify

from tempermark.core.errors import InputError
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_lead, must_work
from tempermark.web.kit.records.audit import record
from tempermark.web.presses.models import Element, EventKind, Press, PressEvent

# Words that are pages, so no press may be named like one.
RESERVED = ("new", "labels")


def free_slug(name: str, press: Press | None = None) -> str:
    """A slug for a name; InputError when the name is taken or cannot be one."""
    slug = slugify(name)[:40]
    if not slug or slug in RESERVED:
        raise InputError.single("name", f"“{name}” cannot be the name of a press: choose another.")
    taken = Press.objects.exclude(pk=press.pk if press else None)
    if taken.filter(slug=slug).exists() or taken.filter(name__iexact=name).exists():
        raise InputError.single("name", f"There is a press named {name} already.")
    return slug


@transaction.atomic
def add_press(user: User, fields: dict[str, Any], element: dict[str, Any]) -> Press:
    """A new press with the element in it."""
    must_lead(user)
    press = Press.objects.create(slug=free_slug(fields["name"]), **fields)
    row = Element.objects.create(press=press, fitted_on=timezone.localdate(), **element)
    record(user, "added press", press, element=row.pk)
    return press


@transaction.atomic
def change_press(user: User, press: Press, fields: dict[str, Any]) -> Press:
    """Change a press's properties; what changed is on record."""
    must_lead(user)
    free_slug(fields["name"], press)
    changed = {k: [getattr(press, k), v] for k, v in fields.items() if getattr(press, k) != v}
    for name, value in fields.items():
        setattr(press, name, value)
    press.save()
    if changed:
        record(user, "changed press", press, **{k: [str(x) for x in v] for k, v in changed.items()})
    return press


@transaction.atomic
def fit_element(
    user: User, press: Press, stored: Element | None, fields: dict[str, Any], now: Any = None
) -> Element:
    """Exchange the element in a press: a stored one goes back in, or a new one is made.

    The one it replaces (same role) is taken out; what goes in needs a new survey.
    """
    must_work(user)
    now = now or timezone.now()
    if stored is not None and (stored.press_id != press.pk or stored.taken_out_on is None):
        raise InputError.single("stored", "That element is not in store for this press.")
    # Two at once wait for each other here.
    Press.objects.select_for_update().get(pk=press.pk)
    role = stored.role if stored else fields["role"]
    out = list(press.elements.filter(role=role, taken_out_on=None))
    for old in out:
        old.taken_out_on = timezone.localdate(now)
        old.save(update_fields=["taken_out_on"])
    if stored is None:
        stored = Element(press=press, **fields)
    stored.fitted_on, stored.taken_out_on, stored.map_since = timezone.localdate(now), None, now
    stored.save()
    went = ", ".join(str(e.label or e.get_role_display()) for e in out) or "nothing"
    _record_event(user, press, EventKind.ELEMENT, now, f"{stored.name} in, {went} out")
    return stored


@transaction.atomic
def record_event(
    user: User, press: Press, kind: str, note: str, now: datetime | None = None
) -> PressEvent:
    """A repair, a changed pad, a move, or a lead who declares a new beginning: every map of the
    press is history from now on.
    """
    must_work(user)
    now = now or timezone.now()
    if kind not in EventKind.values or kind == EventKind.ELEMENT:
        raise InputError.single("kind", "Choose what was done.")
    if kind == EventKind.NEW_MAP:
        # What was measured is set aside by decision, not because something was done.
        must_lead(user)
    press.elements.filter(taken_out_on=None).update(map_since=now)
    if kind == EventKind.PAD:
        press.pad_since, press.pad_condition = timezone.localdate(now), "sound"
        press.save(update_fields=["pad_since", "pad_condition"])
    return _record_event(user, press, kind, now, note)


def _record_event(user: User, press: Press, kind: str, now: datetime, note: str) -> PressEvent:
    record(user, f"press event {kind}", press, note=note)
    return PressEvent.objects.create(press=press, kind=kind, at=now, by=user, note=note[:400])


def record_import(user: User, added: int, changed: int) -> None:
    """One line on record for a register that came in as a file."""
    record(user, "imported register", user, added=added, changed=changed)
