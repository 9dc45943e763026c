"""Dye: how much is taken up, by a thermally activated first-order uptake (handbook 3, "Dye").

Equation: k(T) = k₀·e^(−E/R·(1/T − 1/473.15 K)); density = share·(1 − e^(−uptake)).
Range: 150 to 230 °C.
Source: handbook 3, “Dye”.
"""

from dataclasses import dataclass
from typing import Any

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

    def at(self, temperature_c: Any) -> Any:
        """k(T) in 1/s at °C (scalar or array)."""
        return self.rate_per_s * np.exp(-self.activation_j_mol * per_activation(temperature_c))


def per_activation(temperature_c: Any) -> Any:
    """(1/T − 1/473.15 K)/R in mol/J: what an activation's share of a rate's exponent is made of."""
    inverse = 1.0 / (np.asarray(temperature_c, float) + ZERO_CELSIUS_K) - 1.0 / DYE_REFERENCE_K
    return inverse / GAS_CONSTANT_J_MOL_K


# The clock by which doses are told (handbook 3, "Dye"); each surface has a law of its own.
STARTING = Law()


@dataclass(frozen=True)
class LawKnown:
    """How well a dye's law is known: standard share of its rate, of its activation in J/mol, and
    the correlation of the two.
    """

    rate_share: float = 0.35
    activation_j_mol: float = 12_000.0
    correlation: float = 0.0

    def drawn(self, law: Law, rng: np.random.Generator) -> Law:
        """One law of those that may hold."""
        first, second = rng.standard_normal(2)
        second = self.correlation * first + np.sqrt(1 - self.correlation**2) * second
        return Law(
            law.rate_per_s * float(np.exp(self.rate_share * first)),
            max(law.activation_j_mol + self.activation_j_mol * float(second), 10_000.0),
        )


# An ink and a surface of which nothing is known but the clock.
UNTAUGHT = LawKnown()


def rate_per_s(temperature_c: Any) -> Any:
    """The starting law's k(T) in 1/s: 3/45 at 200 °C, about half 10 K below."""
    return STARTING.at(temperature_c)


def density(uptake: Any, share: float = 1.0) -> Any:
    """Density 0–1 of an uptake (receptivity × dose) on a share of polyester (1 for a full coat)."""
    return share * (1.0 - np.exp(-np.asarray(uptake, float)))


def equal_dose_time_s(from_c: float, time_s: float, to_c: float, law: Law = STARTING) -> float:
    """Dwell at `to_c` for the dose of `time_s` at `from_c`. 45 s at 200 °C: 122.2 s at 185 °C."""
    return float(time_s * law.at(from_c) / law.at(to_c))
