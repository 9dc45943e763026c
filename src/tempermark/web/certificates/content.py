"""What a certificate says, from its frozen content, in its reader's units."""

from typing import Any

from tempermark.web.certificates.models import Certificate
from tempermark.web.kit.figures import (
    difference_text,
    length_text,
    place_text,
    pressure_text,
    share_text,
    temperature_text,
)
from tempermark.web.kit.units import Units

# Sentences and charts are signed in every pair of units that they speak of.
SHOWN_IN = {
    f"{temperature}-{length}": Units(temperature, length)
    for temperature in ("c", "f")
    for length in ("mm", "in")
}


def shown_in(certificate: Certificate, units: Units) -> dict[str, Any]:
    """Sentences, caption and chart in a reader's units; an older certificate has them in °C and
    mm alone.
    """
    content: dict[str, Any] = certificate.content
    kept: dict[str, Any] = content.get("shown", {})
    return kept.get(f"{units.temperature}-{units.length}", content)


def facts(certificate: Certificate, units: Units) -> list[tuple[str, str]]:
    """The rows of the certificate's table, label and value."""
    content = certificate.content
    survey, head = content["survey"], content["survey"]["survey"]
    signed = certificate.signed_at
    return [
        ("Verdict as set", f"{content['verdict']}, {share_text(_sure(content))} likely to pass"),
        *_kept_row(content, units),
        ("Decision rule", content["decision_rule"]),
        (
            "Setting, target",
            f"{_degrees(survey['set_c'], units)}, {_degrees(survey['target_c'], units)}",
        ),
        ("Tolerance", f"± {_size(survey['tolerance_c'], units, 1)}"),
        (
            "True mean",
            f"{temperature_text(content['mean_c'], units, 1)} ± "
            f"{_size(content['mean_uncertainty_c'], units, 1)} (k = 2)",
        ),
        ("True mean less dial", difference_text(content["offset_c"], units, 1)),
        ("Spread of the readings", _size(content["spread_c"], units, 1)),
        ("Corrected setting", _degrees(content["corrected_set_c"], units)),
        (
            "Standard uncertainties",
            f"shared by all readings {_size(content['common_standard_uncertainty_c'], units, 2)}, "
            f"of one reading {_size(content['noise_c'], units, 2)}",
        ),
        (
            "Instrument",
            f"{head['instrument'] or 'not named'}, ± "
            f"{_size(head['instrument_uncertainty_c'], units, 1)} (k = 2), {head['method']}"
            + (f"; compared: {head['compared']}" if head.get("compared") else ""),
        ),
        *_memory_rows(content),
        *_pressure_row(content, units),
        (
            "Conditions",
            f"ambient {_degrees(head['ambient_c'], units)}, soak {head['soak_min']:g} min",
        ),
        ("Taken", f"{head['taken_at'][:16].replace('T', ' ')} by {head['taken_by']}"),
        ("Signed", f"{signed:%Y-%m-%d %H:%M} by {certificate.signed_by.username}"),
    ]


def _kept_row(content: dict[str, Any], units: Units) -> list[tuple[str, str]]:
    """What is kept where the verdict stays open; an older certificate says nothing of it."""
    if content["verdict"] != "undecided" or "keeps_c" not in content:
        return []
    return [("Keeps as set", f"± {_size(content['keeps_c'], units, 1)}, 95 % sure")]


def _memory_rows(content: dict[str, Any]) -> list[tuple[str, str]]:
    """What a survey of a known element rests on; an older certificate says nothing of it."""
    memory = content.get("memory")
    if not memory:
        return []
    days = ", ".join(one["taken_at"][:10] for one in memory["surveys"])
    return [
        ("Rests also on", f"the surveys of {days}; {_as_then(memory['unchanged'])}"),
        ("Assumption", memory["assumption"]),
    ]


def _as_then(unchanged: float) -> str:
    """Whether it was as the earlier maps say, by a chance 0–1."""
    if unchanged < 0.5:
        return f"not as then, {share_text(1 - unchanged)} sure"
    return f"as then, {share_text(unchanged)} sure"


def readings(content: dict[str, Any], units: Units) -> list[list[str]]:
    """Stations with their true values, three to a line."""
    cells = [
        cell
        for r in content["survey"]["readings"]
        for cell in (
            f"{r['station']} {place_text(r['x_mm'], r['y_mm'], units)}",
            temperature_text(r["value_c"], units, 1),
        )
    ]
    cells += [""] * (-len(cells) % 6)
    return [cells[i : i + 6] for i in range(0, len(cells), 6)]


def _pressure_row(content: dict[str, Any], units: Units) -> list[tuple[str, str]]:
    """The pressure map in one row; certificates from before there were any have none."""
    summary = content.get("pressure")
    if summary is None:
        return []
    hollow = summary["hollow_mm"]
    parts = [
        summary["words"],
        *(
            f"{label} {length_text(summary[f'{key}_mm'], units, 2, sign=True)} ± "
            f"{length_text(2 * summary[f'{key}_sd_mm'], units, 2)}"
            for label, key in (("right − left", "right"), ("back − front", "back"))
        ),
        f"hollow {length_text(hollow, units, 2)}" if hollow else "no hollow",
        f"mean {pressure_text(summary['mean_kpa'], units)} with "
        f"{length_text(summary['stack_mm'], units, 1)} in the press",
        f"{summary['by']}, {summary['taken_at'][:10]}",
    ]
    return [("Pressure", ", ".join(parts)), *_pressure_memory_rows(summary)]


def _pressure_memory_rows(summary: dict[str, Any]) -> list[tuple[str, str]]:
    """What a pressure map by a few strips rests on; an older certificate says nothing of it."""
    memory = summary.get("memory")
    if not memory:
        return []
    strips = ", ".join(f"{one['station']} {one['pull']}" for one in memory["strips"])
    days = ", ".join(one["taken_at"][:10] for one in memory["maps"])
    return [
        ("Pressure strips", strips),
        ("Pressure rests also on", f"the pressure maps of {days}; {_as_then(memory['unchanged'])}"),
        ("Assumption on pressure", memory["assumption"]),
    ]


def _degrees(value_c: float, units: Units) -> str:
    """To a tenth where it is no whole degree."""
    return temperature_text(value_c, units, 0 if abs(value_c - round(value_c)) < 0.05 else 1)


def _size(value_k: float, units: Units, digits: int) -> str:
    return difference_text(value_k, units, digits, sign=False)


def _sure(content: dict[str, Any]) -> float:
    """Never certain: it was drawn by lot."""
    return float(min(0.99, max(0.01, content["probability_within"])))
