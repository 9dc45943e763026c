"""Calibration line of one element: true = offset + gain · set."""

from dataclasses import dataclass

import numpy as np

from tempermark.core.constants import COVERAGE_FACTOR
from tempermark.core.errors import InputError


@dataclass(frozen=True)
class CalibrationLine:
    """The line, and what its uncertainty needs; temperatures in °C."""

    gain: float
    offset_c: float
    count: int
    mean_set_c: float
    set_scatter: float
    residual_c: float | None
    set_range_c: tuple[float, float]

    def true_c(self, set_c: float) -> float:
        """True mean temperature of the element at a setting."""
        return self.offset_c + self.gain * set_c

    def setting_for(self, target_c: float) -> float:
        """The setting that brings the element's true mean to the target."""
        return (target_c - self.offset_c) / self.gain

    def setting_uncertainty_c(self, set_c: float) -> float | None:
        """Expanded uncertainty (k = 2) of a setting; None below three points."""
        if self.residual_c is None:
            return None
        leverage = 1 / self.count + (set_c - self.mean_set_c) ** 2 / self.set_scatter
        return COVERAGE_FACTOR * self.residual_c * float(np.sqrt(leverage)) / self.gain


def calibration_line(set_c: np.ndarray, true_c: np.ndarray) -> CalibrationLine:
    """Least-squares line through (n,) settings and true means, both in °C.

    A single setting: gain 1. (150, 154.2), (175, 180.9), (200, 207.1), (215, 222.4):
    gain 1.05, offset −3.1. Raises InputError when the gain is not positive.
    """
    span = (float(set_c.min()), float(set_c.max()))
    centred = set_c - set_c.mean()
    scatter = float(centred @ centred)
    if np.ptp(set_c) == 0:
        return CalibrationLine(
            1.0, float(np.mean(true_c - set_c)), len(set_c), float(set_c.mean()), 0.0, None, span
        )
    gain = float(centred @ true_c) / scatter
    if gain <= 0:
        raise InputError.single(
            "points",
            "The true temperature does not rise with the setting: "
            "check the points, a press cannot behave so.",
        )
    offset = float(true_c.mean() - gain * set_c.mean())
    residual = true_c - offset - gain * set_c
    count = len(set_c)
    spread = float(np.sqrt(residual @ residual / (count - 2))) if count > 2 else None
    return CalibrationLine(gain, offset, count, float(set_c.mean()), scatter, spread, span)
