"""What earlier pressure maps of an element tell of it, as the core's memory takes them."""

from dataclasses import asdict, dataclass, replace
from datetime import datetime
from functools import lru_cache
from hashlib import sha256
from typing import Any

import numpy as np
from django.db.models import Count, Q
from django.utils import timezone

from tempermark.core.metrology.memory.learning import SurveyStep
from tempermark.core.metrology.memory.looks import FoundChanges
from tempermark.core.pressure.map.level import pinch_mm
from tempermark.core.pressure.memory.changes import pressure_changes
from tempermark.core.pressure.memory.kept import (
    KeptPressure,
    keep_pressure,
    packed_pressure,
    unpacked_pressure,
)
from tempermark.core.pressure.memory.learning import learned_pressure, with_kind
from tempermark.core.pressure.memory.looks import (
    MOST_PRESSURE_LOOKS,
    PressureLook,
    PressureRates,
    strips_look,
)
from tempermark.core.pressure.memory.recall import recall_pressure
from tempermark.core.pressure.memory.steps import StandingStrips, look_on_strips
from tempermark.web.kit.forms.moments import CLOCK_SKEW
from tempermark.web.measure.known.kinds import FEWEST_IN_WHOLE
from tempermark.web.measure.known.rates import days_between, kind_history
from tempermark.web.measure.known.shared import share, shared
from tempermark.web.measure.surveys.grids import KNOWN
from tempermark.web.presses.history import map_since
from tempermark.web.presses.models import Element, PressKind
from tempermark.web.pressure import queries
from tempermark.web.pressure.maps.kinds import closings_of_kind
from tempermark.web.pressure.maps.prints import pad_then, printed
from tempermark.web.pressure.models import MapKind, PressureSurvey

# Of a print so many cells each way are remembered.
PRINT_LINES = 5
# What an earlier map says, to tell whether it was changed since.
SHOWN = ("mean_kpa", "right_mm", "back_mm")


def earlier(element: Element, when: datetime | None = None) -> list[PressureSurvey]:
    """Finished pressure maps of an element before a moment (now), newest first, the last of its
    whole platen among them; nothing without one, nor from before its pad was changed.
    """
    when = when or timezone.now() + CLOCK_SKEW
    live = Q(stations__pulls__isnull=False, stations__pulls__taken_back_at=None)
    rows = queries.surveys(element).filter(taken_at__lt=when).select_related("print")
    since = map_since(element, when)
    if since is not None:
        rows = rows.filter(taken_at__gte=since)
    # Counted rows have no order of their own.
    rows = rows.annotate(places=Count("stations", filter=live, distinct=True))
    rows = rows.order_by("-taken_at", "-pk")
    whole = Q(kind=MapKind.PRINT) | Q(places__gte=FEWEST_IN_WHOLE)
    first = rows.filter(whole).first()
    if first is None:
        return []
    newest: list[Any] = list(rows[:MOST_PRESSURE_LOOKS])
    # Short maps alone do not push out the whole one that they rest on.
    return newest if first in newest else [*newest[:-1], first]


def is_known(element: Element) -> bool:
    """Whether enough is remembered of an element for a map by a few strips."""
    return bool(earlier(element))


@dataclass(frozen=True)
class _Earlier:
    """An earlier map as something that can be looked up."""

    pk: int
    version: tuple[str, ...]
    days_ago: float
    pinch_mm: float


def kept(survey: PressureSurvey, before: list[PressureSurvey]) -> KeptPressure | None:
    """What the maps before one tell of its element; None without any."""
    if not before:
        return None
    size = (survey.element.width_mm, survey.element.height_mm)
    begun = (survey.memory or {}).get("rates")
    rates = PressureRates(**begun) if begun else rates_of(survey.element, survey.taken_at)
    return _kept(tuple(_row(one, survey) for one in before), size, rates)


def _row(one: PressureSurvey, now: PressureSurvey) -> _Earlier:
    days = days_between(one.taken_at, now.taken_at)
    pinch = 0.0
    if now.element.press.kind == PressKind.CLAMSHELL:
        pinch = pinch_mm(one.stack_mm - now.stack_mm, now.element.height_mm)
    version = tuple(str(getattr(one, field.attname)) for field in one._meta.concrete_fields)
    return _Earlier(one.pk, version, round(days, 3), round(pinch, 3))


@lru_cache(maxsize=16)
def _kept(
    rows: tuple[_Earlier, ...], size_mm: tuple[float, float], rates: PressureRates
) -> KeptPressure:
    """Costs up to half a second; every strip of a map asks for the same, some of them in another
    worker.
    """
    looks = [
        replace(_look(row.pk, row.version), days_ago=row.days_ago, pinch_mm=row.pinch_mm)
        for row in rows
    ]
    name = sha256(repr((rows, size_mm, rates)).encode()).hexdigest()
    there = shared(name)
    if there is not None:
        return unpacked_pressure(there, looks, size_mm, rates)
    found = keep_pressure(looks, size_mm, rates)
    share(name, packed_pressure(found))
    return found


