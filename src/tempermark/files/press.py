"""tempermark.press/1: heat through the stack over the dwell."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from tempermark.core.constants import DWELL_LIMIT_S
from tempermark.core.thermal.library.materials import REGAIN_AT, materials
from tempermark.core.thermal.library.receivers import receiver_of_material, receivers
from tempermark.core.thermal.result import dye
from tempermark.core.thermal.result.outcome import USUAL_SCORCH_C, Piece, outcome, reached
from tempermark.core.thermal.solver import closing as pressing
from tempermark.core.thermal.solver.closing import Closing
from tempermark.core.thermal.solver.conduction import HeatCourse, Heater
from tempermark.core.thermal.solver.stack import Layer
from tempermark.files.document import Fields, read_format

FORMAT = "tempermark.press/1"
MOST_LAYERS, MOST_SAMPLES, MOST_LEVELS = 20, 1000, 100
THICKNESS_RANGE_MM = (0.001, 200.0)
PRESSURE_RANGE_KPA = (0.0, 5000.0)
CONTACT_RANGE = (0.0, 100.0)
# Explicit properties: solids and foams of the trade with a wide margin.
RANGES = {
    "conductivity_w_mk": (1e-3, 1000.0, " W/mK"),
    "density_kg_m3": (1.0, 25_000.0, " kg/m³"),
    "specific_heat_j_kgk": (50.0, 10_000.0, " J/kgK"),
}


def answer(data: object) -> dict[str, Any]:
    """The command: document in, document out."""
    fields = read_format(data, FORMAT)
    closing, names = closing_from_fields(fields)
    samples, levels = _requested(fields, closing.time_s if closing else None)
    interface = _interface(fields, "dye_interface", len(names))
    polyester = fields.number("polyester", 0, 1, default=1.0)
    receiver = fields.choice("receiver", tuple(receivers()), default=None)
    fields.done()
    course = pressing.press(closing)
    piece = piece_of(names, interface, receiver, polyester) if len(names) > 1 else None
    return to_document(closing, course, len(names), samples, levels, piece)


def closing_from_fields(fields: Fields) -> tuple[Closing, list[str]]:
    """The checked closing at one place, and its layers' names; problems gather in `fields`."""
    initial = fields.temperature("initial_c")
    time_s = fields.number("time_s", 0, DWELL_LIMIT_S, unit=" s", above=True)
    humidity = fields.number("relative_humidity", 0, 1, default=None)
    pressure = fields.number("pressure_kpa", *PRESSURE_RANGE_KPA, default=None, unit=" kPa")
    layers = [_layer(row, humidity) for row in fields.objects("layers", 1, MOST_LAYERS)]
    upper, upper_contact, heater = _upper(fields)
    lower, lower_contact = _lower(fields)
    contacts = _contacts(fields, len(layers), pressure)
    fields.done()
    closing = Closing(
        layers=layers,
        initial_c=initial,
        time_s=time_s,
        upper_c=np.array([upper], float),
        lower_c=None if lower is None else np.array([lower], float),
        pressure_kpa=None if pressure is None else np.array([pressure], float),
        contacts=contacts,
        upper_contact=upper_contact,
        lower_contact=lower_contact,
        heater=heater,
    )
    return closing, [layer.name for layer in layers]


def _layer(row: Fields, humidity: float | None) -> Layer:
    library = materials()
    known = None
    if row.has("material"):
        name = row.choice("material", tuple(library))
        known = library.get(name) if name else None
        if name is None:
            return Layer(1, 1, 1, 1)
    default = {
        name: getattr(known, name) if known else None
        for name in ("thickness_mm", "conductivity_w_mk", "density_kg_m3", "specific_heat_j_kgk")
    }
    thickness = _value(row, "thickness_mm", (*THICKNESS_RANGE_MM, " mm"), default)
    values = {name: _value(row, name, span, default) for name, span in RANGES.items()}
    damp = known.regain * humidity / REGAIN_AT if known and humidity is not None else 0.0
    moisture = row.number("moisture_fraction", 0, 5, default=damp)
    return Layer(
        thickness_mm=thickness,
        moisture_fraction=moisture,
        initial_c=row.temperature("initial_c", default=None),
        name=known.name if known else "",
        **values,
    )


def _value(row: Fields, name: str, span: tuple[float, float, str], default: dict[str, Any]) -> Any:
    low, high, unit = span
    if default[name] is None:
        return row.number(name, low, high, unit=unit)
    return row.number(name, low, high, default=default[name], unit=unit)


