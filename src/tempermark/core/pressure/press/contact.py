"""Mean contact pressure: force over loaded area, and the trade's classes.

Equation: p = F/A, F = line pressure · cylinders · π·d²/4.
Range: lines of 0 to 2000 kPa; the trade's classes from 7 to 80 kPa.
Source: mechanics; classes of handbook 1 §3.
"""

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

# Mean contact pressure, kPa (handbook 1 §3); a shop may replace them. Below the trade's light a
# plate only rests: 2 kg on 120 × 120 mm are 1.4 kPa, a hand laid on it brings some more.
CLASS_KPA = {
    "resting": (1.0, 7.0),
    "light": (7.0, 20.0),
    "medium": (20.0, 45.0),
    "firm": (45.0, 80.0),
}
LOWEST_KPA, HIGHEST_KPA = CLASS_KPA["light"][0], CLASS_KPA["firm"][1]
# A shop gauge of accuracy class 2.5 and 1000 kPa full scale errs by up to 25 kPa anywhere on its
# scale (EN 837-1); standard, half of it.
GAUGE_SD_KPA = 12.5
# Below this line pressure the seals' friction decides whether a cylinder closes at all, kPa.
LEAST_LINE_KPA = 100.0
# Force lost to the seals of a cylinder: 0 to 10 %, so 5 % ± 3 % (standard). Starting value.
SEAL_LOSS, SEAL_LOSS_SD = 0.05, 0.03


@dataclass(frozen=True)
class Range:
    """A quantity with the interval that holds it with about 95 %."""

    value: float
    low: float
    high: float


def around(value: float, standard_share: float) -> Range:
    """A positive quantity in any unit (kPa, N) known to a relative standard uncertainty,
    log-normally (k = 2)."""
    factor = float(np.exp(2 * standard_share))
    return Range(value, value / factor, value * factor)


def chance_in(contact: Range, pressure_class: str) -> float:
    """Chance that a log-normal contact pressure with its 95 % interval lies in a class."""
    if contact.value <= 0:
        return 0.0
    spread = max(float(np.log(contact.high / max(contact.low, 1e-3))) / 4, 1e-3)
    ends = np.log(np.array(CLASS_KPA[pressure_class]) / contact.value) / spread
    low, high = ndtr(ends)
    return float(high - low)


def class_of(contact_kpa: float) -> str:
    """The class a contact pressure lies in: resting below 7 kPa, light below 20, medium below 45,
    else firm.
    """
    return next((n for n, (_, high) in CLASS_KPA.items() if contact_kpa < high), "firm")


def middle_kpa(pressure_class: str) -> float:
    """The middle of a class, in kPa: what to aim at."""
    low, high = CLASS_KPA[pressure_class]
    return (low + high) / 2


def cylinder_force_n(line_kpa: float, cylinder_diameter_mm: float, cylinders: int) -> float:
    """Force in N of air cylinders: F = n · p · π d² / 4. 550 kPa on one of 100 mm: 4320 N."""
    return float(cylinders * line_kpa * 1e3 * np.pi * (cylinder_diameter_mm * 1e-3) ** 2 / 4)


def line_for_kpa(
    contact_kpa: float, area_m2: float, cylinder_diameter_mm: float, cylinders: int
) -> float:
    """The line pressure in kPa that gives a mean contact pressure over an area, seals ignored."""
    return contact_kpa * area_m2 / (cylinder_force_n(1.0, cylinder_diameter_mm, cylinders) * 1e-3)


def loaded_area_m2(
    platen_mm: tuple[float, float], blank_mm: tuple[float, float] | None, rigid: bool
) -> float:
    """The area in m² that carries the force: the platen, or the part of a rigid blank under it.

    Sizes are (width, height) in mm. Soft work is pressed by the whole platen, whose pad takes
    what the blank leaves free.
    """
    width, height = platen_mm
    if rigid and blank_mm is not None:
        width, height = min(width, blank_mm[0]), min(height, blank_mm[1])
    return width * height * 1e-6


def contact_kpa(force_n: float, area_m2: float) -> float:
    """Mean contact pressure in kPa. 4320 N over 400 × 500 mm: 21.6 kPa."""
    return force_n / area_m2 * 1e-3
