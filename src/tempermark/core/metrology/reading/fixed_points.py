"""Checking an instrument where nature gives the temperature: melting ice and boiling water.

Equation: log10 p = A − B/(C + T) for boiling, the standard atmosphere for height.
Range: 50 to 110 kPa, heights of −430 to 5500 m.
Source: NIST Chemistry WebBook (Antoine's constants of water); ISO 2533.
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from tempermark.core.errors import InputError, Problem
from tempermark.core.phrases import difference, phrase, temperature

ICE_POINT_C = 0.0
# Antoine's constants for water, 1–100 °C, pressure in mmHg (NIST Chemistry WebBook,
# Stull 1947 as commonly tabulated); within 0.1 K around 100 °C.
ANTOINE_A, ANTOINE_B, ANTOINE_C = 8.07131, 1730.63, 233.426
MMHG_PER_KPA = 7.50061683
# Pressure of the standard atmosphere with height (ISO 2533).
SEA_LEVEL_KPA, LAPSE_PER_M, LAPSE_EXPONENT = 101.325, 2.25577e-5, 5.25588
PRESSURE_RANGE_KPA = (50.0, 110.0)
ALTITUDE_RANGE_M = (-430.0, 5500.0)
# A figure farther than this from the fixed point is a mistake, not a correction.
MOST_CORRECTION_C = 20.0


def boiling_point_c(pressure_kpa: float) -> float:
    """Boiling point of water at an air pressure. 101.325 kPa: 100.0 °C; 90 kPa: 96.7 °C."""
    return float(ANTOINE_B / (ANTOINE_A - np.log10(pressure_kpa * MMHG_PER_KPA)) - ANTOINE_C)


def pressure_at_kpa(altitude_m: float) -> float:
    """Air pressure of the standard atmosphere. 0 m: 101.325 kPa; 1000 m: 89.87 kPa."""
    return float(SEA_LEVEL_KPA * (1 - LAPSE_PER_M * altitude_m) ** LAPSE_EXPONENT)


@dataclass(frozen=True)
class CorrectionTable:
    """Corrections (n,) in K at shown temperatures (n,) in °C, straight in between.

    Beyond its ends the nearest correction is taken; `covers` tells where it was checked.
    """

    shown_c: tuple[float, ...]
    correction_c: tuple[float, ...]

    def at(self, shown_c: np.ndarray) -> np.ndarray:
        """Correction to add (n,) in K at shown temperatures (n,)."""
        return np.asarray(np.interp(shown_c, self.shown_c, self.correction_c))

    def covers(self, shown_c: float) -> bool:
        """Whether the table was checked at both sides of a shown temperature in °C."""
        return self.shown_c[0] <= shown_c <= self.shown_c[-1]


def correction_table(rows: list[tuple[float, float]]) -> CorrectionTable:
    """A table from rows (shown in °C, correction in K) in any order; InputError for equal rows."""
    ordered = sorted(rows)
    problems = [
        Problem(None, phrase("{shown} is twice in the table.", shown=temperature(a[0])))
        for a, b in pairwise(ordered)
        if a[0] == b[0]
    ]
    if not rows:
        problems.append(Problem(None, "The table needs one row at least."))
    if problems:
        raise InputError(problems)
    shown, correction = zip(*ordered, strict=True)
    return CorrectionTable(shown, correction)


def checked(
    ice_shown_c: float | None, boil_shown_c: float | None, boil_true_c: float
) -> CorrectionTable:
    """The table that an ice-point and a boiling-point reading in °C give; either may be missing."""
    rows = []
    for shown, true, name in (
        (ice_shown_c, ICE_POINT_C, "melting ice"),
        (boil_shown_c, boil_true_c, "boiling water"),
    ):
        if shown is None:
            continue
        if abs(true - shown) > MOST_CORRECTION_C:
            raise InputError.single(
                None,
                phrase(
                    "{shown} in {name} of {true}: read again; right is within {most}, or the "
                    "instrument is broken.",
                    shown=temperature(shown),
                    name=name,
                    true=temperature(true, 1),
                    most=difference(MOST_CORRECTION_C),
                ),
            )
        rows.append((shown, true - shown))
    if not rows:
        raise InputError.single(None, "Give the reading in melting ice or in boiling water.")
    return correction_table(rows)
