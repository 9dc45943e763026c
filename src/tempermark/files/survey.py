"""tempermark.survey/1: a survey of temperature or of pull strips."""

from typing import Any, cast

import numpy as np

from tempermark.core.constants import DEFAULT_REPEATABILITY_C, PLATEN_RANGE_MM
from tempermark.core.errors import InputError, Problem
from tempermark.core.metrology.map.usable import Rectangle
from tempermark.core.metrology.survey import (
    SurveyResult,
    TemperatureSurvey,
    Usable,
    ZoneExtreme,
    bounded_survey,
    temperature_survey,
)
from tempermark.core.pressure.map.pulls import PULL_STEPS, PullResult, pull_survey
from tempermark.files import survey_csv
from tempermark.files.document import Fields, read_format

FORMAT = "tempermark.survey/1"
MOST_READINGS = 100_000
# Bounded readings are weighed all against all.
MOST_BOUNDED = 500
# Joint draws are reproducible: the same document always gets the same answer.
SEED = 20_261_124


def answer(data: object) -> dict[str, Any]:
    """The command: document in, document out."""
    fields = read_format(data, FORMAT)
    quantity = fields.choice("quantity", ("temperature", "pull"), default="temperature")
    if quantity == "pull":
        return pull_document(pull_survey(*pull_from_fields(fields)))
    survey = temperature_from_fields(fields)
    return to_document(temperature_survey(survey, np.random.default_rng(SEED)))


def platen_size(fields: Fields) -> tuple[Any, Any]:
    """Width and height of the platen in mm."""
    platen = fields.object("platen")
    if platen is None:
        return None, None
    return (
        platen.number("width_mm", *PLATEN_RANGE_MM, unit=" mm"),
        platen.number("height_mm", *PLATEN_RANGE_MM, unit=" mm"),
    )


def temperature_from_fields(fields: Fields) -> TemperatureSurvey:
    """The checked survey; raises InputError."""
    width, height = platen_size(fields)
    set_c = fields.temperature("set_c")
    target_c = fields.temperature("target_c")
    tolerance = fields.number("tolerance_c", 0, 200, unit=" K", above=True)
    repeatability = fields.number(
        "repeatability_c", 0, 50, default=DEFAULT_REPEATABILITY_C, unit=" K"
    )
    common = fields.number("common_standard_uncertainty_c", 0, 100, default=0.0, unit=" K")
    places, low, high = _readings(fields, width, height)
    fields.done()
    survey = TemperatureSurvey(
        cast(float, width),
        cast(float, height),
        set_c,
        target_c,
        tolerance,
        places,
        low,
        repeatability,
        common,
    )
    return survey if (low == high).all() else bounded_survey(survey, low, high)[0]


