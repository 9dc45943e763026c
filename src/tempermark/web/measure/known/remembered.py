"""What earlier surveys of an element tell of it, as the core's memory takes them."""

from dataclasses import asdict, dataclass, replace
from datetime import UTC, datetime
from functools import lru_cache
from hashlib import sha256
from typing import Any

import numpy as np
from django.db.models import Count, OuterRef, Q, QuerySet, Subquery
from django.utils import timezone

from tempermark.core.constants import COVERAGE_FACTOR
from tempermark.core.metrology.map import field_prior as prior
from tempermark.core.metrology.memory.changes import changes_of
from tempermark.core.metrology.memory.kept import Kept, keep, packed, unpacked
from tempermark.core.metrology.memory.learning import SurveyStep, learned, with_kind
from tempermark.core.metrology.memory.looks import MOST_LOOKS, FoundChanges, Look, Rates
from tempermark.core.metrology.memory.recall import Recalled, recall
from tempermark.core.metrology.memory.today import todays_element
from tempermark.core.metrology.press.calibration import GAIN_BELIEVED
from tempermark.web.kit.forms.moments import CLOCK_SKEW
from tempermark.web.kit.records.prepared import Prepared
from tempermark.web.measure.known.kinds import FEWEST_IN_WHOLE, shapes_of_kind
from tempermark.web.measure.known.rates import days_between, kind_history
from tempermark.web.measure.known.shared import share, shared
from tempermark.web.measure.models import Method, Reading, Station, Survey
from tempermark.web.measure.surveys.grids import SPOT
from tempermark.web.measure.surveys.mapping import Measured, measured
from tempermark.web.presses.history import map_since
from tempermark.web.presses.models import Element

# What is read of surveys to tell how the level moved.
STEP_FIELDS = (
    "set_c",
    "mean_true_c",
    "mean_uncertainty_c",
    "common_uncertainty_c",
    "instrument_id",
)


def _maps(element: int, when: datetime, since: datetime) -> QuerySet[Survey]:
    """Finished maps of an element between two moments, newest first."""
    rows = Survey.objects.filter(element=element, taken_at__lt=when, taken_at__gte=since)
    rows = rows.exclude(finished_at=None).exclude(grid=SPOT)
    rows = rows.exclude(method=Method.STRIP).exclude(mean_true_c=None)
    return rows.order_by("-taken_at", "-pk")


# Every entry of a survey of a known element looks them up.
NEWEST = Prepared(lambda **of: _maps(**of)[:MOST_LOOKS], element=int, when=datetime, since=datetime)
STATIONS = Prepared(
    lambda survey: Station.objects.filter(survey=survey).order_by("order"), survey=int
)
LIVE = Prepared(
    lambda survey: Reading.objects.filter(station__survey=survey, taken_back_at=None).order_by(
        "pk"
    ),
    survey=int,
)
ALWAYS = datetime(1, 1, 2, tzinfo=UTC)


def earlier(element: Element, when: datetime | None = None) -> list[Any]:
    """Finished maps of an element before a moment (now), newest first, the last that covers it
    wholly among them; nothing without one, nor from before it was fitted or mended. Strips only
    bound a temperature: they are left.
    """
    when = when or timezone.now() + CLOCK_SKEW
    since = map_since(element, when) or ALWAYS
    of: dict[str, Any] = {"element": element.pk, "when": when, "since": since}
    found: list[Any] = NEWEST.all(**of)
    _count_readings(found)
    if any(survey.places >= FEWEST_IN_WHOLE for survey in found):
        return found
    # Short surveys alone do not push out the one that they rest on.
    read = Reading.objects.filter(station__survey=OuterRef("pk"), taken_back_at=None)
    places = read.order_by().values("station__survey").annotate(n=Count("station", distinct=True))
    whole = _maps(**of).annotate(places=Subquery(places.values("n")))
    first = list(whole.filter(places__gte=FEWEST_IN_WHOLE)[:1])
    _count_readings(first)
    return [*found[: MOST_LOOKS - 1], *first] if first else []


def _count_readings(surveys: list[Any]) -> None:
    """Say of each survey how many places were read, how many entries there are, and how many of
    them were taken back.
    """
    live, names = Q(taken_back_at=None), ("places", "entries", "taken_back")
    rows = Reading.objects.filter(station__survey__in=surveys).order_by().values("station__survey")
    counted = rows.annotate(
        places=Count("station", filter=live, distinct=True),
        entries=Count("pk"),
        taken_back=Count("pk", filter=~live),
    )
    counts = {pk: row for pk, *row in counted.values_list("station__survey", *names)}
    for survey in surveys:
        for name, count in zip(names, counts.get(survey.pk, (0, 0, 0)), strict=True):
            setattr(survey, name, count)


