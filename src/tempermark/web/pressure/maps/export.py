"""Pressure surveys as open files."""

import csv
import io
import json
from typing import Any

from tempermark.web.pressure import mapping, queries
from tempermark.web.pressure.models import PressureSurvey

FORMAT = "tempermark.survey/1"


def to_json(survey: PressureSurvey) -> str:
    """Strips as a document the `survey` command takes; a print's cells beside its header."""
    element = survey.element
    document: dict[str, Any] = {
        "format": FORMAT,
        "quantity": "pull",
        "platen": {"width_mm": element.width_mm, "height_mm": element.height_mm},
        "survey": {
            "press": element.press.name,
            "element": element.name,
            "taken_at": survey.taken_at.isoformat(),
            "stack_mm": survey.stack_mm,
            "pad_mm": survey.pad_mm,
            "quarter_kpa": survey.quarter_kpa,
            "note": survey.note,
        },
    }
    if survey.kind == "print":
        return json.dumps(document | {"quantity": "print"} | _cells(survey), indent=1)
    document["readings"] = [
        {"station": s.label, "x_mm": s.x_mm, "y_mm": s.y_mm, "pull": s.held.pull}
        for s in queries.stations(survey)
        if s.held
    ]
    return json.dumps(document, indent=1)


def _cells(survey: PressureSurvey) -> dict[str, Any]:
    computed = mapping.compute(survey)
    return {
        "film": {
            "most": survey.print.film_most,
            "scale_kpa": survey.print.film_scale_kpa,
            "bar_mm": survey.print.bar_mm,
        },
        "darkness": survey.print.darkness,
        "contact_kpa": [[round(float(v), 3) for v in row] for row in computed.map.contact_kpa],
    }


def to_csv(survey: PressureSurvey) -> str:
    """x, y and pull of each station, or contact pressure of each cell."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    if survey.kind == "print":
        mapped = mapping.compute(survey).map
        writer.writerow(["x_mm", "y_mm", "contact_kpa"])
        for (x, y), kpa in zip(mapped.grid.places_mm, mapped.contact_kpa.ravel(), strict=True):
            writer.writerow([f"{x:.1f}", f"{y:.1f}", f"{kpa:.3f}"])
        return out.getvalue()
    writer.writerow(["x_mm", "y_mm", "pull"])
    for station in queries.stations(survey):
        if station.held:
            writer.writerow([f"{station.x_mm:g}", f"{station.y_mm:g}", station.held.pull])
    return out.getvalue()
