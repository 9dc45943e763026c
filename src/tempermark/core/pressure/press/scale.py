"""A press's own 1 to 9 readout, learned as contact pressure from a few readings."""

from dataclasses import dataclass

import numpy as np

from tempermark.core.errors import InputError
from tempermark.core.pressure.press.contact import Range

SCALE_RANGE = (0.5, 12.0)
MIDDLE = 5.0
# ln p = a + b · ln(s / 5) + c · ln(s / 5)²: what a readout is believed to mean before any reading.
# The middle of the scale is medium, proportional, bent either way; starting values, standard.
BELIEVED = np.array([np.log(32.0), 1.0, 0.0])
BELIEVED_SD = np.array([0.6, 0.35, 0.15])
# How well a reading of contact pressure is known, relative and standard.
READING_SHARE = {"load_cell": 0.05, "film": 0.15, "strips": 0.4}
# Two settings of one figure differ by about this.
REPEAT_SHARE = 0.05


@dataclass(frozen=True)
class ScaleCurve:
    """Contact pressure for a figure on the scale: mean (3,) and covariance (3, 3) of a, b, c."""

    mean: np.ndarray
    covariance: np.ndarray
    readings: int
    learned_range: tuple[float, float] | None

    def contact_kpa(self, figure: float) -> Range:
        """Pressure in kPa with the interval that holds it with about 95 %."""
        shape = _shape(np.array([figure]))[0]
        log_kpa = float(shape @ self.mean)
        sd = float(np.sqrt(shape @ self.covariance @ shape + REPEAT_SHARE**2))
        return Range(
            float(np.exp(log_kpa)), float(np.exp(log_kpa - 2 * sd)), float(np.exp(log_kpa + 2 * sd))
        )

    def figure_for(self, contact_kpa: float) -> float | None:
        """The figure, to a tenth, whose pressure comes nearest one in kPa; None when none gets
        there.
        """
        figures = np.arange(10, 91) / 10
        rising = _shape(figures) @ self.mean - np.log(contact_kpa)
        if rising[0] > 0 or rising[-1] < 0:
            return None
        return float(figures[np.abs(rising).argmin()])

    def is_learned_at(self, figure: float) -> bool:
        """Whether a figure (1–9, unitless) lies among those read."""
        return self.learned_range is not None and (
            self.learned_range[0] - 0.5 <= figure <= self.learned_range[1] + 0.5
        )


def _shape(figure: np.ndarray) -> np.ndarray:
    away = np.log(figure / MIDDLE)
    return np.column_stack([np.ones_like(away), away, away**2])


def learn_scale(figure: np.ndarray, contact_kpa: np.ndarray, share: np.ndarray) -> ScaleCurve:
    """The curve from figures (n,) and pressures (n,) in kPa known to shares (n,), standard.

    Bayesian linear regression in logarithms. Without readings it is what is believed of any
    readout. Raises InputError when the learned curve falls anywhere between 1 and 9.
    """
    prior = np.diag(BELIEVED_SD**-2.0)
    shape = _shape(np.asarray(figure, float))
    weight = 1 / (np.asarray(share, float) ** 2 + REPEAT_SHARE**2)
    precision = prior + (shape * weight[:, None]).T @ shape
    covariance = np.linalg.inv(precision)
    mean = covariance @ (prior @ BELIEVED + shape.T @ (weight * np.log(contact_kpa)))
    curve = _shape(np.linspace(1, 9, 81)) @ mean
    if (np.diff(curve) <= 0).any():
        raise InputError.single(
            "readings",
            "A higher figure would press less by these readings: one of them must be wrong.",
            "falling",
        )
    span = (float(np.min(figure)), float(np.max(figure))) if len(figure) else None
    return ScaleCurve(mean, covariance, len(figure), span)
