"""What a pressure map tells of the place where a piece lay."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

import numpy as np

from tempermark.core.pressure.press.contact import class_of
from tempermark.web.presses.models import Element
from tempermark.web.pressure import mapping, queries
from tempermark.web.pressure.models import PressureSurvey

ART_LINES = 7


@dataclass(frozen=True)
class PressureUnder:
    """The map that held, and the contact under the art in kPa where the press stood as then.

    `thickness_mm` is of the blank the press was last set for, one layer; `is_even` when the map
    passed: neither a weak side nor a hollow.
    """

    survey: PressureSurvey | None
    contact_kpa: float | None
    least_kpa: float | None
    weak_side: bool
    hollow: bool
    thickness_mm: float | None
    is_even: bool = False

    @property
    def name(self) -> str | None:
        """The class at the print's place."""
        return None if self.contact_kpa is None else class_of(self.contact_kpa)


def pressure_under(
    element: Element, art_mm: tuple[float, float, float, float], when: datetime
) -> PressureUnder:
    """What was known at a moment of the pressure under art at (x, y, width, height) in mm.

    The figure counts only while the press was not set anew since the map; level and hollow stay.
    """
    state = queries.state(element.press, when)
    thickness = state.blank.thickness_mm if state and state.blank else None
    survey = queries.latest(element, when)
    computed = mapping.compute(survey) if survey else None
    if computed is None or computed.map is None:
        return PressureUnder(None, None, None, False, False, thickness)
    contact = least = None
    if not queries.set_since(element.press, survey.taken_at, when):
        under = computed.map.at(_places(element, art_mm))
        contact, least = float(under.mean()), float(under.min())
    hollow = computed.hollow is not None and computed.verdict == "fail"
    weak = computed.weak_side is not None
    is_even = computed.verdict == "pass"
    return PressureUnder(survey, contact, least, weak, hollow, thickness, is_even)


def _places(element: Element, art_mm: tuple[Any, ...]) -> np.ndarray:
    x, y, width, height = art_mm
    across = np.clip(np.linspace(x, x + width, ART_LINES), 0, element.width_mm)
    along = np.clip(np.linspace(y, y + height, ART_LINES), 0, element.height_mm)
    return np.column_stack([a.ravel() for a in np.meshgrid(across, along)])
