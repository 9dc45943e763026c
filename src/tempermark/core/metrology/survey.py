"""A survey of one element: figures, map, usable area, verdict, next reading.

Contract: formats/commands.md, "survey". Values are true temperatures in °C; places in
mm from the platen's front left corner.
"""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from tempermark.core.constants import DEFAULT_REPEATABILITY_C
from tempermark.core.metrology.map import verdict as decide
from tempermark.core.metrology.map.adaptive import is_decided
from tempermark.core.metrology.map.censored import resolve
from tempermark.core.metrology.map.field import Field, fit_field
from tempermark.core.metrology.map.outlook import Extremes, extremes
from tempermark.core.metrology.map.usable import Grid, Rectangle, largest_rectangle, zones
from tempermark.core.metrology.map.verdict import Draws
from tempermark.core.metrology.memory.kept import Kept
from tempermark.core.metrology.memory.recall import Recalled
from tempermark.core.metrology.memory.steps import look_on
from tempermark.core.metrology.press.dial import KnownDial, dial_setting

FEWEST_FOR_MAP = 4
# A rectangle to keep prints in is shrunk until this sure (interface.md, rule 1).
SURE_FROM = 0.9
# Standard deviations by which a sure rectangle may stay clear of the tolerance.
GUARDS = np.arange(0.0, 3.01, 0.25)


@dataclass(frozen=True)
class TemperatureSurvey:
    """Input: places (n, 2) in mm, true values (n,) in °C, and what was aimed at.

    `seen_c` and `seen_sd_c` (n,) stand in for the values in the map where readings only bound
    the temperature (see `bounded_survey`). `kept` is what earlier surveys tell of the element,
    where it is read as a known one.
    """

    width_mm: float
    height_mm: float
    set_c: float
    target_c: float
    tolerance_c: float
    place_mm: np.ndarray
    value_c: np.ndarray
    repeatability_c: float = DEFAULT_REPEATABILITY_C
    common_standard_uncertainty_c: float = 0.0
    seen_c: np.ndarray | None = None
    seen_sd_c: np.ndarray | None = None
    kept: Kept | None = None


def bounded_survey(
    survey: TemperatureSurvey, low_c: np.ndarray, high_c: np.ndarray
) -> tuple[TemperatureSurvey, np.ndarray]:
    """The survey with readings that bound the temperature to [low, high) (n,) in °C.

    Equal bounds are exact readings; −inf and inf leave a side open. Its values are replaced by
    what the bounds together say of each place. Also gives their standard deviations (n,).
    """
    size = (survey.width_mm, survey.height_mm)
    found = resolve(survey.place_mm, low_c, high_c, survey.target_c, survey.repeatability_c, size)
    changed = replace(survey, value_c=found.value_c, seen_c=found.seen_c, seen_sd_c=found.seen_sd_c)
    return changed, found.value_sd_c


@dataclass(frozen=True)
class Tilt:
    """Slopes of the least-squares plane per 100 mm, in the unit of the values."""

    x_per_100mm: float
    y_per_100mm: float


@dataclass(frozen=True)
class ZoneExtreme:
    """The extreme of one zone out of tolerance."""

    x_mm: float
    y_mm: float
    value_c: float


@dataclass(frozen=True)
class Usable:
    """Where the map is within tolerance, the part that is surely so, and what is not."""

    area_fraction: float
    rectangle: Rectangle | None
    sure_rectangle: Rectangle | None
    sure_probability: float | None
    cold_spots: tuple[ZoneExtreme, ...]
    hot_spots: tuple[ZoneExtreme, ...]


@dataclass(frozen=True)
class SurveyMap:
    """The map and what follows from it; `map_c` (rows, columns) true °C as set."""

    field: Field | Recalled
    grid: Grid
    map_c: np.ndarray
    deviation_sd_c: np.ndarray
    usable: Usable
    usable_after_correction: Usable
    probability_within: float
    next_point: tuple[float, float] | None
    extremes: Extremes

    def true_c(self, place_mm: np.ndarray, target_c: float) -> tuple[np.ndarray, np.ndarray]:
        """True temperatures (m,) as set, and their standard deviations, at (m, 2) mm."""
        mean, spread = self.field.moments(place_mm)
        return target_c + mean, spread


