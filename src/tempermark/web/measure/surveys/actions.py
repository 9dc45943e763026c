"""Changes to surveys: permission, transaction and record together."""

from dataclasses import replace
from datetime import datetime
from math import isfinite
from typing import Any
from uuid import UUID, uuid5

import numpy as np
from django.db import transaction
from django.utils import timezone

from tempermark.core.constants import TEMPERATURE_RANGE_C
from tempermark.core.errors import InputError
from tempermark.core.metrology.map.adaptive import MOST_READINGS
from tempermark.core.metrology.map.field_members import prepare_draws
from tempermark.core.metrology.map.verdict import lattice
from tempermark.core.metrology.survey import FEWEST_FOR_MAP
from tempermark.core.units import read_bounds, read_entry
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.kit.figures import temperature_text
from tempermark.web.kit.records.audit import record
from tempermark.web.kit.units import Units
from tempermark.web.measure.known import remembered
from tempermark.web.measure.models import Method, Reading, Station, Survey
from tempermark.web.measure.press.history import compute_survey
from tempermark.web.measure.press.press_temperature import mean_by_spot
from tempermark.web.measure.surveys.grids import (
    KNOWN,
    SPOT,
    STEP_BY_STEP,
    GridPlace,
    known_station,
)
from tempermark.web.measure.surveys.mapping import Measured, StationValue
from tempermark.web.measure.tasks import note_survey
from tempermark.web.presses.models import Element

LONGEST_DELAY_S = 3600.0


@transaction.atomic
def start_survey(
    user: User,
    element: Element,
    header: dict[str, Any],
    places: list[GridPlace],
    taken_at: datetime | None = None,
) -> Survey:
    """A new survey with its stations to be read."""
    must_work(user)
    survey = Survey.objects.create(
        element=element, taken_by=user, taken_at=taken_at or timezone.now(), **header
    )
    Station.objects.bulk_create(
        Station(survey=survey, label=p.label, order=i, x_mm=p.x_mm, y_mm=p.y_mm)
        for i, p in enumerate(places)
    )
    if survey.grid == KNOWN:
        survey.memory = remembered.begin(survey)
        survey.save(update_fields=["memory"])
        extend(survey)
    record(user, "started survey", survey, stations=len(places))
    return survey


@transaction.atomic
def enter_reading(
    user: User, station: Station, typed: str, form_key: UUID, units: Units | None = None
) -> Measured:
    """Save one figure as typed, in `units` or else the person's own, and compute the survey with
    it; InputError when it is none.

    The same form sent again with the same text is the same reading (double click,
    retried request, back button); other text from the same form is another reading.
    """
    must_work(user)
    locked = Survey.objects.select_for_update(of=("self",))
    survey = locked.select_related("element__press", "instrument").get(pk=station.survey_id)
    station.survey = survey
    if survey.finished_at:
        raise InputError.single(None, "This survey is finished. Open it again to add readings.")
    entry_key = uuid5(form_key, f"{station.pk}:{typed.strip()}")
    # Entries of a survey wait for each other: nobody adds the same one in between.
    if not Reading.objects.filter(entry_key=entry_key).exists():
        Reading.objects.create(
            entry_key=entry_key,
            station=station,
            typed=typed.strip(),
            read_by=user,
            **understood(survey, station, typed, units or user.units),
        )
    return extend(survey) if survey.grid in STEP_BY_STEP else compute_survey(survey)


def understood(survey: Survey, station: Station, typed: str, units: Units) -> dict[str, Any]:
    """What was typed, by field of a reading; InputError when it is no figure."""
    read = _strip if survey.method == Method.STRIP else _figure
    return read(survey, station, typed, units)


def _figure(survey: Survey, station: Station, typed: str, units: Units) -> dict[str, Any]:
    """A figure and the seconds after opening."""
    entry = read_entry(typed, "temperature", units.temperature)
    _on_a_platen(entry.value, typed, units)
    delay = survey.delay_s if entry.delay_s is None else entry.delay_s
    if delay > LONGEST_DELAY_S:
        raise InputError.single(None, f"{delay:g} s after opening is too late to count.")
    return {"shown_c": entry.value, "seconds_after_opening": delay}


def _strip(survey: Survey, station: Station, typed: str, units: Units) -> dict[str, Any]:
    """What a strip says; with the others of its station it must leave something possible."""
    fields_c = tuple(survey.instrument.fields_c) if survey.instrument else ()
    bounds = read_bounds(typed, units.temperature, fields_c)
    given = [v for v in (bounds.low, bounds.high) if isfinite(v)]
    for value in given:
        _on_a_platen(value, typed, units)
    others = station.readings.filter(taken_back_at=None)
    highest = max([bounds.low, *(r.at_least_c for r in others if r.at_least_c is not None)])
    lowest = min([bounds.high, *(r.below_c for r in others if r.below_c is not None)])
    if highest >= lowest:
        low, high = (temperature_text(v, units) for v in (highest, lowest))
        raise InputError.single(
            None,
            f"{station.label} cannot be at least {low} and below {high}: undo one first.",
        )
    return {
        "shown_c": given[0],
        "at_least_c": bounds.low if isfinite(bounds.low) else None,
        "below_c": bounds.high if isfinite(bounds.high) else None,
    }


