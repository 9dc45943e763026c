"""Surveys out to open files, so that they come in again unchanged."""

import json
from math import isfinite
from typing import Any

from tempermark.core.constants import EMISSIVITY_RANGE
from tempermark.files import survey as survey_format
from tempermark.files import survey_csv
from tempermark.web.measure.models import Method, Survey
from tempermark.web.measure.surveys.mapping import Measured, StationValue

# Header figures that travel with a survey: name, lowest, highest.
HEADER_NUMBERS = (
    ("correction_c", -100, 100),
    ("instrument_uncertainty_c", 0, 100),
    ("emissivity_setting", *EMISSIVITY_RANGE),
    ("surface_emissivity", *EMISSIVITY_RANGE),
    ("surface_emissivity_uncertainty", 0, 1),
    ("ambient_c", -50, 600),
    ("soak_min", 0, 10_000),
    ("delay_s", 0, 3600),
)


def to_json(computed: Measured) -> str:
    """The survey as a `tempermark.survey/1` document that imports again unchanged."""
    survey = computed.survey
    document = {
        "format": survey_format.FORMAT,
        "quantity": "temperature",
        "platen": {"width_mm": survey.element.width_mm, "height_mm": survey.element.height_mm},
        "set_c": survey.set_c,
        "target_c": survey.target_c,
        "tolerance_c": survey.tolerance_c,
        "repeatability_c": survey.repeatability_c,
        "common_standard_uncertainty_c": round(computed.common_standard_uncertainty_c, 6),
        "readings": [_reading_document(value) for value in computed.read],
        "survey": _header_document(computed),
    }
    return json.dumps(document, ensure_ascii=False, indent=1) + "\n"


def _reading_document(value: StationValue) -> dict[str, Any]:
    station = value.station
    return {
        "x_mm": station.x_mm,
        "y_mm": station.y_mm,
        "value_c": round(value.true.true_c, 4),
        **_bounds_document(*(value.bounds_c or (None, None))),
        "station": station.label,
        "order": station.order,
        "shown": [
            {
                "typed": r.typed,
                "value_c": r.shown_c,
                **_bounds_document(r.at_least_c, r.below_c),
                "seconds_after_opening": r.seconds_after_opening,
            }
            for r in value.readings
        ],
    }


def _compared_document(survey: Survey) -> dict[str, Any]:
    """What a comparison taught, where one counted."""
    if not survey.common_covariance:
        return {}
    compared = str(survey.comparison) if survey.comparison else None
    return {"common_covariance": survey.common_covariance, "compared": compared}


def _bounds_document(low: float | None, high: float | None) -> dict[str, Any]:
    """`at_least_c` and `below_c`, each only where it bounds."""
    both = {"at_least_c": low, "below_c": high}
    return {k: round(v, 4) for k, v in both.items() if v is not None and isfinite(v)}


def _header_document(computed: Measured) -> dict[str, Any]:
    survey = computed.survey
    return {
        "press": survey.element.press.name,
        "element": survey.element.role,
        "taken_at": survey.taken_at.isoformat(),
        "taken_by": survey.taken_by.username,
        "finished": survey.finished_at is not None,
        "grid": survey.grid,
        "method": survey.method,
        **{name: getattr(survey, name) for name, _, _ in HEADER_NUMBERS},
        "instrument": survey.instrument.name if survey.instrument else None,
        "instrument_overdue_days": survey.instrument_overdue_days,
        "corrections": [{"shown_c": s, "correction_c": c} for s, c in survey.corrections],
        **_compared_document(survey),
        "note": survey.note,
        "unread": [
            {
                "station": v.station.label,
                "order": v.station.order,
                "x_mm": v.station.x_mm,
                "y_mm": v.station.y_mm,
            }
            for v in computed.left
        ],
    }


def to_csv(computed: Measured) -> str:
    """True values as CSV, with what a reader needs to know in comment lines."""
    survey = computed.survey
    comments = {
        "press": survey.element.press.name,
        "taken_at": survey.taken_at.isoformat(),
        "set_c": f"{survey.set_c:.10g}",
        "target_c": f"{survey.target_c:.10g}",
        "tolerance_c": f"{survey.tolerance_c:.10g}",
    }
    places = [(v.station.x_mm, v.station.y_mm) for v in computed.read]
    if survey.method == Method.STRIP:
        bounds = [v.bounds_c for v in computed.read]
        return survey_csv.write_bounds(places, bounds, comments)
    rows = [(*p, v.true.true_c) for p, v in zip(places, computed.read, strict=True)]
    return survey_csv.write(rows, comments)