def _upper(fields: Fields) -> tuple[Any, ...]:
    upper = fields.object("upper")
    if upper is None:
        return None, 0.0, None
    temperature = upper.temperature("temperature_c")
    contact = upper.number("contact_m2k_per_w", *CONTACT_RANGE, default=0.0)
    given = upper.object("heater", default=None)
    heater = None
    if given is not None:
        heater = Heater(
            given.number("power_w_m2", 0, 1e7, unit=" W/m²"),
            given.number("heat_capacity_j_m2k", 100, 1e7, unit=" J/m²K"),
            given.temperature("set_c"),
        )
    return temperature, contact, heater


def _lower(fields: Fields) -> tuple[Any, ...]:
    lower = fields.object("lower")
    if lower is None:
        return None, 0.0
    contact = lower.number("contact_m2k_per_w", *CONTACT_RANGE, default=0.0)
    if lower.flag("insulated", default=False):
        return None, contact
    return lower.temperature("temperature_c"), contact


def _contacts(fields: Fields, layers: int, pressure: float | None) -> np.ndarray | None:
    if not fields.has("contacts_m2k_per_w"):
        if pressure is None and layers > 1:
            fields.problem(
                "pressure_kpa",
                "is missing: without contacts the pressure tells them",
                "missing_key",
            )
        return None if layers > 1 else np.zeros(0)
    rows = fields.items("contacts_m2k_per_w", layers - 1, max(layers - 1, 0))
    inner = Fields({f"contacts_m2k_per_w[{i}]": v for i, v in enumerate(rows)}, "", fields.problems)
    values = [inner.number(key, *CONTACT_RANGE, unit=" m²K/W") for key in inner.data]
    return np.array(values, float) if None not in values else None


def _interface(fields: Fields, key: str, layers: int) -> int | None:
    value = fields.number(key, 0, max(layers - 2, 0), default=None)
    if value is None:
        return None
    if value != int(value) or layers < 2:
        fields.problem(key, f"is {value:g}; an interface is a whole number from 0 to {layers - 2}")
        return None
    return int(value)


def _requested(fields: Fields, end_s: float | None) -> tuple[Any, ...]:
    samples = _numbers(fields, "samples_s", MOST_SAMPLES, 0.0, end_s or DWELL_LIMIT_S, " s")
    levels = _numbers(fields, "above_c", MOST_LEVELS, -50.0, 600.0, " °C")
    return samples, levels


def _numbers(
    fields: Fields, key: str, most: int, low: float, high: float, unit: str
) -> list[float]:
    values = fields.items(key, 0, most, default=[])
    inner = Fields({f"{key}[{i}]": v for i, v in enumerate(values)}, "", fields.problems)
    return [v for k in inner.data if (v := inner.number(k, low, high, unit=unit)) is not None]


def to_document(
    closing: Closing,
    course: HeatCourse,
    layers: int,
    samples: Sequence[float],
    levels: Sequence[float],
    piece: Piece | None,
) -> dict[str, Any]:
    """The answer for one place. The dose is the clock's; density what the surface makes of it."""
    dyes = piece if piece is not None and piece.is_dye else None
    dose = float(pressing.dose(course, dyes.interface)[0]) if dyes else None
    uptake = float(pressing.over_time(course, dyes.law.at, dyes.interface)[0]) if dyes else 0.0
    document: dict[str, object] = {
        "interfaces": _interfaces(course, layers, samples, levels),
        "dose": dose and round(dose, 6),
        "density": round(float(dye.density(uptake, dyes.share)), 6) if dyes else None,
        "energy_j_m2": {
            "in": round(float(course.energy_in[0]), 3),
            "out": round(float(course.energy_out[0]), 3),
            "stored": round(float(course.stored[0]), 3),
            "evaporated": round(float(course.evaporated[0]), 3),
        },
        "risks": _risks(closing, course, piece),
        "notes": _notes(closing, course, piece),
    }
    if closing.heater is not None:
        document["upper_min_c"] = round(float(course.upper_c.min()), 4)
        document["upper_final_c"] = round(float(course.upper_c[-1, 0]), 4)
    return document


