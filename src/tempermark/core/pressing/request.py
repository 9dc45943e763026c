"""What is pressed and how: a blank, a step of a recipe, and the press as it stands."""

from dataclasses import dataclass, replace
from typing import Any

from tempermark.core.pressure.press.contact import middle_kpa
from tempermark.core.recipes.blank_types import BlankType, blank_types
from tempermark.core.recipes.steps import RecipeStep, Sheet
from tempermark.core.thermal.result.dye import Law, LawKnown

ROOM_C = 22.0
# A room and a pad at work: the pad's upper layers have not cooled since the piece before. Starting
# values; the first piece of the day finds the pad at the room's temperature.
USUAL_HUMIDITY, WORKING_PAD_C = 0.5, 60.0
# An ordinary platen, mm, where no press is named.
USUAL_PLATEN_MM = (400.0, 500.0)
# A step whose recipe names no class, kPa: the platen just rests.
RESTING_KPA = 2.0
# How a blank without a coat is described.
UNCOATED = ("", "none")
# Kinds of blank under which the whole platen gives heat: its pad takes what the blank leaves free.
WHOLE_PLATEN = ("garment", "bag", "cap", "mug", "tumbler")


@dataclass(frozen=True)
class BlankProperties:
    """What is printed. Thickness and size in mm, limits in °C and kPa; None is unknown.

    `material` is a code of the library of materials.
    """

    name: str
    kind: str
    material: str
    thickness_mm: float | None = None
    polyester: float | None = None
    colour: str = ""
    coating: str = ""
    features: tuple[str, ...] = ()
    width_mm: float | None = None
    height_mm: float | None = None
    limit_kpa: float | None = None
    scorch_c: float | None = None
    softens_c: float | None = None
    migrates_c: float | None = None

    @property
    def area_m2(self) -> float | None:
        """Its face in m², None where a side is unknown."""
        if not self.width_mm or not self.height_mm:
            return None
        return self.width_mm * self.height_mm * 1e-6


def blank_of(kind: BlankType) -> BlankProperties:
    """A blank as a shipped kind describes it."""
    shared = {
        name: getattr(kind, name) for name in BlankProperties.__dataclass_fields__ if name != "name"
    }
    return BlankProperties(name=kind.label, **shared)


def shipped_blank(code: str) -> BlankProperties:
    """The blank a shipped recipe is written for. Raises KeyError for an unknown code."""
    return blank_of(blank_types()[code])


@dataclass(frozen=True)
class PressRequest:
    """One step pressed once. `stack` in stored entries; temperatures in true °C, pressure in kPa,
    humidity 0–1. `loaded_share` is the share of the platen that the piece takes heat from.

    The law and the factors on contacts and on the sheets' conductivity are what a shop has learned;
    None for the law leaves the surface's own starting law.
    """

    step: RecipeStep
    method: str
    stack: tuple[str, ...]
    blank: BlankProperties
    true_c: float
    dwell_s: float
    kpa: float
    humidity: float = USUAL_HUMIDITY
    pad_c: float = WORKING_PAD_C
    dips: bool = True
    loaded_share: float = 1.0
    law: Law | None = None
    law_known: LawKnown | None = None
    contact_factor: float = 1.0
    sheet_factor: float = 1.0


def as_coated(blank: BlankProperties, sheet: Sheet) -> BlankProperties:
    """A blank as a recipe's main press meets it: a bare one with the coat that it lays on."""
    coating = sheet.lays_coating
    return replace(blank, coating=coating) if coating and blank.coating in UNCOATED else blank


def main_request(
    sheet: Sheet, blank: BlankProperties, school: str = "", **changes: Any
) -> PressRequest:
    """A recipe's main press as a school does it, at the middle of its window unless changed."""
    main = sheet.main_by(school)
    if main.temperature_c is None or main.time_s is None:
        raise ValueError(f"{sheet.name} has no window for its main press.")
    query = {
        "true_c": sum(main.temperature_c) / 2,
        "dwell_s": sum(main.time_s) / 2,
        "kpa": middle_kpa(main.pressure),
        "loaded_share": loaded_share(blank),
    }
    coated = as_coated(blank, sheet)
    return PressRequest(main, sheet.method, main.stack, coated, **(query | changes))


def loaded_share(blank: BlankProperties, platen_mm: tuple[float, float] = USUAL_PLATEN_MM) -> float:
    """Share 0–1 of a platen that a blank takes heat from: cloth lies under all of it, a vessel
    fills its sleeve, a rigid blank loads its own face.
    """
    if blank.kind in WHOLE_PLATEN or blank.area_m2 is None:
        return 1.0
    return min(1.0, blank.area_m2 / (platen_mm[0] * platen_mm[1] * 1e-6))
