"""When a pressed piece may be touched: its body cools from both faces in still air.

Equation: τ = ρ·c·L/(h₁ + h₂), then the lumped body of core/thermal/cooling.py.
Range: flat rigid blanks up to some centimetres; contact with a table cools quicker.
Source: handbook 3, “Cooling and touch”: h about 10 W/m²K in still air near hand heat.
"""

from tempermark.core.thermal.cooling import TOUCH_C, cooling_time_s
from tempermark.core.thermal.library.materials import Material

# On each face, W/m²K (handbook 3, “Cooling and touch”).
STILL_AIR_W_M2K = 10.0


def body_constant_s(
    material: Material, thickness_mm: float, surfaces_w_m2k: float = 2 * STILL_AIR_W_M2K
) -> float:
    """τ in s of a flat body with both faces in the air, W/m²K taken together."""
    stored = material.density_kg_m3 * material.specific_heat_j_kgk * thickness_mm / 1000
    return stored / surfaces_w_m2k


def touch_safe_s(
    material: Material, thickness_mm: float, hot_c: float, room_c: float
) -> float | None:
    """Time in s until a piece is below the handling limit of 48 °C; None in a hotter room."""
    return cooling_time_s(hot_c, room_c, TOUCH_C, body_constant_s(material, thickness_mm))
