"""Which sleeve is in a press, and whether it holds a vessel."""

from typing import Any

from tempermark.core.errors import InputError
from tempermark.core.pressure.pieces import vessel as vessels
from tempermark.core.vocabulary.things import VESSEL_KINDS
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import error_text, say
from tempermark.web.presses.models import Element, ElementRole
from tempermark.web.recipes.models import Blank


def tube_of(thing: Blank | Element) -> vessels.Tube | None:
    """A vessel or sleeve as a tube; None where a diameter or its height is not noted."""
    top, bottom = thing.top_diameter_mm, thing.bottom_diameter_mm
    top, bottom = top or bottom, bottom or top
    if not top or not bottom or not thing.height_mm:
        return None
    return vessels.Tube(top, bottom, thing.height_mm)


def sleeve_sentence(element: Element, blank: Blank, units: Units) -> tuple[str, bool]:
    """What the sleeve in the press means for a vessel, and whether it needs a hand today; nothing
    for a blank that is no vessel.
    """
    if blank.kind not in VESSEL_KINDS:
        return "", False
    if element.role != ElementRole.SLEEVE:
        return f"{element.press.name} has no sleeve: {blank.name} needs a wrap press.", True
    sleeve, vessel = tube_of(element), tube_of(blank)
    inside = f"In {element.press.name} now: {element.name}"
    if vessel is None or sleeve is None:
        asks = f"How wide is {blank.name} at its top and bottom, and how high?"
        if vessel is not None:
            asks = f"Its diameters are not recorded: does it fit {blank.name}?"
        return f"{inside}. {asks}", True
    return _seated(vessel, sleeve, element, blank, inside, units)


def _seated(
    vessel: Any, sleeve: Any, element: Element, blank: Blank, inside: str, units: Units
) -> tuple[str, bool]:
    try:
        seat = vessels.seat(vessel, sleeve, element.closes_by_mm or vessels.CLOSES_BY_MM)
    except InputError as error:
        return f"{inside}. {error_text(error, units)}", True
    if not seat.fits:
        return f"{inside}, the wrong sleeve for {blank.name}: {say(seat.reason, units)}.", True
    return f"{inside}, which holds {blank.name} without a gap.", False
