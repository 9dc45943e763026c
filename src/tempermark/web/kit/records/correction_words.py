"""Corrections of a row in the words of the form that shows it."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django import forms
from django.db import models
from django.utils import timezone
from django.utils.dateparse import parse_datetime

from tempermark.web.kit.forms.moments import MomentField
from tempermark.web.kit.records.audit import AuditEntry
from tempermark.web.kit.records.withdrawals import WITHDREW, corrections_of


@dataclass(frozen=True)
class Correction:
    """Who changed what, when and why."""

    at: datetime
    who: str
    text: str
    why: str


def corrections(row: models.Model, form: forms.Form) -> list[Correction]:
    """Corrections of a row, newest first, figures in the form's units."""
    return [
        Correction(
            entry.at,
            entry.who.get_short_name() or entry.who.username,
            _what(entry, form),
            entry.detail.get("why", ""),
        )
        for entry in corrections_of(row)
    ]


def _what(entry: AuditEntry, form: forms.Form) -> str:
    if entry.did == WITHDREW:
        return f"withdrew {entry.detail.get('what', 'it')}."
    return _sentence(entry.detail["changed"], form)


def _sentence(changed: dict[str, list[Any]], form: forms.Form) -> str:
    parts = []
    for name, (before, after) in changed.items():
        field = form.fields.get(name)
        label = str(field.label).lower() if field else name.replace("_", " ")
        parts.append(f"{label} {_text(field, after)}, was {_text(field, before)}")
    return "; ".join(parts) + "."


def _text(field: forms.Field | None, value: Any) -> str:
    if value is None or value in ("", []):
        return "empty"
    if isinstance(field, MomentField):
        moment = parse_datetime(value)
        return f"{timezone.localtime(moment):%Y-%m-%d %H:%M:%S}" if moment else str(value)
    labels = dict(getattr(field, "choices", ())) if isinstance(field, forms.ChoiceField) else {}
    if isinstance(value, list):
        return ", ".join(_part(one, labels) for one in value)
    if labels:
        return str(labels.get(value, value))
    shown = field.prepare_value(value) if field else value
    suffix = getattr(field, "suffix", "")
    return f"{shown}\u00a0{suffix}" if suffix else str(shown)


def _part(one: list[float], labels: dict[str, Any]) -> str:
    """One of several values; a row of figures as `2 at 1.35`."""
    if isinstance(one, list):
        return " at ".join(f"{figure:g}" for figure in one)
    return str(labels.get(one, one))
