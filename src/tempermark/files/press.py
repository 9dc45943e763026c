"""tempermark.press/1: heat through the stack over the dwell."""

from collections.abc import Sequence

import numpy as np

from tempermark.core.constants import DWELL_LIMIT_S
from tempermark.core.thermal import dye
from tempermark.core.thermal import press as pressing
from tempermark.core.thermal.conduction import Course, Heater
from tempermark.core.thermal.materials import REGAIN_AT, materials
from tempermark.core.thermal.press import Closing
from tempermark.core.thermal.stack import Layer
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
FILMS = ("film_pu",)


def answer(data: object) -> dict:
    """The command: document in, document out."""
    fields = read_format(data, FORMAT)
    closing, names = closing_from_fields(fields)
    samples, levels = _asked(fields, closing.time_s if closing else None)
    interface = _interface(fields, "dye_interface", len(names))
    polyester = fields.number("polyester", 0, 1, default=1.0)
    fields.done()
    course = pressing.press(closing)
    return to_document(closing, course, names, samples, levels, interface, polyester)


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


def _value(row: Fields, name: str, span, default):
    low, high, unit = span
    if default[name] is None:
        return row.number(name, low, high, unit=unit)
    return row.number(name, low, high, default=default[name], unit=unit)


def _upper(fields: Fields):
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


def _lower(fields: Fields):
    lower = fields.object("lower")
    if lower is None:
        return None, 0.0
    contact = lower.number("contact_m2k_per_w", *CONTACT_RANGE, default=0.0)
    if lower.flag("insulated", default=False):
        return None, contact
    return lower.temperature("temperature_c"), contact


def _contacts(fields: Fields, layers: int, pressure) -> np.ndarray | None:
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


def _asked(fields: Fields, end_s: float | None):
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
    course: Course,
    names: list[str],
    samples: Sequence[float],
    levels: Sequence[float],
    interface: int | None,
    polyester: float,
) -> dict:
    """The answer for one place."""
    dose = None if interface is None else float(pressing.dose(course, interface)[0])
    document: dict[str, object] = {
        "interfaces": _interfaces(course, len(names), samples, levels),
        "dose": dose and round(dose, 6),
        "density": None if dose is None else round(float(dye.density(dose, polyester)), 6),
        "energy_j_m2": {
            "in": round(float(course.energy_in[0]), 3),
            "out": round(float(course.energy_out[0]), 3),
            "stored": round(float(course.stored[0]), 3),
            "evaporated": round(float(course.evaporated[0]), 3),
        },
        "risks": _risks(closing, course, names, interface, dose),
        "notes": _notes(closing, course),
    }
    if closing.heater is not None:
        document["upper_min_c"] = round(float(course.upper_c.min()), 4)
        document["upper_final_c"] = round(float(course.upper_c[-1, 0]), 4)
    return document


def _interfaces(course: Course, layers: int, samples, levels) -> list[dict]:
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


def _risks(closing: Closing, course: Course, names, interface, dose) -> dict:
    """Scorch of the hottest receiving face, blowout of the dye, squeeze-out of a film."""
    if not len(course.below_c[0, 0]):
        nothing = {"value": 0.0, "because": "one layer has no interface"}
        return {"scorch": nothing, "blowout": nothing, "squeeze_out": nothing}
    face = interface if interface is not None else int(course.below_c[-1, 0].argmax())
    scorched = float(pressing.over_time(course, pressing.scorch_rate, face)[0])
    hottest = float(course.below_c[:, 0, face].max())
    pressed = closing.pressure_kpa
    blown = None if dose is None else dose / dye.BLOWOUT_FROM
    film = next((i for i, name in enumerate(names[:-1]) if name in FILMS), None)
    squeezed = None
    if film is not None and pressed is not None:
        squeezed = float(pressing.squeeze(course, film, pressed)[0])
    return {
        "scorch": _risk(
            scorched,
            f"the face at {hottest:.0f} °C reaches {scorched:.2f} of a beginning yellowing",
        ),
        "blowout": _risk(
            blown,
            "no dye"
            if blown is None
            else f"dose {dose:.1f}; gas spreads from {dye.BLOWOUT_FROM:g}",
        ),
        "squeeze_out": _risk(
            squeezed,
            "no film under a known pressure"
            if squeezed is None
            else f"{squeezed:.2f} of what halves the adhesive's thickness",
        ),
    }


def _risk(reached: float | None, because: str) -> dict:
    value = 0.0 if reached is None else float(pressing.risk(reached))
    return {"value": round(value, 4), "because": because}


def _notes(closing: Closing, course: Course) -> list[str]:
    notes = []
    left = float(course.water_left.sum())
    if left > 1e-6:
        notes.append(f"{left * 1e3:.1f} g/m² of water is still in the stack.")
    if closing.pressure_kpa is not None and closing.pressure_kpa[0] < 1:
        notes.append("Below 1 kPa the contacts count as at 1 kPa: air and fibres carry the heat.")
    return notes
