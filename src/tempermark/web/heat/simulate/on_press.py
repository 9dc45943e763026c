"""A recipe's step on a press: the request as its plate feeds it, and its true temperature there."""

from dataclasses import dataclass, replace
from datetime import datetime

import numpy as np

from tempermark.core.pressing.request import PressRequest, loaded_share
from tempermark.core.recipes.stack_rules import Stacked
from tempermark.web.measure.press.press_temperature import true_temperature
from tempermark.web.presses.models import Element
from tempermark.web.recipes.cards.stacks import stacked_on


def on_element(request: PressRequest, element: Element) -> PressRequest:
    """A request as an element's own plate feeds it."""
    size = (element.width_mm, element.height_mm)
    return replace(request, loaded_share=loaded_share(request.blank, size))


def stacked(request: PressRequest, element: Element) -> Stacked:
    """The stack with this blank on this press, for the rules."""
    kind = request.step.kind
    return stacked_on(element, request.blank, request.stack, request.method, kind, request.humidity)


@dataclass(frozen=True)
class PlatenTemperature:
    """True °C in the middle of an element at a dial, and its standard uncertainty; the dial itself,
    and None, while it was never measured. `over_c` (n,) at the places asked for, None without map.
    """

    true_c: float
    sd_c: float | None
    over_c: np.ndarray | None = None
    gain: float = 1.0


def platen_temperature(
    element: Element, set_c: float, when: datetime, places_mm: np.ndarray | None = None
) -> PlatenTemperature:
    """True temperatures of an element at a dial: in its middle, and at places (n, 2)."""
    middle = np.array([[element.width_mm / 2, element.height_mm / 2]])
    places = middle if places_mm is None else np.vstack([middle, places_mm])
    known = true_temperature(element, places, set_c, when)
    if known is None:
        return PlatenTemperature(set_c, None)
    sd_c = float(known.standard_uncertainty_c[0])
    return PlatenTemperature(float(known.value_c[0]), sd_c, known.value_c[1:], known.gain)


def true_under(element: Element, set_c: float, when: datetime) -> tuple[float, float | None]:
    """True °C in the middle of an element at a dial, and its standard uncertainty."""
    found = platen_temperature(element, set_c, when)
    return found.true_c, found.sd_c
