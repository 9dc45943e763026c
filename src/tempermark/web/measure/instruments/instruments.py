"""Instruments: added, changed, checked; and what they bring into a survey."""

from datetime import date
from typing import Any

from django.db import transaction
from django.utils import timezone

from tempermark.core.days import later
from tempermark.core.metrology.reading.fixed_points import CorrectionTable
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.kit.records.audit import record
from tempermark.web.measure.models import Instrument, InstrumentCheck

# An instrument past its check may have drifted: its uncertainty counts this many times.
OVERDUE_FACTOR = 2.0


@transaction.atomic
def save(user: User, instrument: Instrument, fields: dict[str, Any]) -> Instrument:
    """Add or change an instrument. Surveys keep the corrections they were taken with."""
    must_work(user)
    fresh = instrument.pk is None
    for name, value in fields.items():
        setattr(instrument, name, value)
    instrument.save()
    keep_reported_check(user, instrument)
    record(user, "added instrument" if fresh else "changed instrument", instrument)
    return instrument


CHECKED_WITH = ("ice_c", "boil_c", "pressure_kpa", "altitude_m")


@transaction.atomic
def note_check(
    user: User,
    instrument: Instrument,
    table: CorrectionTable,
    on: date | None = None,
    read: dict[str, Any] | None = None,
) -> InstrumentCheck:
    """Keep what an ice- and boiling-point check gave; due again from then. `read` holds the figures
    it was made with, by name of `CHECKED_WITH`.
    """
    must_work(user)
    before = instrument.corrections
    check = InstrumentCheck.objects.create(
        instrument=instrument,
        by=user,
        on=on or timezone.localdate(),
        corrections=rows_of(table),
        **{name: (read or {}).get(name) for name in CHECKED_WITH},
    )
    hold_newest_check(instrument)
    after = instrument.corrections
    record(user, "checked instrument", instrument, before=before, after=after)
    return check


def rows_of(table: CorrectionTable) -> list[list[float]]:
    """A table of corrections as it is kept."""
    rows = zip(table.shown_c, table.correction_c, strict=True)
    return [[round(s, 2), round(c, 2)] for s, c in rows]


def hold_newest_check(instrument: Instrument) -> None:
    """The newest check that stands gives the corrections; without one it was never checked."""
    check = instrument.checks.first()
    instrument.corrections = check.corrections if check else []
    instrument.checked_on = check.on if check else None
    instrument.save(update_fields=["corrections", "checked_on"])


def keep_reported_check(user: User, instrument: Instrument) -> None:
    """A check that came with the instrument, as from a file, is one like any other."""
    newest = instrument.checks.first()
    if instrument.checked_on is None or (
        newest
        and (newest.on, newest.corrections) == (instrument.checked_on, instrument.corrections)
    ):
        return
    InstrumentCheck.objects.create(
        instrument=instrument,
        by=user,
        on=instrument.checked_on,
        corrections=instrument.corrections,
    )


def header_by(instrument: Instrument, check: InstrumentCheck | None, day: date) -> dict[str, Any]:
    """What a check of an instrument brings into a survey's header on a day."""
    due_on = check and later(check.on, instrument.check_every_days)
    overdue = max(0, (day - due_on).days) if due_on else 0
    return {
        "corrections": check.corrections if check else [],
        "instrument_overdue_days": overdue,
        "instrument_uncertainty_c": instrument.expanded_uncertainty_c
        * (OVERDUE_FACTOR if overdue else 1.0),
    }


def header_of(instrument: Instrument, today: date) -> dict[str, Any]:
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