@dataclass(frozen=True)
class SurveyResult:
    """Figures of the readings, and the map where readings allow one."""

    mean_c: float
    min_c: float
    max_c: float
    spread_c: float
    std_c: float | None
    offset_c: float
    tilt: Tilt | None
    corrected_set_c: float
    map: SurveyMap | None
    verdict: str


def plane_tilt(place_mm: np.ndarray, value: np.ndarray) -> Tilt | None:
    """Least-squares plane through values (n,) at (n, 2) mm; None when none is fixed."""
    if not fixes_plane(place_mm):
        return None
    centred = place_mm - place_mm.mean(axis=0)
    slope = np.linalg.lstsq(centred, value - value.mean(), rcond=None)[0]
    return Tilt(float(slope[0] * 100), float(slope[1] * 100))


def fixes_plane(place_mm: np.ndarray) -> bool:
    """Whether at least three places in mm do not lie on one line (within 1e-6 of their span)."""
    if len(place_mm) < 3:
        return False
    singular = np.linalg.svd(place_mm - place_mm.mean(axis=0), compute_uv=False)
    return bool(singular[1] > 1e-6 * max(singular[0], 1e-9))


@dataclass(frozen=True)
class Decision:
    """How sure the verdict is and where to read next, without the map being drawn."""

    field: Field | Recalled
    draws: decide.Draws
    probability_within: float
    next_point: tuple[float, float] | None

    @property
    def is_decided(self) -> bool:
        """Whether no more readings are worth while."""
        return self.next_point is None


def temperature_survey(survey: TemperatureSurvey, rng: np.random.Generator) -> SurveyResult:
    """Everything the survey says. `rng` drives the joint draws behind probabilities."""
    return result_of(survey, decide_survey(survey, rng))


def result_of(survey: TemperatureSurvey, decision: Decision | None) -> SurveyResult:
    """Everything a survey says in °C, K and mm, where the quick part is there already."""
    value = survey.value_c
    mean = float(value.mean())
    if decision is not None and isinstance(decision.field, Recalled):
        # A few places that tell of a change are no fair sample: the mean is that of the map.
        mean = survey.target_c + float(decision.draws.deviation_c.mean())
    tilt = plane_tilt(survey.place_mm, value)
    survey_map = _map(survey, survey.target_c - mean, decision) if decision else None
    return SurveyResult(
        mean_c=mean,
        min_c=float(value.min()),
        max_c=float(value.max()),
        spread_c=float(np.ptp(value)),
        std_c=float(value.std(ddof=1)) if len(value) > 1 else None,
        offset_c=mean - survey.set_c,
        tilt=tilt,
        corrected_set_c=dial_setting(survey.target_c, KnownDial(survey.set_c, mean), None).exact_c,
        map=survey_map,
        verdict=decide.classify(survey_map.probability_within) if survey_map else "undecided",
    )


def decide_survey(survey: TemperatureSurvey, rng: np.random.Generator) -> Decision | None:
    """The quick part of a survey, for the next reading; None while there can be no map."""
    if survey.kept is not None:
        return _decide_known(survey, survey.kept, rng)
    if len(survey.value_c) < FEWEST_FOR_MAP or not fixes_plane(survey.place_mm):
        return None
    size = (survey.width_mm, survey.height_mm)
    seen = survey.value_c if survey.seen_c is None else survey.seen_c
    deviations = seen - survey.target_c
    field = fit_field(survey.place_mm, deviations, survey.repeatability_c, size, survey.seen_sd_c)
    draws = decide.draw_field(field, *size, survey.common_standard_uncertainty_c, rng)
    within = decide.all_within(draws, 0.0, survey.tolerance_c)
    probability = float(within.mean())
    next_point = None
    if not is_decided(probability, len(survey.value_c)):
        next_point = decide.next_place(draws, within, field.noise_c, *size, survey.place_mm)
    return Decision(field, draws, probability, next_point)


