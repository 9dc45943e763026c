"""What happened to presses as a table."""

from typing import Any

from django import forms
from django.db import transaction
from django.db.models import Q

from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_lead
from tempermark.web.kit.forms import tables
from tempermark.web.kit.forms.moments import MomentField
from tempermark.web.kit.records.audit import record
from tempermark.web.presses.models import EventKind, Press, PressEvent

FORMAT, KEY = "tempermark.events/1", "events"


class EventRow(forms.Form):
    """A row."""

    press = forms.ModelChoiceField(queryset=Press.objects.all(), to_field_name="name")
    kind = forms.ChoiceField(choices=EventKind.choices)
    at = MomentField()
    note = forms.CharField(required=False, max_length=400)


COLUMNS = tuple(EventRow.base_fields)


def rows() -> list[dict[str, Any]]:
    """Every event, newest first."""
    found = PressEvent.objects.select_related("press")
    return [
        {"press": e.press.name, "kind": e.kind, "at": e.at.isoformat(), "note": e.note}
        for e in found
    ]


@transaction.atomic
def take_in(user: User, raw: bytes) -> str:
    """Add events from a file, whole or not at all; maps from before them are history then."""
    must_lead(user)
    given = tables.read_rows(raw, FORMAT, KEY, COLUMNS)
    added = 0
    for fields in tables.checked(given, EventRow, COLUMNS):
        known = PressEvent.objects.filter(**{n: fields[n] for n in ("press", "kind", "at")})
        if known.exists():
            continue
        PressEvent.objects.create(by=user, **fields)
        older = Q(map_since=None) | Q(map_since__lt=fields["at"])
        fields["press"].elements.filter(older, taken_out_on=None).update(map_since=fields["at"])
        added += 1
    record(user, "imported press events", user, added=added)
    return f"{added} events added, {len(given) - added} were there already."
