"""Instruments as a table."""

from typing import Any

from django import forms
from django.db import transaction

from tempermark.core.errors import InputError
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.kit.forms import tables
from tempermark.web.kit.forms.moments import DayField
from tempermark.web.measure.instruments import instruments
from tempermark.web.measure.instruments.forms import InstrumentForm
from tempermark.web.measure.models import Instrument

FORMAT, KEY = "tempermark.instruments/1", "instruments"
MOST_CORRECTIONS = 100


class InstrumentRow(InstrumentForm):
    """A row: what people fill, and what checks have given."""

    checked_on = DayField(required=False)
    corrections = forms.CharField(required=False, max_length=2000)

    def clean_corrections(self) -> list[list[float]]:
        """`100:0.5 200:0.9` as rows of shown and correction, ascending."""
        pairs = tables.pairs(self.cleaned_data["corrections"], "shown:correction, like 100:0.5")
        for shown, correction in pairs:
            if not (-50 <= shown <= 600 and abs(correction) <= 100):
                raise forms.ValidationError(f"“{shown:g}:{correction:g}” is out of range.")
        if len(pairs) > MOST_CORRECTIONS or len({p[0] for p in pairs}) < len(pairs):
            raise forms.ValidationError("At most 100 corrections, each reading once.")
        return sorted(pairs)


COLUMNS = tuple(InstrumentRow.base_fields)


def rows() -> list[dict[str, Any]]:
    """Every instrument."""
    found = []
    for tool in Instrument.objects.all():
        cells = {name: getattr(tool, name) for name in COLUMNS}
        cells["corrections"] = " ".join(f"{s:.10g}:{c:.10g}" for s, c in tool.corrections)
        found.append(cells)
    return found


@transaction.atomic
def take_in(user: User, raw: bytes) -> str:
    """Add and change instruments from a file, whole or not at all; what was done, in words."""
    must_work(user)
    given = tables.read_rows(raw, FORMAT, KEY, COLUMNS)
    values = tables.checked(given, InstrumentRow, COLUMNS)
    names = [v["name"].lower() for v in values]
    for row, name in zip(given, names, strict=True):
        if names.count(name) > 1:
            raise InputError.single(row.where, f"{row.where}: “{name}” is in the file twice.")
    known = {tool.name.lower(): tool for tool in Instrument.objects.all()}
    for fields in values:
        instruments.save(user, known.get(fields["name"].lower()) or Instrument(), fields)
    fresh = sum(name not in known for name in names)
    return f"{fresh} instruments added, {len(names) - fresh} known ones updated."