def is_known(element: Element) -> bool:
    """Whether enough is remembered of an element for a short survey."""
    return bool(earlier(element))


def remembered(computed: Measured) -> Kept | None:
    """What the surveys before one tell of its element at its dial and target; None without any."""
    survey = computed.survey
    before = before_survey(survey)
    if not before:
        return None
    rows = tuple(_row(one, survey) for one in before)
    size = (survey.element.width_mm, survey.element.height_mm)
    rates = _at_dial(_rates(survey), survey)
    return _kept(rows, size, rates, _gun(survey), _shared_error_c(computed, rows))


def before_survey(survey: Survey) -> list[Any]:
    """The maps that a survey rests on, newest first; looked up once for each row that was read."""
    if "before" not in survey.__dict__:
        survey.__dict__["before"] = earlier(survey.element, survey.taken_at)
    return list(survey.__dict__["before"])


def _at_dial(rates: Rates, survey: Survey) -> Rates:
    """The rates where levels are told from the target: presses of a kind lie about their dials. As
    far as the dial is set apart from the target, nothing is said of where the level lies.
    """
    apart_c = survey.set_c - survey.target_c
    level = min(float(np.hypot(rates.kind_level_c, apart_c)), prior.LEVEL_SPREAD_C)
    return replace(rates, kind_level_c=level)


@dataclass(frozen=True)
class _Row:
    """A survey as something that can be looked up."""

    places: tuple[tuple[float, float, float], ...]
    days_ago: float
    repeatability_c: float
    gun: str
    common_c: float
    change: tuple[float, ...]
    all_new: float


def _row(one: Any, now: Survey) -> _Row:
    version = tuple(str(getattr(one, f.attname)) for f in one._meta.concrete_fields)
    values, common_c = _values(one.pk, (one.entries, one.taken_back, *version))
    element = now.element
    # Carried to today's dial; the target is today's.
    moved = GAIN_BELIEVED * (now.set_c - one.set_c) - now.target_c
    places = tuple(
        (x_mm, y_mm, round(true_c + moved, 4))
        for x_mm, y_mm, true_c in values
        if x_mm <= element.width_mm and y_mm <= element.height_mm
    )
    kept = one.memory or {}
    return _Row(
        places,
        round(days_between(one.taken_at, now.taken_at), 3),
        one.repeatability_c,
        _gun(one),
        common_c,
        tuple(kept.get("change", ())),
        float(kept.get("all_new", 0.0)),
    )


def _shared_error_c(computed: Measured, before: tuple[_Row, ...]) -> float:
    """The standard error in K that the readings of a survey share; before the first of them as the
    last survey with its gun had it, else by the instrument alone. In tenths, so that each reading
    finds what the one before it computed.
    """
    survey = computed.survey
    if computed.read:
        return round(computed.common_standard_uncertainty_c, 1)
    own = survey.instrument_uncertainty_c / COVERAGE_FACTOR
    return round(next((row.common_c for row in before if row.gun == _gun(survey)), own), 1)


@lru_cache(maxsize=256)
def _values(
    pk: int, version: tuple[Any, ...]
) -> tuple[tuple[tuple[float, float, float], ...], float]:
    """Places and true °C of a survey's stations, and its readings' common error in K; read once for
    each version of it.
    """
    computed = as_read(Survey.objects.select_related("element__press").get(pk=pk))
    read = tuple((v.station.x_mm, v.station.y_mm, v.true.true_c) for v in computed.read)
    return read, round(computed.common_standard_uncertainty_c, 4)


def as_read(survey: Survey) -> Measured:
    """The survey computed from its live readings alone (two queries)."""
    stations: dict[int, Any] = {station.pk: station for station in STATIONS.all(survey=survey.pk)}
    for station in stations.values():
        station.survey, station.live_readings = survey, []
    for reading in LIVE.all(survey=survey.pk):
        # A station that somebody has added since is for the next time.
        if reading.station_id in stations:
            reading.station = stations[reading.station_id]
            stations[reading.station_id].live_readings.append(reading)
    return measured(survey, list(stations.values()))


def _gun(survey: Survey) -> str:
    """What shares an error with other surveys: the instrument as it was used."""
    if survey.instrument_id is None:
        return ""
    return f"{survey.instrument_id} {survey.method} {survey.comparison_id or ''}"


