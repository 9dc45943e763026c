"""Rows of a survey into the core's inputs; the only place that knows both."""

from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any

import numpy as np

from tempermark.core.constants import COVERAGE_FACTOR
from tempermark.core.metrology.map.censored import resolve
from tempermark.core.metrology.memory.kept import Kept
from tempermark.core.metrology.memory.recall import Recalled, prepare_reading
from tempermark.core.metrology.reading.fixed_points import correction_table
from tempermark.core.metrology.reading.reading import (
    InstrumentProperties,
    SpotReadings,
    TrueReading,
    true_reading,
)
from tempermark.core.metrology.survey import (
    Decision,
    SurveyMap,
    SurveyResult,
    TemperatureSurvey,
    bounded_survey,
    decide_survey,
    remembered_map,
    result_of,
)
from tempermark.files.survey import SEED
from tempermark.web.measure.models import Method, Reading, Survey


@dataclass(frozen=True)
class StationValue:
    """A station with its live readings and the true temperature they give.

    `bounds_c` where they only bound it (strips); −inf and inf leave a side open.
    """

    station: Any
    readings: tuple[Reading, ...]
    true: TrueReading | None
    bounds_c: tuple[float, float] | None = None


@dataclass(frozen=True)
class Measured:
    """A survey computed: every station, and what they say together."""

    survey: Survey
    stations: tuple[StationValue, ...]
    common_standard_uncertainty_c: float
    kept: Kept | None = None

    @cached_property
    def result(self) -> SurveyResult | None:
        """Figures, map and verdict; computed when first asked for."""
        read = self.read
        return _result(self._key) if read else None

    @cached_property
    def decision(self) -> Decision | None:
        """How sure the verdict is and where to read next; much quicker than the map."""
        if not self.read and self.kept is None:
            return None
        return _decision(self._key)

    def prepare_next(self) -> None:
        """Work out ahead, of a known element, what its next reading needs whatever it shows."""
        if self.kept is None or not self.left:
            return
        read = np.array([[v.station.x_mm, v.station.y_mm] for v in self.read]).reshape(-1, 2)
        station = self.left[0].station
        at = np.array([station.x_mm, station.y_mm])
        prepare_reading(self.kept, read, at, self.survey.repeatability_c)

    @property
    def drawn(self) -> SurveyMap | None:
        """The map that the chart shows: of a known element before its first reading what is
        remembered, else what the readings say.
        """
        if self.read or self.kept is None:
            return self.result.map if self.result else None
        return _remembered(self._key)

    @property
    def _key(self) -> tuple[Any, ...]:
        return _key(self.survey, self.read, self.common_standard_uncertainty_c, self.kept)

    @property
    def recalled(self) -> Recalled | None:
        """What is remembered after its readings, of a survey of a known element."""
        field = self.decision.field if self.kept is not None and self.decision else None
        return field if isinstance(field, Recalled) else None

    @property
    def mean_true_c(self) -> float | None:
        """Mean of the stations read, without computing a map; of a known element that of its map,
        for its few places are no fair sample.
        """
        if self.recalled is not None and self.decision is not None:
            return self.survey.target_c + float(self.decision.draws.deviation_c.mean())
        return float(np.mean([s.true.true_c for s in self.read])) if self.read else None

    @property
    def read(self) -> list[StationValue]:
        """Stations that have a value."""
        return [s for s in self.stations if s.true is not None]

    @property
    def left(self) -> list[StationValue]:
        """Stations still to be read, in walking order."""
        return [s for s in self.stations if s.true is None]

    @property
    def mean_uncertainty_c(self) -> float:
        """Expanded uncertainty (k = 2) of the mean: common part and scatter of the noise."""
        if self.recalled is not None and self.decision is not None:
            return 2 * float(self.decision.draws.deviation_c.mean(axis=1).std())
        if any(v.bounds_c for v in self.read):
            # What strips leave open is much the same at every station.
            own = [v.true.components["repeatability"] for v in self.read]
            noise = float(np.sqrt(np.mean(np.square(own))))
        else:
            noise = self.survey.repeatability_c / max(1, len(self.read)) ** 0.5
        return 2 * float(np.hypot(self.common_standard_uncertainty_c, noise))


