"""Pressing by hand or lever: a person's weight, and what a paper strip tells.

Equation: strip slides with 2·µ·p·A, tears at σ·width; p = (plate + lean)·g/A.
Range: paper strips of 60 to 120 g/m².
Source: ISO 1924-2 for tensile strength; starting values.
"""

from dataclasses import dataclass

import numpy as np

from tempermark.core.pressure.press.contact import CLASS_KPA, Range, around, class_of

GRAVITY_M_S2 = 9.80665
# Share of the body's weight that leaning on a plate at table height brings to it: from a push
# with straight arms to standing over it. Starting value; its logarithm ± (standard).
LEANED_SHARE, LEANED_SD = 0.4, 0.3
# A person leans on the same plate alike to this once a scale showed it (standard). Starting value.
OWN_LEAN_SD = 0.15
# A grown person nobody weighed, kg.
ANYONE_KG, ANYONE_SD = 75.0, 0.18
# Contact pressure between which a strip of office paper, 20 mm wide with 50 mm under the platen,
# behaves so: pulling slides it with 2 µ p A (µ about 0.4), from a few N, and tears it at about
# 60 N (3 kN/m tensile strength, ISO 1924-2, for 80 g/m²). kPa; ends known to ± 35 % (standard).
STRIP_KPA = {
    "free": (0.0, 2.0),
    "drags": (2.0, 15.0),
    "holds": (15.0, 70.0),
    "tears": (70.0, np.inf),
}
STRIP_SD_SHARE = 0.35
# What contact may be before anybody pulled a strip: ln kPa.
BEFORE_LOG_KPA, BEFORE_SD = np.log(28.0), 0.8


@dataclass(frozen=True)
class PulledClass:
    """A contact pressure told by strips: kPa with interval, and each class's chance."""

    contact_kpa: Range
    chance: dict[str, float]

    @property
    def name(self) -> str:
        """The likeliest class."""
        return max(self.chance, key=self.chance.__getitem__)


def body_weight_kpa(area_m2: float, weight_kg: float | None = None) -> Range:
    """Mean contact pressure in kPa of a person leaning on a plate, with its wide interval.

    75 kg leaning with 40 % on 120 × 120 mm: about 20 kPa, 10 to 41.
    """
    spread = LEANED_SD if weight_kg else float(np.hypot(LEANED_SD, ANYONE_SD))
    value = (weight_kg or ANYONE_KG) * GRAVITY_M_S2 * LEANED_SHARE / area_m2 * 1e-3
    return around(value, spread)


def weight_kpa(mass_kg: float, area_m2: float) -> float:
    """Contact in kPa of a mass that just rests on an area. 2 kg on 120 × 120 mm: 1.4 kPa."""
    return mass_kg * GRAVITY_M_S2 / area_m2 * 1e-3


def leaned_kpa(lean_kg: float, plate_kg: float, area_m2: float) -> Range:
    """Contact in kPa of a plate and of what a scale showed of a person leaning on it."""
    return around(weight_kpa(lean_kg + plate_kg, area_m2), OWN_LEAN_SD)


def lean_kg_for(contact_kpa: float, plate_kg: float, area_m2: float) -> float:
    """What a scale should show in kg besides the plate for a contact in kPa; 0 where the plate is
    enough."""
    return max(0.0, contact_kpa * 1e3 * area_m2 / GRAVITY_M_S2 - plate_kg)


def pulled_class(pulls: list[str]) -> PulledClass:
    """Mean contact pressure from strips pulled over the platen, by how many behaved how.

    Each strip gives a probability of its behaviour for every pressure, its bounds blurred;
    the posterior is taken on a fine lattice of ln p. Strips at one closing share paper and
    arm, so that beyond the first they count as half a strip each.
    """
    log_kpa = np.linspace(np.log(0.5), np.log(400.0), 400)
    log_chance = -0.5 * ((log_kpa - BEFORE_LOG_KPA) / BEFORE_SD) ** 2
    share = (1 + 0.5 * (len(pulls) - 1)) / len(pulls)
    for pull in pulls:
        log_chance = log_chance + share * np.log(_behaves(pull, log_kpa) + 1e-12)
    chance = np.exp(log_chance - log_chance.max())
    chance /= chance.sum()
    summed = np.cumsum(chance)
    low, middle, high = (float(np.exp(np.interp(q, summed, log_kpa))) for q in (0.025, 0.5, 0.975))
    pressures = np.exp(log_kpa)
    named = np.array([class_of(p) for p in pressures])
    return PulledClass(
        Range(middle, low, high), {name: float(chance[named == name].sum()) for name in CLASS_KPA}
    )


def _behaves(pull: str, log_kpa: np.ndarray) -> np.ndarray:
    """Chance that a strip behaves so at each ln kPa."""
    low, high = STRIP_KPA[pull]
    above = _rises(log_kpa, low) if low else np.ones_like(log_kpa)
    return above - (_rises(log_kpa, high) if np.isfinite(high) else 0.0)


def _rises(log_kpa: np.ndarray, bound_kpa: float) -> np.ndarray:
    return np.asarray(1 / (1 + np.exp(-1.7 * (log_kpa - np.log(bound_kpa)) / STRIP_SD_SHARE)))
