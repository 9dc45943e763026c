"""Several steps in a row: each begins as the one before left its layers.

Between closings the press stands open: air above the stack, its layers still warm. A layer is known
again by its key; one that was not there before comes from the room.

Equation: open air h = 15 W/m²K; a gap conducts k/d and radiates 4·σ·T³.
Range: gaps of 1 to 100 mm.
Source: handbook 3; Stefan and Boltzmann.
"""

from dataclasses import dataclass, replace

import numpy as np

from tempermark.core.thermal.solver.closing import Closing, cells_of, press
from tempermark.core.thermal.solver.conduction import HeatCourse, HeatState
from tempermark.core.thermal.solver.stack import CONTACT_LEAST_KPA, Layer, contact_m2k_w

# From a hot face up into still air, W/m²K (handbook 3, "Cooling and touch": 15–20 at 190 °C).
OPEN_W_M2K = 15.0
# A platen that hovers: still air conducts, and two matte faces some 400 K warm radiate
# 4·ε·σ·T³ = 4 · 0.85 · 5.67e-8 · 400³.
AIR_W_MK, RADIATED_W_M2K = 0.032, 12.3
# The air's own layer over an open face; dry air at 60 °C.
AIR_MM, AIR_KG_M3, AIR_J_KGK = 0.2, 1.06, 1007.0


@dataclass(frozen=True)
class Phase:
    """A stretch of time: the closing (or open stack) and, for each layer, which thing it is.

    One that runs `meanwhile` takes no time of its own: it goes on beside the one before.
    """

    name: str
    closing: Closing
    keys: tuple[str, ...]
    meanwhile: bool = False


def hover_contact_m2k_w(gap_mm: float) -> float:
    """Resistance between a platen and what lies under it at a gap, in m²K/W."""
    return 1.0 / (AIR_W_MK / (gap_mm * 1e-3) + RADIATED_W_M2K)


def opened(closing: Closing, room_c: float, time_s: float, first: int = 0) -> Closing:
    """What lies open under still air for some s after a closing, from its layer `first` down,
    without load.

    The air is the top layer, so that interface 0 is the open face.
    """
    places = len(closing.upper_c)
    layers = closing.layers[first:]
    air = Layer(AIR_MM, OPEN_W_M2K * AIR_MM * 1e-3, AIR_KG_M3, AIR_J_KGK, initial_c=room_c)
    loose = np.full(len(layers) - 1, float(contact_m2k_w(CONTACT_LEAST_KPA)))
    return replace(
        closing,
        layers=[air, *layers],
        time_s=time_s,
        upper_c=np.full(places, room_c),
        upper_contact=0.0,
        contacts=np.concatenate([[0.0], loose]),
        heater=None,
    )


def run_phases(phases: list[Phase]) -> list[HeatCourse]:
    """The course of each phase, the same places throughout; each layer keeps its heat and water."""
    return [course for _, course in run_with_pasts(phases)]


def run_with_pasts(phases: list[Phase]) -> list[tuple[Closing, HeatCourse]]:
    """Each phase's closing, with the state its cells begin in, and its course."""
    return _run(phases)[0]


def state_after(phases: list[Phase], closing: Closing, keys: tuple[str, ...]) -> HeatState:
    """How a closing's cells begin after some phases: layers known by their keys as those left them,
    others from the room.
    """
    return _begins(closing, keys, _run(phases)[1])


def _run(phases: list[Phase]) -> tuple[list[tuple[Closing, HeatCourse]], dict[str, HeatState]]:
    held: dict[str, HeatState] = {}
    courses = []
    for phase in phases:
        closing = replace(phase.closing, begins=_begins(phase.closing, phase.keys, held))
        course = press(closing)
        for key, span in zip(phase.keys, _spans(phase.closing), strict=True):
            held[key] = HeatState(course.final_c[:, span], course.highest_c[:, span])
        courses.append((closing, course))
    return courses, held


def _begins(closing: Closing, keys: tuple[str, ...], held: dict[str, HeatState]) -> HeatState:
    now = np.tile(cells_of(closing).initial_c, (len(closing.upper_c), 1))
    highest = now.copy()
    for key, span in zip(keys, _spans(closing), strict=True):
        past = held.get(key)
        # A layer of another thickness is another thing.
        if past is not None and past.now_c.shape[1] == span.stop - span.start:
            now[:, span], highest[:, span] = past.now_c, past.highest_c
    return HeatState(now, highest)


def _spans(closing: Closing) -> list[slice]:
    """The cells of each layer."""
    cells = cells_of(closing)
    return [slice(a, b + 1) for a, b in zip(cells.first, cells.last, strict=True)]