def measured(survey: Survey, stations: list[Any]) -> Measured:
    """Compute a survey from its stations, each with `live_readings` prefetched."""
    if survey.method == Method.STRIP:
        values = _strip_values(survey, stations)
    else:
        values = tuple(_station_value(survey, station) for station in stations)
    read = [v for v in values if v.true is not None]
    common = float(np.mean([v.true.common_c for v in read])) if read else 0.0
    return Measured(survey, values, common)


def instrument(survey: Survey) -> InstrumentProperties:
    """The instrument as the survey's header has it."""
    infrared = survey.method in (Method.PAD, Method.PATCH)
    return InstrumentProperties(
        kind="infrared" if infrared else "contact",
        correction_c=0.0 if survey.method == Method.CORRECTED else survey.correction_c,
        expanded_uncertainty_c=survey.instrument_uncertainty_c,
        emissivity_setting=survey.emissivity_setting,
    )


def spot(survey: Survey, readings: tuple[Reading, ...]) -> SpotReadings:
    """The readings of one station as the core takes them."""
    shown = np.array([r.shown_c for r in readings])
    if survey.corrections:
        shown = shown + correction_table([tuple(c) for c in survey.corrections]).at(shown)
    return SpotReadings(
        instrument=instrument(survey),
        value_c=shown,
        seconds=np.array([r.seconds_after_opening for r in readings]),
        ambient_c=survey.ambient_c,
        surface_emissivity=survey.surface_emissivity,
        surface_emissivity_uncertainty=survey.surface_emissivity_uncertainty,
        repeatability_c=survey.repeatability_c,
        common_covariance=np.array(survey.common_covariance) if survey.common_covariance else None,
    )


def _station_value(survey: Survey, station: Any) -> StationValue:
    readings = tuple(station.live_readings)
    if not readings:
        return StationValue(station, readings, None)
    return StationValue(station, readings, _true(_spot_key(spot(survey, readings))))


def _spot_key(given: SpotReadings) -> tuple[Any, ...]:
    """A spot as something that can be looked up."""
    covariance = given.common_covariance
    return (
        given.instrument,
        tuple(given.value_c),
        tuple(given.seconds),
        given.ambient_c,
        given.surface_emissivity,
        given.surface_emissivity_uncertainty,
        given.repeatability_c,
        None if covariance is None else tuple(covariance.ravel()),
    )


@lru_cache(maxsize=8192)
def _true(key: tuple[Any, ...]) -> TrueReading:
    """A reading never changes, and its budget takes two milliseconds: each is computed once."""
    instrument_, values, seconds, ambient_c, emissivity, unsure, repeatability_c, covariance = key
    common = None if covariance is None else np.array(covariance).reshape(2, 2)
    read = np.array(values), np.array(seconds)
    return true_reading(
        SpotReadings(instrument_, *read, ambient_c, emissivity, unsure, repeatability_c, common)
    )


def _strip_values(survey: Survey, stations: list[Any]) -> tuple[StationValue, ...]:
    """Stations read by strips: what their bounds together say of each place."""
    bounds = [strip_bounds(survey, s.live_readings) for s in stations]
    read = [(s, b) for s, b in zip(stations, bounds, strict=True) if b is not None]
    summary = _resolved(
        (survey.element.width_mm, survey.element.height_mm),
        survey.target_c,
        survey.repeatability_c,
        tuple((s.x_mm, s.y_mm, *b) for s, b in read),
    )
    trues = iter(zip(*summary, strict=True)) if read else iter(())
    found = []
    for station, bound in zip(stations, bounds, strict=True):
        true = None
        if bound is not None:
            value_c, sd_c = next(trues)
            true = _bounded_reading(survey, float(value_c), float(sd_c))
        found.append(StationValue(station, tuple(station.live_readings), true, bound))
    return tuple(found)