@lru_cache(maxsize=128)
def _look(pk: int, _version: tuple[str, ...]) -> PressureLook:
    """A finished map as taken; read once for each version of it."""
    return as_look(PressureSurvey.objects.select_related("element__press", "print").get(pk=pk))


def as_look(survey: PressureSurvey) -> PressureLook:
    """A map's strips, or some cells of its print, and what it found to be new."""
    if survey.kind == MapKind.PRINT:
        found = _cells(survey)
    else:
        read = [s for s in queries.stations(survey) if s.held is not None]
        place = np.array([[s.x_mm, s.y_mm] for s in read], float).reshape(-1, 2)
        found = strips_look(place, [s.held.pull for s in read], pad_then(survey))
    memory = survey.memory or {}
    chance = np.array(memory.get("change", ()), float)
    if len(chance) != len(pressure_changes().kind):
        return found
    since = tuple(map(float, memory.get("since", (1.0,))))
    return replace(found, change=FoundChanges(chance, float(memory["all_new"]), since))


def _cells(survey: PressureSurvey) -> PressureLook:
    """Cells of a print, evenly spread."""
    found, _, summary = printed(survey)
    rows, columns = found.darkness.shape
    share = (np.arange(PRINT_LINES) + 0.5) / PRINT_LINES
    picked = np.ix_((share * rows).astype(int), (share * columns).astype(int))
    at = np.arange(rows * columns).reshape(rows, columns)[picked].ravel()
    low, high, sd = (np.asarray(of)[at] for of in (summary.low_mm, summary.high_mm, summary.sd_mm))
    return PressureLook(found.places_mm[at], low, high, sd, 0.0)


def standing(survey: PressureSurvey, stations: list[Any]) -> StandingStrips | None:
    """Where a map by a few strips stands; None for another, or where nothing is remembered."""
    if survey.grid != KNOWN:
        return None
    before = kept(survey, earlier(survey.element, survey.taken_at))
    if before is None:
        return None
    place = np.array([[s.x_mm, s.y_mm] for s in stations], float)
    pulls = {number: s.held.pull for number, s in enumerate(stations) if s.held is not None}
    return look_on_strips(before, place, pulls, pad_then(survey))


def begin(survey: PressureSurvey) -> dict[str, Any]:
    """What a map of a known element is to remember from its start."""
    return {"rates": asdict(rates_of(survey.element, survey.taken_at))}


def note(survey: PressureSurvey) -> dict[str, Any]:
    """What a map found to be new, and which maps that rests on, to be kept with it; nothing for the
    first of all.
    """
    earlier_ones = earlier(survey.element, survey.taken_at)
    before = kept(survey, earlier_ones)
    if before is None:
        return {}
    found = recall_pressure(before, as_look(survey), pad_then(survey))
    return {
        "unchanged": round(found.unchanged, 4),
        "change": [round(float(chance), 5) for chance in found.change.chance],
        "all_new": round(found.change.all_new, 5),
        "since": [round(share, 5) for share in found.change.since],
        "rests_on": rests_on(earlier_ones),
        "rates": asdict(before.rates),
    }


def rests_on(before: list[PressureSurvey]) -> list[dict[str, Any]]:
    """The maps that one rests on, as they are now, so that a later change of them shows."""
    return [
        {"survey": one.pk} | {name: round(getattr(one, name) or 0.0, 3) for name in SHOWN}
        for one in before
    ]


def later_on(survey: PressureSurvey) -> list[PressureSurvey]:
    """Finished maps of the element that rest on one."""
    rows = queries.surveys(survey.element).filter(taken_at__gt=survey.taken_at)
    named = rows.filter(memory__rests_on__contains=[{"survey": survey.pk}])
    return list(named.select_related("print").order_by("taken_at"))


def rates_of(element: Element, when: datetime) -> PressureRates:
    """How an element moves, by its own maps before a moment and those of presses of its kind."""
    rows = PressureSurvey.objects.exclude(right_mm=None)
    names = ("right_mm", "right_sd_mm", "back_mm", "back_sd_mm")
    past = kind_history(rows, names, element, when, _steps)
    found = learned_pressure(past.own, past.of_kind, past.new, past.judged)
    return with_kind(found, closings_of_kind(element, when))


def _steps(first: dict[str, Any], then: dict[str, Any], days: float) -> list[SurveyStep]:
    """How the fall each way moved from one map to the next, mm."""
    return [
        SurveyStep(
            days,
            then[f"{way}_mm"] - first[f"{way}_mm"],
            float(np.hypot(then[f"{way}_sd_mm"] or 0.0, first[f"{way}_sd_mm"] or 0.0)),
        )
        for way in ("right", "back")
    ]
