"""tempermark.reading/1: readings of one spot."""

from typing import Any, cast

import numpy as np

from tempermark.core.constants import EMISSIVITY_RANGE
from tempermark.core.metrology.reading.reading import (
    InstrumentProperties,
    SpotReadings,
    TrueReading,
    true_reading,
)
from tempermark.core.metrology.reading.surfaces import SURFACES
from tempermark.core.phrases import metric
from tempermark.files.document import REQUIRED, Fields, read_format

FORMAT = "tempermark.reading/1"
MOST_READINGS = 1000
LONGEST_DELAY_S = 7200.0


def answer(data: object) -> dict[str, Any]:
    """The command: document in, document out."""
    return to_document(true_reading(from_document(data)))


def from_document(data: object) -> SpotReadings:
    """The checked spot; raises InputError."""
    fields = read_format(data, FORMAT)
    instrument = _instrument(fields.object("instrument"))
    infrared = instrument is not None and instrument.kind == "infrared"
    emissivity, uncertainty = 1.0, 0.0
    if infrared:
        emissivity, uncertainty = _surface(fields)
    ambient = fields.temperature("ambient_c")
    repeatability = fields.number("repeatability_c", 0, 100, default=0.0, unit=" K")
    rows = fields.objects("readings", 1, MOST_READINGS)
    values = [row.temperature("value_c") for row in rows]
    seconds = [
        row.number("seconds_after_opening", 0, LONGEST_DELAY_S, default=0.0, unit=" s")
        for row in rows
    ]
    fields.done()
    return SpotReadings(
        cast(InstrumentProperties, instrument),
        np.array(values),
        np.array(seconds),
        ambient,
        emissivity,
        uncertainty,
        repeatability,
    )


def _surface(fields: Fields) -> tuple[float, float]:
    """Emissivity and its standard uncertainty: as given, else of the named `surface`."""
    named = fields.choice("surface", tuple(SURFACES), default="")
    listed = SURFACES.get(named) if named else None
    usual = listed.emissivity if listed else REQUIRED
    emissivity = fields.number("surface_emissivity", *EMISSIVITY_RANGE, default=usual)
    own = listed.uncertainty if listed and not fields.has("surface_emissivity") else 0.0
    return emissivity, fields.number("surface_emissivity_uncertainty", 0, 1, default=own)


def _instrument(fields: Fields | None) -> InstrumentProperties | None:
    if fields is None:
        return None
    kind = fields.choice("kind", ("infrared", "contact"))
    correction = fields.number("correction_c", -100, 100, default=0.0, unit=" K")
    expanded = fields.number("expanded_uncertainty_c", 0, 100, default=0.0, unit=" K")
    setting = 1.0
    if kind == "infrared":
        setting = fields.number("emissivity_setting", *EMISSIVITY_RANGE)
    return InstrumentProperties(kind, correction, expanded, setting) if kind else None


def to_document(result: TrueReading) -> dict[str, Any]:
    """The answer of the command."""
    document = {
        "true_c": round(result.true_c, 4),
        "expanded_uncertainty_c": round(result.expanded_uncertainty_c, 4),
        "components": {name: round(u, 4) for name, u in result.components.items()},
        "time_constant_s": result.time_constant_s and round(result.time_constant_s, 3),
    }
    if result.notes:
        document["notes"] = [metric(note) for note in result.notes]
    return document