@lru_cache(maxsize=6)
def _kept(
    rows: tuple[_Row, ...],
    size_mm: tuple[float, float],
    rates: Rates,
    gun: str,
    common_c: float,
) -> Kept:
    """Costs a tenth of a second; every reading of a survey asks for the same, some of them in
    another worker.
    """
    looks = [_look(row, size_mm) for row in rows if row.places]
    name = sha256(repr((rows, size_mm, rates, gun, common_c)).encode()).hexdigest()
    there = shared(name)
    if there is not None:
        return unpacked(there, todays_element(looks, size_mm, rates), gun, common_c)
    kept = keep(looks, size_mm, rates, gun, common_c)
    share(name, packed(kept))
    return kept


def _look(row: _Row, size_mm: tuple[float, float]) -> Look:
    table = np.array(row.places, float)
    is_whole = len(row.change) == len(changes_of(size_mm).kind)
    change = FoundChanges(np.array(row.change), row.all_new) if is_whole else None
    return Look(
        table[:, :2],
        table[:, 2],
        row.days_ago,
        row.repeatability_c,
        row.gun,
        row.common_c,
        change=change,
    )


def _rates(survey: Survey) -> Rates:
    """The rates that a survey was begun with; of one that was not begun as known, those of then."""
    kept = (survey.memory or {}).get("rates")
    if not kept:
        return rates_of(survey.element, survey.taken_at)
    # JSON knows lists only; surveys from before have no chances of the rest.
    lists = {name: tuple(value) for name, value in kept.items() if isinstance(value, list)}
    return Rates(**{**kept, **lists})


def begin(survey: Survey) -> dict[str, Any]:
    """What a survey of a known element is to remember from its start."""
    return {"rates": asdict(rates_of(survey.element, survey.taken_at))}


def rates_of(element: Element, when: datetime) -> Rates:
    """How an element moves, by its own surveys before a moment and those of presses of its kind."""
    rows = Survey.objects.exclude(grid=SPOT).exclude(mean_true_c=None)
    past = kind_history(rows, STEP_FIELDS, element, when, _steps)
    found = learned(past.own, past.of_kind, past.new, past.judged)
    found = with_kind(found, shapes_of_kind(element, when))
    # So that what was computed for one reading serves the next.
    figures = {name: _rounded(value) for name, value in asdict(found).items()}
    return Rates(**figures)


def _rounded(value: Any) -> Any:
    """A figure, or each of several, as far as it matters."""
    if isinstance(value, tuple):
        return tuple(round(one, 3) for one in value)
    return round(value, 3)


def _steps(first: dict[str, Any], then: dict[str, Any], days: float) -> list[SurveyStep]:
    """How the level moved from one survey to the next, K."""
    moved = (then["mean_true_c"] - then["set_c"]) - (first["mean_true_c"] - first["set_c"])
    variance = 0.0
    for row in (first, then):
        common = row["common_uncertainty_c"] or 0.0
        whole = (row["mean_uncertainty_c"] or 0.0) / COVERAGE_FACTOR
        is_same = first["instrument_id"] == then["instrument_id"]
        variance += max(whole**2 - common**2, 0.0) if is_same else whole**2
    return [SurveyStep(days, moved, float(np.sqrt(variance)))]


def note(survey: Survey, computed: Measured) -> dict[str, Any]:
    """What a finished map found to be new, and which surveys that rests on; nothing for the first
    of all. To be kept with the survey.
    """
    kept = computed.kept or remembered(computed)
    if kept is None or not computed.read or survey.method == Method.STRIP:
        return {}
    found = computed.recalled or _recalled(kept, computed)
    change = found.change
    return {
        "unchanged": round(found.unchanged, 4),
        "change": [round(float(chance), 5) for chance in change.chance],
        "all_new": round(change.all_new, 5),
        "rests_on": rests_on(survey),
        **({"rates": asdict(_rates(survey))} if computed.kept else {}),
    }


def _recalled(kept: Kept, computed: Measured) -> Recalled:
    place = np.array([[v.station.x_mm, v.station.y_mm] for v in computed.read])
    value = np.array([v.true.true_c for v in computed.read]) - computed.survey.target_c
    return recall(kept, place, value, computed.survey.repeatability_c)


def later_on(survey: Survey) -> list[Survey]:
    """Finished surveys of the element that rest on one."""
    rows = survey.element.surveys.filter(taken_at__gt=survey.taken_at).exclude(finished_at=None)
    named = rows.filter(memory__rests_on__contains=[{"survey": survey.pk}])
    return list(named.select_related("element__press").order_by("taken_at"))


def rests_on(survey: Survey) -> list[dict[str, Any]]:
    """Which surveys one rests on, with their means, so that a later change of them shows."""
    before = before_survey(survey)
    return [{"survey": one.pk, "mean_c": round(one.mean_true_c, 3)} for one in before]
