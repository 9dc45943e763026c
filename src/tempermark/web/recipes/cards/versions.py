"""What one version of a recipe changed in another, in words."""

from typing import Any

from tempermark.core.recipes.differences import Difference, differences
from tempermark.core.recipes.layers import entry_text
from tempermark.core.recipes.steps import RecipeStep, School, Sheet
from tempermark.web.kit.figures import length_text, temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import in_units

LABELS = {
    "temperature_c": "true temperature",
    "time_s": "dwell",
    "gap_mm": "hovers above",
    "lower_c": "lower platen",
    "do": "what is done",
    "look_for": "look for",
    "blank_kind": "kind of blank",
    "equal_dose": "dwell like the main press",
    "upper_only": "lower platen off",
}


def what_changed(before: Sheet, after: Sheet, units: Units, library: dict[str, Any]) -> list[str]:
    """One sentence a field: `step 3, press: dwell 45–60 s, was 40–60 s`."""
    return [_sentence(one, units, library) for one in differences(before, after)]


def _sentence(one: Difference, units: Units, library: dict[str, Any]) -> str:
    where = f"{one.where}: " if one.where else ""
    if isinstance(one.before or one.after, (RecipeStep, School)):
        return f"{one.where} {'was taken out' if one.after is None else 'is new'}"
    label = LABELS.get(one.name, one.name)
    before, after = (_text(one.name, value, units, library) for value in (one.before, one.after))
    return f"{where}{label} {after}, was {before}"


def _text(name: str, value: Any, units: Units, library: dict[str, Any]) -> str:
    if value is None or value in ("", ()):
        text = "empty"
    elif name in ("temperature_c", "lower_c"):
        text = " to ".join(temperature_text(v, units) for v in value)
    elif name == "time_s":
        text = f"{value[0]:g}–{value[1]:g}\u00a0s"
    elif name == "stack":
        text = in_units(", ".join(entry_text(entry, library) for entry in value), units)
    elif isinstance(value, bool):
        text = "yes" if value else "no"
    elif isinstance(value, tuple):
        text = in_units("; ".join(str(part) for part in value), units)
    else:
        text = length_text(value, units) if name == "gap_mm" else in_units(str(value), units)
    return text
