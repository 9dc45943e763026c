"""Several steps in a row: each begins as the one before left its layers.

Between closings the press stands open: air above the stack, its layers still warm. A layer is known
again by its key; one that was not there before comes from the room.
"""

from dataclasses import dataclass, replace

import numpy as np

from tempermark.core.thermal.conduction import Course, State
from tempermark.core.thermal.press import Closing, cells_of, press
from tempermark.core.thermal.stack import CONTACT_LEAST_KPA

# From a hot face up into still air, W/m²K (handbook 3, "Cooling and touch": 15–20 at 190 °C).
OPEN_W_M2K = 15.0
# A platen that hovers: still air conducts, and two matte faces some 400 K warm radiate
# 4·ε·σ·T³ = 4 · 0.85 · 5.67e-8 · 400³.
AIR_W_MK, RADIATED_W_M2K = 0.032, 12.3


@dataclass(frozen=True)
class Phase:
    """A stretch of time: the closing (or open stack) and, for each layer, which thing it is."""

    name: str
    closing: Closing
    keys: tuple[str, ...]


def hover_contact_m2k_w(gap_mm: float) -> float:
    """Resistance between a platen and what lies under it at a gap, in m²K/W."""
    return 1.0 / (AIR_W_MK / (gap_mm * 1e-3) + RADIATED_W_M2K)


def opened(closing: Closing, room_c: float, time_s: float, keep: slice = slice(None)) -> Closing:
    """The stack of a closing (or a part of it) under open air, without load."""
    places = len(closing.upper_c)
    return replace(
        closing,
        layers=closing.layers[keep],
        time_s=time_s,
        upper_c=np.full(places, room_c),
        upper_contact=1.0 / OPEN_W_M2K,
        pressure_kpa=np.full(places, CONTACT_LEAST_KPA),
        contacts=None,
        heater=None,
    )


def run_phases(phases: list[Phase]) -> list[Course]:
    """The course of each phase, the same places throughout; each layer keeps its heat and water."""
    held: dict[str, State] = {}
    courses = []
    for phase in phases:
        cells = cells_of(phase.closing)
        places = len(phase.closing.upper_c)
        now = np.tile(cells.initial_c, (places, 1))
        highest = now.copy()
        spans = [slice(a, b + 1) for a, b in zip(cells.first, cells.last, strict=True)]
        for key, span in zip(phase.keys, spans, strict=True):
            past = held.get(key)
            if past is not None and past.now_c.shape[1] == span.stop - span.start:
                now[:, span], highest[:, span] = past.now_c, past.highest_c
        course = press(phase.closing, begins=State(now, highest))
        for key, span in zip(phase.keys, spans, strict=True):
            held[key] = State(course.final_c[:, span], course.highest_c[:, span])
        courses.append(course)
    return courses