def strip_bounds(survey: Survey, readings: list[Reading]) -> tuple[float, float] | None:
    """All of a station's strips together, corrected; None without any."""
    if not readings:
        return None
    each = [_reading_bounds(r) for r in readings]
    low, high = max(b[0] for b in each), min(b[1] for b in each)
    return _corrected(survey, low), _corrected(survey, high)


def _reading_bounds(reading: Reading) -> tuple[float, float]:
    """A plain figure among strips (from a file) bounds from both sides."""
    if reading.at_least_c is None and reading.below_c is None:
        return reading.shown_c, reading.shown_c
    return (
        -np.inf if reading.at_least_c is None else reading.at_least_c,
        np.inf if reading.below_c is None else reading.below_c,
    )


def _corrected(survey: Survey, shown_c: float) -> float:
    if not np.isfinite(shown_c):
        return shown_c
    moved = shown_c + survey.correction_c
    if survey.corrections:
        table = correction_table([tuple(c) for c in survey.corrections])
        moved += float(table.at(np.array([shown_c]))[0])
    return moved


def _bounded_reading(survey: Survey, value_c: float, sd_c: float) -> TrueReading:
    components = {
        "instrument": survey.instrument_uncertainty_c / COVERAGE_FACTOR,
        "emissivity": 0.0,
        "repeatability": sd_c,
        "extrapolation": 0.0,
    }
    return TrueReading(value_c, components, None, ())


@lru_cache(maxsize=128)
def _resolved(
    size_mm: tuple[float, float],
    target_c: float,
    repeatability_c: float,
    rows: tuple[tuple[float, ...], ...],
) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Values (n,) and standard deviations (n,) at stations that bounds were read at."""
    if not rows:
        return (), ()
    table = np.array(rows, float)
    found = resolve(table[:, :2], table[:, 2], table[:, 3], target_c, repeatability_c, size_mm)
    return tuple(found.value_c), tuple(found.value_sd_c)


def _key(
    survey: Survey, read: list[StationValue], common: float, kept: Kept | None
) -> tuple[Any, ...]:
    element = survey.element
    return (
        element.width_mm,
        element.height_mm,
        survey.set_c,
        survey.target_c,
        survey.tolerance_c,
        survey.repeatability_c,
        common,
        tuple(
            (v.station.x_mm, v.station.y_mm, *(v.bounds_c or (v.true.true_c, v.true.true_c)))
            for v in read
        ),
        kept,
    )


@lru_cache(maxsize=64)
def _result(key: tuple[Any, ...]) -> SurveyResult:
    """Computing a map takes tens of milliseconds; pages ask for the same one again."""
    return result_of(_core_survey(key), _decision(key))


@lru_cache(maxsize=12)
def _remembered(key: tuple[Any, ...]) -> SurveyMap:
    """Before the first reading: pages ask for it until then."""
    return remembered_map(_core_survey(key), _decision(key))


# Each holds a thousand draws of the whole element: those of surveys that are being read.
@lru_cache(maxsize=12)
def _decision(key: tuple[Any, ...]) -> Decision | None:
    return decide_survey(_core_survey(key), np.random.default_rng(SEED))


# A page asks for the verdict and for the map of the same readings.
@lru_cache(maxsize=4)
def _core_survey(key: tuple[Any, ...]) -> TemperatureSurvey:
    width, height, set_c, target_c, tolerance, repeatability, common, rows, kept = key
    table = np.array(rows, float).reshape(-1, 4)
    low_c, high_c = table[:, 2], table[:, 3]
    survey = TemperatureSurvey(
        width_mm=width,
        height_mm=height,
        set_c=set_c,
        target_c=target_c,
        tolerance_c=tolerance,
        place_mm=table[:, :2],
        value_c=low_c,
        repeatability_c=repeatability,
        common_standard_uncertainty_c=common,
        kept=kept,
    )
    return survey if (low_c == high_c).all() else bounded_survey(survey, low_c, high_c)[0]
