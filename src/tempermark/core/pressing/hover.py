"""A platen hovering over powder or a damp print: what melts or dries, near and far from the hinge.

Heat crosses the gap by radiation and through still air; nothing touches, so nothing bonds. A hinged
platen is nearer at its back: turned half-way, each end gets both gaps.

Equation: q = k/d·ΔT + ε·σ·ΔT⁴; drying by diffusion of vapour over the gap.
Range: gaps of 1 to 100 mm.
Source: Fuller; Magnus (WMO No. 8); starting values.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from tempermark.core.constants import ZERO_CELSIUS_K
from tempermark.core.pressing.closing import closing_of
from tempermark.core.pressing.layout import build_layout
from tempermark.core.pressing.request import PressRequest
from tempermark.core.pressing.verdict import GOOD_FROM
from tempermark.core.thermal.library.materials import Library, Material, materials
from tempermark.core.thermal.solver.closing import over_time
from tempermark.core.thermal.solver.in_a_row import Phase, hover_contact_m2k_w, run_phases

# How much nearer a platen is at its back and farther at its front, as a share of the gap: a hinged
# one stands open at an angle, one that swings or slides is level. Starting values.
TILT = {"clamshell": 0.5, "auto": 0.3}
LEVEL_TILT = 0.1
# Powder runs together to two thirds within this long at its melting, faster by e in 12 K like the
# adhesive it is (handbook 3, "Hot-melt film"); below melting it stays powder. Starting values.
RUNS_TOGETHER_S, FASTER_K, SETS_K = 25.0, 12.0, 1.5
PLACES = ("back", "middle", "front")
# Water of a warm paper in open air diffuses through the gap: D of its vapour in air at 70 °C, m²/s
# (Fuller's correlation), its saturation by Magnus (WMO No. 8), its gas constant in J/kgK.
VAPOUR_M2_S, VAPOUR_J_KGK = 3.3e-5, 461.5
MAGNUS_PA, MAGNUS_A, MAGNUS_C = 611.2, 17.62, 243.12


@dataclass(frozen=True)
class HoverOutcome:
    """At the back, in the middle and at the front (3,): share of the powder melted (or of the water
    driven out of a print), as it lies and turned half-way, and the hottest it gets in °C.
    """

    is_powder: bool
    done: np.ndarray
    done_turned: np.ndarray
    hottest_c: np.ndarray
    gaps_mm: tuple[float, float, float]

    @property
    def is_good(self) -> bool:
        """Whether all of it melts or dries without being turned."""
        return bool((self.done >= GOOD_FROM).all())

    @property
    def is_good_turned(self) -> bool:
        """Whether all of it does when turned half-way."""
        return bool((self.done_turned >= GOOD_FROM).all())


def melting_rate(melts_c: float) -> Callable[..., Any]:
    """Share per second that runs together at °C, as a function of temperature."""

    def rate(temperature_c: np.ndarray) -> np.ndarray:
        above = np.asarray(temperature_c, float) - melts_c
        soft = 1.0 / (1.0 + np.exp(-np.clip(above / SETS_K, -60, 60)))
        return soft * np.exp(np.clip(above / FASTER_K, -60, 5)) / RUNS_TOGETHER_S

    return rate


def hover_outcome(
    request: PressRequest,
    press_kind: str = "clamshell",
    library: Mapping[str, Material] | None = None,
) -> HoverOutcome:
    """What a hovering step does. Raises ValueError for a step that touches."""
    library = library or materials()
    gap = request.step.gap_mm
    if gap is None:
        raise ValueError("A hover needs its gap.")
    tilt = TILT.get(press_kind, LEVEL_TILT)
    gaps = (gap * (1 - tilt), gap, gap * (1 + tilt))
    melts = [library[e.split()[0]].melts_c for e in request.stack if e.split()[0] in library]
    melts_c = next((m for m in melts if m is not None), None)
    whole = [_run(request, library, (g,), melts_c) for g in gaps]
    turned = [_run(request, library, pair, melts_c) for pair in zip(gaps, gaps[::-1], strict=True)]
    return HoverOutcome(
        melts_c is not None,
        np.array([w[0] for w in whole]),
        np.array([t[0] for t in turned]),
        np.array([w[1] for w in whole]),
        gaps,
    )


def drying_rate(gap_mm: float, held_kg_m2: float) -> Callable[..., Any]:
    """Share per second of a paper's water that leaves through a gap at °C: its vapour's density
    above the paper, as much less as the paper has dried, diffuses away.
    """

    def rate(temperature_c: np.ndarray) -> np.ndarray:
        c = np.asarray(temperature_c, float)
        pascal = MAGNUS_PA * np.exp(MAGNUS_A * c / (MAGNUS_C + c))
        density = pascal / (VAPOUR_J_KGK * (c + ZERO_CELSIUS_K))
        return VAPOUR_M2_S / (gap_mm * 1e-3) * density / held_kg_m2

    return rate


def _run(
    request: PressRequest,
    library: Library | dict[str, Material],
    gaps_mm: tuple[float, ...],
    melts_c: float | None,
) -> tuple[float, float]:
    """Share melted (or dried) and the hottest, over equal times at some gaps."""
    layout = build_layout(request, library)
    closing = replace(closing_of(request, layout), time_s=request.dwell_s / len(gaps_mm))
    keys = tuple(f"layer {n}" for n in range(len(layout.layers)))
    phases = [
        Phase("hover", replace(closing, upper_contact=hover_contact_m2k_w(gap)), keys)
        for gap in gaps_mm
    ]
    courses = run_phases(phases)
    top = layout.layers[0]
    held = top.thickness_mm * 1e-3 * top.density_kg_m3 * top.moisture_fraction
    done = 0.0
    for gap, course in zip(gaps_mm, courses, strict=True):
        if melts_c is None and held <= 0:
            continue
        rate = drying_rate(gap, held) if melts_c is None else melting_rate(melts_c)
        done += float(over_time(course, rate, 0)[0])
    if melts_c is None and held <= 0:
        done = np.inf
    hottest = max(float(course.below_c[:, 0, 0].max()) for course in courses)
    return 1 - float(np.exp(-done)), hottest