def _on_a_platen(value_c: float, typed: str, units: Units) -> None:
    low, high = TEMPERATURE_RANGE_C
    if not low <= value_c <= high:
        span = " to ".join(temperature_text(v, units) for v in (low, high))
        raise InputError.single(
            None, f"“{typed.strip()}” is not a platen temperature. Right is {span}."
        )


def extend(survey: Survey) -> Measured:
    """A survey that asks for as few readings as it needs, computed, with its next station.

    None is added while a station is still to be read, once the verdict stands, or after the most
    readings that are worth while. Called with the survey locked.
    """
    computed = compute_survey(survey)
    if len(computed.read) < FEWEST_FOR_MAP:
        # While entries are quick: the first verdict need not wait for it.
        prepare_draws(lattice(survey.element.width_mm, survey.element.height_mm))
    if computed.left or len(computed.read) >= MOST_READINGS:
        return computed
    decision = computed.decision
    if decision is None or decision.next_point is None:
        return computed
    order = len(computed.stations)
    place = known_station(decision.next_point, order)
    at_mm = place.x_mm, place.y_mm
    if any((s.station.x_mm, s.station.y_mm) == at_mm for s in computed.stations):
        return computed
    station = Station.objects.create(
        survey=survey, label=place.label, order=order, x_mm=place.x_mm, y_mm=place.y_mm
    )
    return replace(computed, stations=(*computed.stations, StationValue(station, (), None)))


@transaction.atomic
def take_back(user: User, survey: Survey, reading_pk: int) -> Reading:
    """Take a reading back; it stays on record. Taking back twice changes nothing."""
    must_work(user)
    reading = Reading.objects.select_for_update().get(pk=reading_pk, station__survey=survey)
    if reading.taken_back_at is None:
        reading.taken_back_at = timezone.now()
        reading.taken_back_by = user
        reading.save(update_fields=["taken_back_at", "taken_back_by"])
        refresh_summary(survey)
        record(
            user, "took back reading", survey, station=reading.station.label, typed=reading.typed
        )
    return reading


@transaction.atomic
def finish(user: User, survey: Survey) -> Survey:
    """Close the survey for entry and keep its figures; needs one reading at least."""
    must_work(user)
    survey = (
        Survey.objects.select_for_update(of=("self",))
        .select_related("element__press")
        .get(pk=survey.pk)
    )
    if not Reading.objects.filter(station__survey=survey, taken_back_at=None).exists():
        raise InputError.single(None, "Nothing has been read yet: enter a reading first.")
    if survey.finished_at is None:
        survey.finished_at = timezone.now()
        survey.save(update_fields=["finished_at"])
        refresh_summary(survey)
        record(user, "finished survey", survey)
    return survey


@transaction.atomic
def reopen(user: User, survey: Survey) -> Survey:
    """Open a finished survey for more readings."""
    must_work(user)
    Survey.objects.filter(pk=survey.pk).update(finished_at=None)
    record(user, "opened survey again", survey)
    survey.refresh_from_db()
    _refresh_later(survey)
    return survey


def refresh_summary(survey: Survey) -> None:
    """Write the figures that the floor page needs."""
    computed = compute_survey(survey)
    survey.mean_true_c = computed.mean_true_c
    if survey.grid == SPOT and computed.read:
        station = computed.read[0].station
        place = np.array([[station.x_mm, station.y_mm]])
        survey.mean_true_c = mean_by_spot(survey, place, computed.mean_true_c)
    survey.mean_uncertainty_c = computed.mean_uncertainty_c if computed.read else None
    survey.common_uncertainty_c = computed.common_standard_uncertainty_c if computed.read else None
    names = ["mean_true_c", "mean_uncertainty_c", "common_uncertainty_c"]
    if survey.finished_at is not None and survey.grid == KNOWN:
        survey.memory = remembered.note(survey, computed)
        names.append("memory")
    survey.save(update_fields=names)
    if survey.finished_at is not None and survey.grid not in (KNOWN, SPOT):
        # What it found to be new serves the next short survey: nobody waits for it here.
        transaction.on_commit(lambda: note_survey.defer(survey=survey.pk))
    _refresh_later(survey)


def _refresh_later(survey: Survey) -> None:
    """What rests on a survey that has changed is computed again, and says so."""
    for later in remembered.later_on(survey):
        before = {row["survey"]: row["mean_c"] for row in later.memory.get("rests_on", ())}
        now = {row["survey"]: row["mean_c"] for row in remembered.rests_on(later)}
        if before == now:
            continue
        computed = compute_survey(later)
        later.mean_true_c = computed.mean_true_c
        later.mean_uncertainty_c = computed.mean_uncertainty_c if computed.read else None
        later.memory = remembered.note(later, computed) | {
            "changed_on": timezone.localdate().isoformat()
        }
        later.save(update_fields=["mean_true_c", "mean_uncertainty_c", "memory"])
        record(None, "computed survey again", later, because=f"survey {survey.pk} changed")
