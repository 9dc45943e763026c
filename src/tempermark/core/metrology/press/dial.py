"""The dial setting for a true temperature: the one place where it is computed."""

from dataclasses import dataclass

import numpy as np

from tempermark.core.constants import COVERAGE_FACTOR

# A controller that says nothing of its steps is set in whole degrees.
USUAL_STEP_C = 1.0


@dataclass(frozen=True)
class KnownDial:
    """True temperature `true_c` at the dial `set_c`, both °C, and the press's gain there (true K
    for each K on the dial), with standard uncertainties (0 where they are not counted).
    """

    set_c: float
    true_c: float
    gain: float = 1.0
    standard_uncertainty_c: float = 0.0
    gain_standard_uncertainty: float = 0.0


@dataclass(frozen=True)
class DialSetting:
    """A dial in °C: `exact_c`, and `set_c` in the controller's steps; `expanded_uncertainty_c` of
    the exact one (k = 2).
    """

    set_c: float
    exact_c: float
    expanded_uncertainty_c: float

    @property
    def interval_c(self) -> tuple[float, float]:
        """Dials in °C between which the exact one lies (k = 2)."""
        reach = self.expanded_uncertainty_c
        return self.exact_c - reach, self.exact_c + reach


def to_step(set_c: float, step_c: float | None) -> float:
    """A dial in °C rounded to the controller's steps in K (1 K where they are unknown)."""
    step = step_c or USUAL_STEP_C
    return round(set_c / step) * step


def dial_setting(target_c: float, known: KnownDial, step_c: float | None) -> DialSetting:
    """The dial that brings a place to a true temperature in °C.

    set = known set + (target − known true) ÷ gain; its standard uncertainty is that of the true
    temperature at the new dial, ÷ gain (Source: first-order propagation; handbook 3, “Dial and
    truth”). Example: true 188 at 195, gain 1.05, target 195: 201.7, in steps of 1 K 202.
    """
    exact = known.set_c + (target_c - known.true_c) / known.gain
    spread = np.hypot(
        known.standard_uncertainty_c, known.gain_standard_uncertainty * (exact - known.set_c)
    )
    expanded = COVERAGE_FACTOR * float(spread) / known.gain
    return DialSetting(to_step(exact, step_c), exact, expanded)
