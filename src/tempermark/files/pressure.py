"""tempermark.pressure/1: contact pressure of cylinders, and turns of a knob."""

from typing import Any, cast

from tempermark.core.constants import PLATEN_RANGE_MM
from tempermark.core.errors import InputError
from tempermark.core.pressure.press.contact import (
    HIGHEST_KPA,
    LOWEST_KPA,
    class_of,
    contact_kpa,
    cylinder_force_n,
    loaded_area_m2,
)
from tempermark.core.pressure.press.knob import (
    CLOCKWISE,
    COUNTERCLOCKWISE,
    LIFT_RANGE_MM,
    Knob,
    turns_for_change,
)
from tempermark.files.document import Fields, read_format
from tempermark.files.survey import platen_size

FORMAT = "tempermark.pressure/1"
LINE_RANGE_KPA = (0.0, 2000.0)
CYLINDER_RANGE_MM = (5.0, 1000.0)
MOST_CYLINDERS = 20
# A stack between platens (formats/commands.md: 20 layers of up to 200 mm).
MOST_THICKNESS_MM = 4000.0
LEAST_BLANK_MM = 1.0


def answer(data: object) -> dict[str, Any]:
    """The command: document in, document out."""
    fields = read_format(data, FORMAT)
    mechanism = fields.choice("mechanism", ("pneumatic", "knob"))
    fields.done()
    return _pneumatic(fields) if mechanism == "pneumatic" else _knob(fields)


def _pneumatic(fields: Fields) -> dict[str, Any]:
    line = fields.number("line_kpa", *LINE_RANGE_KPA, unit=" kPa", above=True)
    diameter = fields.number("cylinder_diameter_mm", *CYLINDER_RANGE_MM, unit=" mm")
    count = fields.number("cylinders", 1, MOST_CYLINDERS, default=1)
    if count is not None and count != int(count):
        fields.problem("cylinders", f"is {count:g}; a whole number is needed")
    most = fields.number("max_line_kpa", *LINE_RANGE_KPA, default=None, unit=" kPa", above=True)
    platen = cast(tuple[float, float], platen_size(fields))
    blank, rigid = _blank(fields)
    fields.done()
    if most is not None and line > most:
        raise InputError.single(
            "line_kpa",
            f"line_kpa is {line:g}, above this press's rated {most:g} kPa: never dial more.",
            "above_rating",
        )
    force = cylinder_force_n(line, diameter, int(count))
    contact = contact_kpa(force, loaded_area_m2(platen, blank, rigid))
    return {
        "force_n": round(force, 3),
        "contact_kpa": round(contact, 4),
        # The command's classes begin with light (formats/commands.md); a note tells of less.
        "class": class_of(max(contact, LOWEST_KPA)),
        "notes": _notes(contact, blank, rigid, platen),
    }


def _blank(fields: Fields) -> tuple[tuple[float, float] | None, bool]:
    blank = fields.object("blank", default=None)
    if blank is None:
        return None, False
    sizes = tuple(
        blank.number(key, LEAST_BLANK_MM, PLATEN_RANGE_MM[1], unit=" mm")
        for key in ("width_mm", "height_mm")
    )
    return sizes, bool(blank.flag("rigid", default=False))


def _notes(
    contact: float, blank: tuple[float, float] | None, rigid: bool, platen: tuple[float, float]
) -> list[str]:
    notes = []
    if contact < LOWEST_KPA:
        notes.append(f"{contact:.1f} kPa is below light (from {LOWEST_KPA:g} kPa).")
    elif contact > HIGHEST_KPA:
        notes.append(f"{contact:.1f} kPa is above firm (up to {HIGHEST_KPA:g} kPa): dial less.")
    if rigid and blank and (blank[0] < platen[0] or blank[1] < platen[1]):
        notes.append("A rigid blank smaller than the platen takes all of the force.")
    return notes


def _knob(fields: Fields) -> dict[str, Any]:
    lift = fields.number("lift_mm_per_turn", *LIFT_RANGE_MM, unit=" mm")
    tightens = fields.choice("tightens", (CLOCKWISE, COUNTERCLOCKWISE))
    before, after = (
        fields.number(key, 0, MOST_THICKNESS_MM, unit=" mm")
        for key in ("from_thickness_mm", "to_thickness_mm")
    )
    fields.done()
    tightened = turns_for_change(lift, before, after)
    action = "none" if tightened == 0 else "tighten" if tightened > 0 else "loosen"
    return {
        "turns": round(abs(tightened), 4),
        "action": action,
        "rotate": Knob(lift, tightens).rotation(tightened),
    }
