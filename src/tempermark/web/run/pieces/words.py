"""What a place on the platen will do to a recipe, in words with numbers."""

from dataclasses import dataclass

from tempermark.core.pressing.window_check import outside_window
from tempermark.core.pressure.press.contact import middle_kpa
from tempermark.core.vocabulary.settings import PRESSURE_CLASSES
from tempermark.web.kit.drawing.places import place_words
from tempermark.web.kit.figures import difference_text, temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.presses.models import Element
from tempermark.web.recipes.models import PressedStep
from tempermark.web.run.pieces.queries import UnderArt

# A degree past a window is nothing (handbook 2, "Ways of reasoning", 1).
GRACE_C = 1.0


@dataclass(frozen=True)
class PlaceSummary:
    """What the art's place will do, and whether that leaves the recipe's window or the plate."""

    text: str
    is_off: bool


def place_summary(
    under: UnderArt | None,
    version: PressedStep | None,
    element: Element,
    units: Units,
    dwell_s: float | None = None,
    pressure: str = "",
) -> PlaceSummary:
    """True temperatures under the art, and where they, the dwell and the pressure leave the
    recipe's window.
    """
    if under is None:
        unknown = (
            f"{element.press.name} has no map yet: the temperature under the art is not known."
        )
        return PlaceSummary(unknown, is_off=True)
    low, high = (temperature_text(v, units) for v in (under.coolest_c, under.hottest_c))
    span = f"{low} true under the art" if low == high else f"{low} to {high} true under the art"
    off = _out_of_window(under, version, element, units) if version else []
    off += _unlike_recipe(version, dwell_s, pressure) if version else []
    summary = "; ".join(off) if off else "inside the window" if version else ""
    hung = " Part of the art hangs over the platen’s edge." if under.past_plate else ""
    return PlaceSummary(f"{span}{': ' if summary else ''}{summary}.{hung}", bool(off or hung))


def _out_of_window(
    under: UnderArt, version: PressedStep, element: Element, units: Units
) -> list[str]:
    cold, hot = version.low_c - under.coolest_c, under.hottest_c - version.high_c
    sentences = []
    if cold > GRACE_C:
        sentences.append(_off(cold, "below", under.coolest_mm, element, units))
    if hot > GRACE_C:
        sentences.append(_off(hot, "above", under.hottest_mm, element, units))
    return sentences


def _unlike_recipe(version: PressedStep, dwell_s: float | None, pressure: str) -> list[str]:
    """Dwell and pressure outside the window; a pressure nobody noted is not counted."""
    kpa = middle_kpa(pressure) if pressure in PRESSURE_CLASSES else None
    sentences = []
    for one in outside_window(version.step, None, dwell_s, kpa):
        if one.what == "dwell":
            low, high = one.window
            sentences.append(f"{one.value:g} s instead of {low:g} to {high:g} s")
        else:
            sentences.append(f"{pressure} pressure instead of {version.pressure}")
    return sentences


def _off(
    by_k: float, side: str, place_mm: tuple[float, float], element: Element, units: Units
) -> str:
    place = place_words(place_mm[0] / element.width_mm, place_mm[1] / element.height_mm)
    return f"{difference_text(by_k, units, sign=False)} {side} the window at the platen’s {place}"
