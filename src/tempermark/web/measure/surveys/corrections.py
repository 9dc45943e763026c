"""Corrections of readings and of instrument checks: what was there is kept, what was computed of it
is computed again.
"""

from datetime import date
from typing import Any
from uuid import uuid4

from django.db import transaction
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.core.metrology.reading.fixed_points import CorrectionTable
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_be_author
from tempermark.web.kit.records.audit import record
from tempermark.web.kit.records.withdrawals import WITHDREW, correct, reason, record_correction
from tempermark.web.kit.units import Units
from tempermark.web.measure.instruments import instruments
from tempermark.web.measure.models import InstrumentCheck, Reading, Survey
from tempermark.web.measure.surveys.actions import refresh_summary, understood
from tempermark.web.measure.surveys.grids import SPOT


@transaction.atomic
def correct_reading(user: User, reading: Reading, typed: str, why: str, units: Units) -> Survey:
    """Another figure in place of one, read at the same moment; the one before stays, taken back.
    InputError when it is no figure.
    """
    survey = _take_out(user, reading, why)
    before, typed = reading.typed, typed.strip()
    Reading.objects.create(
        entry_key=uuid4(),
        station=reading.station,
        typed=typed,
        read_at=reading.read_at,
        read_by=user,
        **understood(survey, reading.station, typed, units),
    )
    changed = {reading.station.label: [before, typed]}
    record_correction(user, survey, changed, reading.taken_back_why)
    compute_again(survey)
    return survey


@transaction.atomic
def withdraw_reading(user: User, reading: Reading, why: str) -> Survey:
    """A figure that counts no more."""
    survey = _take_out(user, reading, why)
    what = f"{reading.typed} at {reading.station.label}"
    record(user, WITHDREW, survey, why=reading.taken_back_why, what=what)
    compute_again(survey)
    return survey


def _take_out(user: User, reading: Reading, why: str) -> Survey:
    must_be_author(user, reading.read_by_id)
    survey = Survey.objects.select_for_update().get(pk=reading.station.survey_id)
    reading.refresh_from_db()
    if reading.taken_back_at is not None:
        raise InputError.single(
            None, "This reading has already been withdrawn: look at the survey."
        )
    reading.taken_back_why = reason(why)
    reading.taken_back_at, reading.taken_back_by = timezone.now(), user
    reading.save(update_fields=["taken_back_at", "taken_back_by", "taken_back_why"])
    return survey


def compute_again(survey: Survey) -> None:
    """A survey's figures, and those of the spot checks that rest on its map."""
    refresh_summary(survey)
    spots = survey.element.surveys.filter(grid=SPOT, taken_at__gt=survey.taken_at)
    for spot in spots.exclude(finished_at=None):
        refresh_summary(spot)


@transaction.atomic
def correct_check(
    user: User,
    check: InstrumentCheck,
    table: CorrectionTable,
    on: date,
    read: dict[str, Any],
    why: str,
) -> list[Survey]:
    """Another outcome of a check; the surveys that were computed again with it."""
    must_be_author(user, check.by_id or 0)
    was = resting_on_check(check)
    rows = instruments.rows_of(table)
    values = {name: read.get(name) for name in instruments.CHECKED_WITH}
    changed = correct(user, check, {"on": on, "corrections": rows, **values}, why)
    return _after(check, was) if changed else []


@transaction.atomic
def withdraw_check(user: User, check: InstrumentCheck, why: str) -> list[Survey]:
    """A check that counts no more; the surveys that were computed again without it."""
    must_be_author(user, check.by_id or 0)
    was = resting_on_check(check)
    if not check.withdraw(user, why):
        return []
    return _after(check, was)


def resting_on_check(check: InstrumentCheck) -> list[Survey]:
    """Surveys that carry what a check gave. One that is tied to a comparison keeps the comparison's
    figures and is left out.
    """
    rest_on_it = Survey.objects.filter(
        instrument=check.instrument,
        corrections=check.corrections,
        comparison=None,
        taken_at__date__gte=check.on,
    )
    return list(rest_on_it.select_related("element__press"))


def _after(check: InstrumentCheck, found: list[Survey]) -> list[Survey]:
    """The instrument and the surveys read with what a check gave, computed again."""
    instrument = check.instrument
    instruments.hold_newest_check(instrument)
    changed = []
    for survey in found:
        day = timezone.localdate(survey.taken_at)
        held = instrument.checks.filter(on__lte=day).first()
        own = instruments.header_by(instrument, held, day)
        for name, value in own.items():
            setattr(survey, name, value)
        survey.save(update_fields=list(own))
        compute_again(survey)
        changed.append(survey)
    return changed
