"""Forms that change what there is: each carries what it was drawn from, so that a second editor is
shown what the first one changed instead of undoing it.
"""

import json
from dataclasses import dataclass
from typing import Any

from django import forms
from django.db import connection, models
from django.http import HttpRequest
from django.shortcuts import get_object_or_404

from tempermark.core.errors import InputError
from tempermark.files.document import parse_json
from tempermark.web.kit.forms.fields import UnitForm
from tempermark.web.kit.records.audit import AuditEntry, label_of

DRAWN_FIELD = "drawn"
LONGEST_DRAWN = 60_000
# Fields that say nothing of the row: its key as drawn, a reason, and a question's answer.
NOT_OF_THE_ROW = (DRAWN_FIELD, "why", "confirmed")


@dataclass(frozen=True)
class Meanwhile:
    """A field that somebody else changed: as this form was drawn, as it is now, and as typed."""

    label: str
    before: str
    now: str
    typed: str


class EditForm(UnitForm):
    """A form drawn from `record`, or from nothing yet. `meanwhile` holds what somebody else changed
    since; saving again, with that seen, goes through.
    """

    def __init__(self, *args: Any, record: models.Model | None = None, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.record: Any = record if record is not None and record.pk else None
        self.meanwhile: list[Meanwhile] = []
        self.fields[DRAWN_FIELD] = forms.CharField(
            required=False, max_length=LONGEST_DRAWN, widget=forms.HiddenInput
        )
        self.initial[DRAWN_FIELD] = _as_text(self._values() if self.record else {})

    def _values(self) -> dict[str, str]:
        """What the fields show of the row as it is now."""
        shown = {}
        for name, field in self.fields.items():
            if name not in NOT_OF_THE_ROW:
                value = self.get_initial_for_field(field, name)
                shown[name] = _shown(field.prepare_value(value))
        return shown

    def clean(self) -> dict[str, Any]:
        """Refused once where somebody else saved the row since this form was drawn."""
        super().clean()
        data = self.cleaned_data
        drawn = _drawn(data.pop(DRAWN_FIELD, ""))
        if self.record is None or drawn is None:
            return data
        now = self._values()
        self._keep_untouched(data, now)
        changed = [name for name in now if drawn.get(name, "") != now[name]]
        typed = {name: _shown(self[name].data) for name in changed}
        if any(typed[name] != now[name] for name in changed):
            self._show(changed, drawn, now, typed)
        return data

    def _keep_untouched(self, data: dict[str, Any], now: dict[str, str]) -> None:
        """Figures that were left as drawn stay as they are held, with all their digits."""
        for name, shown in now.items():
            held = self.get_initial_for_field(self.fields[name], name)
            if isinstance(held, float) and _shown(self[name].data) == shown:
                data[name] = held

    def _show(
        self, changed: list[str], drawn: dict[str, Any], now: dict[str, Any], typed: dict[str, Any]
    ) -> None:
        """What differs, and the form drawn again from the row as it is now."""
        data: Any = self.data.copy()  # type: ignore[attr-defined]  # a QueryDict
        self.data = data
        for name in changed:
            field = self[name]
            parts = [_in_words(field.field, t.get(name, "")) for t in (drawn, now, typed)]
            self.meanwhile.append(Meanwhile(str(field.label), *parts))
            if typed[name] == drawn.get(name, ""):
                # Not touched here: the other one's stands.
                value = self.get_initial_for_field(field.field, name)
                many = isinstance(value, (list, tuple)) and isinstance(
                    field.field, forms.MultipleChoiceField
                )
                data.setlist(field.html_name, value if many else [now[name]])
        data[self.add_prefix(DRAWN_FIELD)] = _as_text(now)
        self.add_error(None, f"{self._who()} saved this after you opened it.")

    def _who(self) -> str:
        entry = (
            AuditEntry.objects.filter(subject=label_of(self.record)).select_related("who").first()
        )
        return entry.who.get_short_name() or entry.who.username if entry else "Somebody"


def for_change(request: HttpRequest, queryset: Any, **lookup: Any) -> Any:
    """The row of a form: locked while it is sent, so that nobody saves between look and save."""
    if request.method == "POST" and connection.in_atomic_block:
        queryset = queryset.select_for_update(of=("self",))
    return get_object_or_404(queryset, **lookup)


def _as_text(values: dict[str, str]) -> str:
    return json.dumps(values, ensure_ascii=False, sort_keys=True)


def _drawn(text: str) -> dict[str, str] | None:
    """What a form was drawn from; None where it does not say."""
    try:
        found = parse_json(text) if text else None
    except InputError:
        return None
    return {k: str(v) for k, v in found.items()} if isinstance(found, dict) else None


def _shown(value: Any) -> str:
    """A value as one text, the same for what a form is drawn from and for what it sends."""
    if value is None or value is False or value == "":
        return ""
    if value is True:
        return "on"
    if isinstance(value, (list, tuple)):
        return ", ".join(sorted(str(one) for one in value))
    if isinstance(value, models.Model):
        return str(value.pk)
    return str(value).replace("\r\n", "\n").strip()


def _in_words(field: forms.Field, text: str) -> str:
    """A choice by its label."""
    choices = getattr(field, "choices", None)
    if choices is None:
        return text or "nothing"
    labels = {str(code): str(label) for code, label in choices}
    return ", ".join(labels.get(part, part) for part in text.split(", ")) or "nothing"
