"""Cooling of a piece as one lump, and when it may be touched (handbook 3, "Cooling and touch").

Equation: T(t) = T_a + (T_0 − T_a)·e^(−t/τ), τ = m·c/(h·A).
Range: still air, small pieces (Biot number below 0.1).
Source: ISO 13732-1 for touch; handbook 3, “Cooling and touch”.
"""

import numpy as np

# Burn threshold for contacts of ten minutes, any material (ISO 13732-1).
TOUCH_C = 48.0


def time_constant_s(
    mass_kg: float, specific_heat_j_kgk: float, area_m2: float, surface_w_m2k: float
) -> float:
    """τ = m · c ÷ (h · A) in s."""
    return mass_kg * specific_heat_j_kgk / (surface_w_m2k * area_m2)


def cooling_time_s(from_c: float, ambient_c: float, to_c: float, constant_s: float) -> float | None:
    """Time in s until a piece is at `to_c` °C: τ · ln((T₀ − T_a)/(T − T_a)).

    None where that is not above the room, 0 where the piece is there already.
    """
    if to_c >= from_c:
        return 0.0
    if to_c <= ambient_c:
        return None
    return float(constant_s * np.log((from_c - ambient_c) / (to_c - ambient_c)))