def _interfaces(
    course: HeatCourse, layers: int, samples: Sequence[float], levels: Sequence[float]
) -> list[dict[str, Any]]:
    times = np.array(samples, float)
    below = pressing.at_times(course, times) if len(times) else np.zeros((0, 1, layers - 1))
    above = pressing.at_times(course, times, "above_c") if len(times) else below
    return [
        {
            "between": [i, i + 1],
            "samples": [
                {
                    "t_s": float(t),
                    "c": round(float(below[n, 0, i]), 4),
                    "c_above": round(float(above[n, 0, i]), 4),
                }
                for n, t in enumerate(times)
            ],
            "final_c": round(float(course.below_c[-1, 0, i]), 4),
            "max_c": round(float(course.below_c[:, 0, i].max()), 4),
            "seconds_above_c": {
                f"{level:g}": round(float(pressing.seconds_above(course, level, i)[0]), 4)
                for level in levels
            },
        }
        for i in range(layers - 1)
    ]


def piece_of(
    names: list[str], interface: int | None, receiver: str | None, polyester: float
) -> Piece:
    """The face that is looked at, by its materials: the surface that takes the dye (the clock alone
    where it is not known), a film's adhesive above it, and the limits of what lies below.
    """
    library = materials()
    face = len(names) - 2 if interface is None else interface
    film = next((i for i, name in enumerate(names[:-1]) if _adhesive(name) is not None), None)
    if interface is None and film is not None:
        face = film
    below, above = library.get(names[face + 1]), library.get(names[face])
    adhesive = above.adhesive if above else None
    if adhesive is not None and below is not None:
        adhesive = replace(
            adhesive,
            bonded_kpa_s=below.relief * adhesive.bonded_kpa_s,
            halved_kpa_s=below.relief * adhesive.halved_kpa_s,
        )
    code = receiver or (receiver_of_material(below.name) if below else None)
    surface = receivers()[code] if code else None
    return Piece(
        interface=face,
        share=polyester,
        is_dye=interface is not None,
        adhesive=adhesive,
        scorch_c=(below.scorch_c if below else None) or USUAL_SCORCH_C,
        softens_c=below.softens_c if below else None,
        is_soft=surface.is_soft if surface else True,
        law=surface.law if surface else dye.STARTING,
        spreads_from=surface.spreads_from if surface else dye.BLOWOUT_FROM,
    )


def _adhesive(name: str) -> Any:
    material = materials().get(name)
    return material.adhesive if material else None


def _risks(closing: Closing, course: HeatCourse, piece: Piece | None) -> dict[str, Any]:
    """Scorch, blowout of the dye and squeeze-out of a film, by the one outcome of every page."""
    if piece is None:
        nothing = {"value": 0.0, "because": "one layer has no interface"}
        return {"scorch": nothing, "blowout": nothing, "squeeze_out": nothing}
    kpa = np.ones(1) if closing.pressure_kpa is None else closing.pressure_kpa
    reached_values = reached(course, piece, kpa)
    risks = outcome(reached_values, piece, kpa).risks
    film = None if closing.pressure_kpa is None else piece.adhesive
    scorched, hottest = float(reached_values.scorch[0]), float(reached_values.hottest_c[0])
    return {
        "scorch": _risk(
            float(risks["scorch"][0]),
            f"the face at {hottest:.0f} °C reaches {scorched:.2f} of what begins to mark it; a "
            f"minute at {piece.scorch_c:.0f} °C is 1",
        ),
        "blowout": _risk(
            float(risks["blowout"][0]) if piece.is_dye else 0.0,
            f"uptake {reached_values.uptake[0]:.1f}; gas spreads from {piece.spreads_from:g}"
            if piece.is_dye
            else "no dye",
        ),
        "squeeze_out": _risk(
            float(risks["rim"][0]) if film else 0.0,
            f"{reached_values.flow_kpa_s[0] / film.halved_kpa_s:.2f} of what halves the adhesive's "
            "thickness"
            if film
            else "no film under a known pressure",
        ),
    }


def _risk(value: float, because: str) -> dict[str, Any]:
    return {"value": round(value, 4), "because": because}


def _notes(closing: Closing, course: HeatCourse, piece: Piece | None) -> list[str]:
    notes = []
    if piece is not None and piece.is_dye and piece.law == dye.STARTING:
        notes.append("The receiving surface is not known: density is the clock's, 1 − e^(−dose).")
    left = float(course.water_left.sum())
    if left > 1e-6:
        notes.append(f"{left * 1e3:.1f} g/m² of water is still in the stack.")
    if closing.pressure_kpa is not None and closing.pressure_kpa[0] < 1:
        notes.append("Below 1 kPa the contacts count as at 1 kPa: air and fibres carry the heat.")
    return notes