def remembered_map(survey: TemperatureSurvey, decision: Decision | None) -> SurveyMap:
    """The map of a known element before its first reading, in K and mm, by what is remembered.
    Raises ValueError where nothing is.
    """
    if survey.kept is None or decision is None:
        raise ValueError("Nothing is remembered.")
    return _map(survey, 0.0, decision)


def _decide_known(survey: TemperatureSurvey, kept: Kept, rng: np.random.Generator) -> Decision:
    seen = survey.value_c if survey.seen_c is None else survey.seen_c
    standing = look_on(
        kept,
        survey.place_mm,
        seen - survey.target_c,
        survey.tolerance_c,
        survey.repeatability_c,
        rng,
        survey.seen_sd_c,
    )
    return Decision(
        standing.recalled, standing.draws, standing.probability_within, standing.next_mm
    )


def _map(survey: TemperatureSurvey, shift_c: float, decision: Decision) -> SurveyMap:
    field, draws = decision.field, decision.draws
    grid = Grid(survey.width_mm, survey.height_mm)
    deviation, spread = (grid.from_nodes(v) for v in field.moments(grid.nodes_mm))
    # What is remembered knows of the shared error itself.
    is_known = isinstance(field, Recalled)
    total = np.hypot(spread, 0.0 if is_known else survey.common_standard_uncertainty_c)
    return SurveyMap(
        field=field.slim() if isinstance(field, Recalled) else field,
        grid=grid,
        map_c=survey.target_c + deviation,
        deviation_sd_c=spread,
        usable=_usable(survey, deviation, total, grid, draws),
        usable_after_correction=_usable(survey, deviation + shift_c, total, grid, draws, shift_c),
        probability_within=decision.probability_within,
        next_point=decision.next_point,
        extremes=extremes(draws),
    )


def _usable(
    survey: TemperatureSurvey,
    deviation: np.ndarray,
    spread: np.ndarray,
    grid: Grid,
    draws: Draws,
    shift_c: float = 0.0,
) -> Usable:
    """From the deviation (rows, columns) in K as it will be after a shift."""
    inside = np.abs(deviation) <= survey.tolerance_c
    sure, probability = _sure_rectangle(deviation, spread, survey.tolerance_c, grid, draws, shift_c)
    return Usable(
        area_fraction=float(inside.mean()),
        rectangle=largest_rectangle(inside, grid),
        sure_rectangle=sure,
        sure_probability=probability,
        cold_spots=_spots(-deviation, survey, grid, -1),
        hot_spots=_spots(deviation, survey, grid, +1),
    )


def _spots(excess: np.ndarray, survey: TemperatureSurvey, grid: Grid, sign: int) -> tuple[Any, ...]:
    """Extremes of the zones where `excess` passes the tolerance, worst first."""
    found = []
    for zone in zones(excess > survey.tolerance_c):
        row, column = zone[np.argmax(excess[zone[:, 0], zone[:, 1]])]
        value = survey.target_c + sign * excess[row, column]
        found.append(ZoneExtreme(float(grid.x_mm[column]), float(grid.y_mm[row]), float(value)))
    return tuple(sorted(found, key=lambda spot: sign * spot.value_c, reverse=True))


def _sure_rectangle(
    deviation: np.ndarray,
    spread: np.ndarray,
    tolerance_c: float,
    grid: Grid,
    draws: Draws,
    shift_c: float,
) -> tuple[Any, ...]:
    """Stay clear of the tolerance by more and more standard deviations until sure enough.

    The least such guard is found by halving: a smaller rectangle is never less sure.
    """
    best: tuple[Rectangle | None, float | None] = (None, None)
    low, high = 0, len(GUARDS) - 1
    while low <= high:
        middle = (low + high) // 2
        clear = np.abs(deviation) + GUARDS[middle] * spread <= tolerance_c
        rectangle = largest_rectangle(clear, grid)
        if rectangle is None:
            high = middle - 1
            continue
        probability = decide.probability_inside(draws, rectangle, shift_c, tolerance_c)
        enough = probability >= SURE_FROM
        if best[1] is None or enough or (best[1] < SURE_FROM and probability > best[1]):
            best = (rectangle, probability)
        low, high = (low, middle - 1) if enough else (middle + 1, high)
    return best
