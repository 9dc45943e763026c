"""Local fit: what a seam, button or zip takes from the contact beside it.

Under a step of height h the pad is pushed h further than beside it. A sponge's surface does not
jump: on an elastic layer (Vlasov's two-parameter foundation, w = (G/k)·w″ where nothing presses)
it comes back over a length λ = √(G/k). With δ the compression beside the step, the surface leaves
the cloth at once and meets it again, level, at s = λ·arcosh(1 + h/δ): up to there nothing presses.
For a layer of thickness t with a linear course through its depth k = E/t and G = E·t/(6(1 + ν)),
so λ = t/√(6(1 + ν)) (Vlasov and Leontiev, Beams, Plates and Shells on Elastic Foundations, 1966).

Equation: no contact up to λ·arcosh(1 + h/δ).
Range: steps within the pad that is pressed.
Source: Vlasov and Leontiev 1966.
"""

from dataclasses import dataclass

import numpy as np

from tempermark.core.pressure.press.contact import Range
from tempermark.core.pressure.press.spring import SpringPad

# An open sponge hardly widens when it is pressed.
POISSON = 0.1
# A taut cloth or a stiff carrier bridges farther: λ by this factor, up or down (k = 2).
REACH_FACTOR = 1.5


@dataclass(frozen=True)
class Shadow:
    """A step's shadow: mm on each side without contact, and the pressure further out in kPa."""

    height_mm: float
    reach_mm: Range
    contact_kpa: float
    # How far the step itself is pressed into the pad, kPa on it.
    on_step_kpa: float


def reach_length_mm(pad: SpringPad) -> float:
    """λ in mm: how fast the pad's surface recovers beside a step. 8 mm sponge: 3.11 mm."""
    return pad.thickness_mm / float(np.sqrt(6.0 * (1.0 + POISSON)))


def shadow(step_mm: float, pad: SpringPad, contact_kpa: float) -> Shadow:
    """The shadow of a step of a height in mm on a pad pressed at a mean contact pressure.

    Without any pressure there is no contact to lose: then the reach is without end.
    """
    pressed = float(pad.compression_mm(contact_kpa))
    if step_mm <= 0:
        return Shadow(step_mm, Range(0.0, 0.0, 0.0), contact_kpa, contact_kpa)
    if pressed <= 0:
        return Shadow(step_mm, Range(np.inf, np.inf, np.inf), contact_kpa, 0.0)
    reach = reach_length_mm(pad) * float(np.arccosh(1.0 + step_mm / pressed))
    on_step = float(pad.pressure_kpa(pressed + step_mm))
    return Shadow(
        step_mm, Range(reach, reach / REACH_FACTOR, reach * REACH_FACTOR), contact_kpa, on_step
    )


@dataclass(frozen=True)
class ClearedStep:
    """A pillow under the print: its thickness pressed, and what is left of the step, in mm."""

    pressed_mm: float
    left_mm: float
    shadow: Shadow

    @property
    def clears(self) -> bool:
        """Whether the print area stands above the step."""
        return self.left_mm <= 0


def with_pillow(
    step_mm: float, pillow: SpringPad, pad: SpringPad, contact_kpa: float
) -> ClearedStep:
    """A step in mm outside a pillow that lifts the print area: pressed thickness against its
    height.
    """
    pressed = pillow.thickness_mm - float(pillow.compression_mm(contact_kpa))
    left = step_mm - pressed
    return ClearedStep(pressed, left, shadow(max(left, 0.0), pad, contact_kpa))


def thinnest_pillow_mm(step_mm: float, pillow: SpringPad, contact_kpa: float) -> float:
    """Free thickness in mm of the thinnest pillow of a kind that clears a step."""
    pressed_share = 1.0 - float(pillow.compression_mm(contact_kpa)) / pillow.thickness_mm
    return step_mm / pressed_share