def _readings(
    fields: Fields, width: float, height: float
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    if fields.has("readings_csv") and not fields.has("readings"):
        return _csv_readings(fields, width, height)
    rows = fields.objects("readings", 1, MOST_READINGS)
    places = [_place(row, width, height) for row in rows]
    bounds = [_bounds(row) for row in rows]
    if any(row.has("at_least_c") or row.has("below_c") for row in rows):
        _few_enough(fields, len(rows))
    fields.done()
    low, high = np.array(bounds, float).T
    return np.array(places, float), low, high


def _bounds(row: Fields) -> tuple[float | None, float | None]:
    """A reading's `value_c` twice, or its `at_least_c` and `below_c`, one of which may lack."""
    if not (row.has("at_least_c") or row.has("below_c")):
        value = row.temperature("value_c")
        return value, value
    low = row.temperature("at_least_c", default=-np.inf)
    high = row.temperature("below_c", default=np.inf)
    if low is not None and high is not None and low >= high:
        row.problem("below_c", f"is {high:g}, not above at_least_c {low:g}")
    return low, high


def _few_enough(fields: Fields, count: int) -> None:
    if count > MOST_BOUNDED:
        fields.problem(
            "readings", f"holds {count} entries with bounds among them; at most {MOST_BOUNDED}"
        )


def _csv_readings(
    fields: Fields, width: float, height: float
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    text = fields.text("readings_csv")
    fields.done()
    try:
        readings = survey_csv.parse(text, width, height).readings
    except InputError as error:
        raise InputError(
            [Problem("readings_csv", p.message, p.code) for p in error.problems]
        ) from None
    places = np.array([[r.x_mm, r.y_mm] for r in readings], float)
    low = [r.value_c if not r.is_bounded else _open(r.at_least_c, -np.inf) for r in readings]
    high = [r.value_c if not r.is_bounded else _open(r.below_c, np.inf) for r in readings]
    if any(r.is_bounded for r in readings):
        _few_enough(fields, len(readings))
        fields.done()
    return places, np.array(low, float), np.array(high, float)


def _open(bound: float | None, side: float) -> float:
    return side if bound is None else bound


def _place(
    row: Fields, width: float | None, height: float | None
) -> tuple[float | None, float | None]:
    limits = (width or PLATEN_RANGE_MM[1], height or PLATEN_RANGE_MM[1])
    return (
        row.number("x_mm", 0, limits[0], unit=" mm on this platen"),
        row.number("y_mm", 0, limits[1], unit=" mm on this platen"),
    )


def pull_from_fields(fields: Fields) -> tuple[float, float, np.ndarray, np.ndarray]:
    """Platen size, places (n, 2) and steps (n,) of a pull survey; raises InputError."""
    width, height = platen_size(fields)
    rows = fields.objects("readings", 1, MOST_READINGS)
    places = [_place(row, width, height) for row in rows]
    pulls = [row.choice("pull", tuple(PULL_STEPS)) for row in rows]
    fields.done()
    steps = np.array([PULL_STEPS[pull] for pull in pulls])
    return width, height, np.array(places, float), steps


def to_document(result: SurveyResult) -> dict[str, Any]:
    """The answer for a temperature survey."""
    mapped = result.map
    return {
        "mean_c": round(result.mean_c, 4),
        "min_c": round(result.min_c, 4),
        "max_c": round(result.max_c, 4),
        "spread_c": round(result.spread_c, 4),
        "std_c": None if result.std_c is None else round(result.std_c, 4),
        "offset_c": round(result.offset_c, 4),
        "tilt": result.tilt
        and {
            "x_c_per_100mm": round(result.tilt.x_per_100mm, 4),
            "y_c_per_100mm": round(result.tilt.y_per_100mm, 4),
        },
        "corrected_set_c": round(result.corrected_set_c, 4),
        "cold_spots": mapped and [_spot(spot) for spot in mapped.usable.cold_spots],
        "hot_spots": mapped and [_spot(spot) for spot in mapped.usable.hot_spots],
        "usable": mapped and _usable(mapped.usable),
        "usable_after_correction": mapped and _usable(mapped.usable_after_correction),
        "verdict": result.verdict,
        "probability_within": mapped and round(mapped.probability_within, 4),
        "next_point": mapped
        and mapped.next_point
        and {"x_mm": round(mapped.next_point[0], 3), "y_mm": round(mapped.next_point[1], 3)},
        "model": mapped
        and {
            "local_fault_probability": round(mapped.field.fault_probability, 4),
            "noise_c": round(mapped.field.noise_c, 4),
        },
    }


def _spot(spot: ZoneExtreme) -> dict[str, Any]:
    return {
        "x_mm": round(spot.x_mm, 3),
        "y_mm": round(spot.y_mm, 3),
        "value_c": round(spot.value_c, 4),
    }


def _rectangle(rectangle: Rectangle | None) -> dict[str, float] | None:
    if rectangle is None:
        return None
    return {name: round(value, 3) for name, value in vars(rectangle).items()}


def _usable(usable: Usable) -> dict[str, Any]:
    return {
        "area_fraction": round(usable.area_fraction, 4),
        "rectangle": _rectangle(usable.rectangle),
        "sure_rectangle": _rectangle(usable.sure_rectangle),
        "sure_probability": usable.sure_probability,
        "cold_spots": [_spot(spot) for spot in usable.cold_spots],
        "hot_spots": [_spot(spot) for spot in usable.hot_spots],
    }


def pull_document(result: PullResult) -> dict[str, Any]:
    """The answer for a pull survey."""
    return {
        "tilt": result.tilt
        and {
            "x_per_100mm": round(result.tilt.x_per_100mm, 4),
            "y_per_100mm": round(result.tilt.y_per_100mm, 4),
        },
        "weak_side": result.weak_side,
        "hollow": result.hollow,
        "verdict": result.verdict,
    }
