"""Instruments: added, changed, checked; and what they bring into a survey."""

from datetime import date

from django.db import transaction
from django.utils import timezone

from tempermark.core.metrology.fixed_points import CorrectionTable
from tempermark.web.accounts.permissions import must_work
from tempermark.web.kit.audit import record
from tempermark.web.measure.models import Instrument

# An instrument past its check may have drifted: its uncertainty counts this many times.
OVERDUE_FACTOR = 2.0


@transaction.atomic
def save(user, instrument: Instrument, fields: dict) -> Instrument:
    """Add or change an instrument. Surveys keep the corrections they were taken with."""
    must_work(user)
    fresh = instrument.pk is None
    for name, value in fields.items():
        setattr(instrument, name, value)
    instrument.save()
    record(user, "added instrument" if fresh else "changed instrument", instrument)
    return instrument


@transaction.atomic
def note_check(user, instrument: Instrument, table: CorrectionTable, on: date | None = None):
    """Keep what an ice- and boiling-point check gave; due again from then."""
    must_work(user)
    before = instrument.corrections
    instrument.corrections = [
        [round(s, 2), round(c, 2)] for s, c in zip(table.shown_c, table.correction_c, strict=True)
    ]
    instrument.checked_on = on or timezone.localdate()
    instrument.save(update_fields=["corrections", "checked_on"])
    after = instrument.corrections
    record(user, "checked instrument", instrument, before=before, after=after)
    return instrument


def header_of(instrument: Instrument, today: date) -> dict:
    """What an instrument brings into a survey's header, as it is today."""
    overdue = instrument.days_overdue(today)
    header = {
        "instrument": instrument,
        "corrections": instrument.corrections,
        "correction_c": 0.0,
        "instrument_overdue_days": overdue,
        "instrument_uncertainty_c": instrument.expanded_uncertainty_c
        * (OVERDUE_FACTOR if overdue else 1.0),
    }
    if instrument.emissivity_setting is not None:
        header["emissivity_setting"] = instrument.emissivity_setting
    return header
