"""Dye: how much is taken up, by a thermally activated first-order uptake (handbook 3, "Dye")."""

from dataclasses import dataclass

import numpy as np

from tempermark.core.constants import (
    DYE_ACTIVATION_J_MOL,
    DYE_RATE_PER_S,
    DYE_REFERENCE_K,
    GAS_CONSTANT_J_MOL_K,
    ZERO_CELSIUS_K,
)

# Beyond this dose the surface is full and gas spreads sideways.
BLOWOUT_FROM = 4.0


@dataclass(frozen=True)
class Law:
    """Uptake of one ink on one surface: rate in 1/s at 200 °C and activation in J/mol."""

    rate_per_s: float = DYE_RATE_PER_S
    activation_j_mol: float = DYE_ACTIVATION_J_MOL

    def at(self, temperature_c):
        """k(T) in 1/s at °C (scalar or array)."""
        inverse = 1.0 / (np.asarray(temperature_c, float) + ZERO_CELSIUS_K) - 1.0 / DYE_REFERENCE_K
        return self.rate_per_s * np.exp(-self.activation_j_mol / GAS_CONSTANT_J_MOL_K * inverse)


# The trade's, until a shop's own pieces teach another.
STARTING = Law()


def rate_per_s(temperature_c):
    """The starting law's k(T) in 1/s: 3/45 at 200 °C, about half 10 K below."""
    return STARTING.at(temperature_c)


def density(dose, polyester: float = 1.0):
    """Density 0–1 of a dose on a share of polyester (1 for a full coat)."""
    return polyester * (1.0 - np.exp(-np.asarray(dose, float)))


def equal_dose_time_s(from_c: float, time_s: float, to_c: float, law: Law = STARTING) -> float:
    """Dwell at `to_c` for the dose of `time_s` at `from_c`. 45 s at 200 °C: 122.2 s at 185 °C."""
    return float(time_s * law.at(from_c) / law.at(to_c))
