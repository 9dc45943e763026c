"""Comparisons of guns with probes as a table: the pairs go out, what they teach is learned anew."""

from typing import Any

from django import forms
from django.db import transaction

from tempermark.core.errors import InputError
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.kit.forms import tables
from tempermark.web.kit.forms.fields import DifferenceField, TemperatureField, UnitForm
from tempermark.web.kit.forms.moments import MomentField
from tempermark.web.kit.records.audit import record
from tempermark.web.measure.comparisons import comparisons
from tempermark.web.measure.models import Instrument, InstrumentKind, PadComparison
from tempermark.web.measure.surveys.fields import EmissivityField
from tempermark.web.presses.models import Press

FORMAT, KEY = "tempermark.comparisons/1", "comparisons"


class ComparisonRow(UnitForm):
    """A row: names, conditions, and the pairs as shown."""

    press = forms.ModelChoiceField(queryset=Press.objects.all(), to_field_name="name")
    gun = forms.ModelChoiceField(
        queryset=Instrument.objects.filter(kind=InstrumentKind.INFRARED), to_field_name="name"
    )
    probe = forms.ModelChoiceField(
        queryset=Instrument.objects.filter(kind=InstrumentKind.CONTACT), to_field_name="name"
    )
    taken_at = MomentField()
    set_c = TemperatureField()
    ambient_c = TemperatureField(low=-30, high=60)
    emissivity_setting = EmissivityField()
    surface_emissivity = EmissivityField()
    surface_emissivity_uncertainty = forms.FloatField(min_value=0, max_value=0.5)
    repeatability_c = DifferenceField(min_value=0.05, max_value=20)
    pairs = forms.CharField(max_length=2000)
    withdrawn = forms.BooleanField(required=False)

    def clean_pairs(self) -> list[list[float]]:
        """`178.2:186.1 179:186.8` as pairs of gun and probe, °C."""
        return tables.pairs(self.cleaned_data["pairs"], "gun:probe, like 178.2:186.1")


COLUMNS = tuple(ComparisonRow.base_fields)
CONDITIONS = tuple(n for n in COLUMNS if n not in ("press", "gun", "probe", "pairs", "withdrawn"))


def rows() -> list[dict[str, Any]]:
    """Every comparison, newest first."""
    found = PadComparison.objects.select_related("press", "gun", "probe")
    return [
        {
            "press": it.press.name,
            "gun": it.gun.name,
            "probe": it.probe.name,
            **{name: getattr(it, name) for name in CONDITIONS},
            "taken_at": it.taken_at.isoformat(),
            "pairs": " ".join(f"{g:.10g}:{p:.10g}" for g, p in it.pairs),
            "withdrawn": it.withdrawn_at is not None,
        }
        for it in found
    ]


@transaction.atomic
def take_in(user: User, raw: bytes) -> str:
    """Add comparisons from a file, whole or not at all; one that is there already stays."""
    must_work(user)
    given = tables.read_rows(raw, FORMAT, KEY, COLUMNS)
    added = 0
    for row, fields in zip(given, tables.checked(given, ComparisonRow, COLUMNS), strict=True):
        place = {name: fields[name] for name in ("press", "gun", "probe", "taken_at")}
        if PadComparison.objects.filter(**place).exists():
            continue
        try:
            learned, _ = comparisons.learn(fields["gun"], fields["probe"], fields)
        except InputError as error:
            raise InputError.single(row.where, f"{row.where}: {error}") from None
        withdrawn = fields["taken_at"] if fields["withdrawn"] else None
        PadComparison.objects.create(**place, taken_by=user, withdrawn_at=withdrawn, **learned)
        added += 1
    record(user, "imported comparisons", user, added=added)
    return f"{added} comparisons added, {len(given) - added} were there already."
