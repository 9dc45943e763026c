"""Calibration line of one element: true = offset + gain · set."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from tempermark.core.constants import COVERAGE_FACTOR
from tempermark.core.errors import InputError
from tempermark.core.metrology.press.dial import DialSetting, KnownDial, dial_setting


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
        """True mean temperature of the element in °C at a setting in °C."""
        return self.offset_c + self.gain * set_c

    def dial_for(self, target_c: float, step_c: float | None = None) -> DialSetting:
        """The dial in °C that brings the element's true mean to the target."""
        known = KnownDial(self.mean_set_c, self.true_c(self.mean_set_c), self.gain)
        return dial_setting(target_c, known, step_c)

    def setting_uncertainty_c(self, set_c: float) -> float | None:
        """Expanded uncertainty (k = 2) in K of a setting; None below three points."""
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
            "check the points, no press behaves like that.",
        )
    offset = float(true_c.mean() - gain * set_c.mean())
    residual = true_c - offset - gain * set_c
    count = len(set_c)
    spread = float(np.sqrt(residual @ residual / (count - 2))) if count > 2 else None
    return CalibrationLine(gain, offset, count, float(set_c.mean()), scatter, spread, span)


# Before any second setting: controllers are linear to a few percent over a platen's range.
GAIN_BELIEVED, GAIN_SPREAD = 1.0, 0.05
# Two surveys of an unchanged element at one dial agree within about this (standard, K): the
# controller's cycle and the room.
REPRODUCIBILITY_C = 0.5
# Settings closer than this say nothing about the gain.
LEAST_SETTING_SPAN_C = 8.0


@dataclass(frozen=True)
class AnchoredLine:
    """The newest survey of an element, carried to other settings by a gain with its spread.

    `anchor_sd_c` is the newest mean's standard uncertainty with its common part. All in °C.
    """

    anchor_set_c: float
    anchor_true_c: float
    anchor_sd_c: float
    gain: float
    gain_sd: float
    count: int
    set_range_c: tuple[float, float]

    def true_c(self, set_c: Any) -> Any:
        """True mean at a setting (number or array)."""
        return self.anchor_true_c + self.gain * (set_c - self.anchor_set_c)

    def standard_uncertainty_c(self, set_c: Any) -> Any:
        """Of the true mean at a setting: the band is twice this to either side."""
        return np.hypot(self.anchor_sd_c, self.gain_sd * (set_c - self.anchor_set_c))

    def dial_for(self, target_c: float, step_c: float | None = None) -> DialSetting:
        """The dial in °C that brings the true mean to the target, with its interval."""
        known = KnownDial(
            self.anchor_set_c, self.anchor_true_c, self.gain, self.anchor_sd_c, self.gain_sd
        )
        return dial_setting(target_c, known, step_c)


def anchored_line(
    set_c: np.ndarray, true_c: np.ndarray, own_sd_c: np.ndarray, anchor_sd_c: float
) -> AnchoredLine:
    """The line through the newest survey, which stands last among settings and means (n,).

    The gain is the weighted least-squares slope of all, with the prior 1 ± 0.05 (normal, so the
    posterior is exact); `own_sd_c` (n,) are their standard uncertainties without what they share.
    Example: 160 → 155 and 200 → 196, each ± 0.3: gain 1.017 ± 0.019.
    """
    weight = 1 / (np.asarray(own_sd_c) ** 2 + REPRODUCIBILITY_C**2)
    centred = set_c - np.average(set_c, weights=weight)
    information = float(weight @ centred**2)
    believed = 1 / GAIN_SPREAD**2
    precision = information + believed
    gain = (float(weight @ (centred * true_c)) + GAIN_BELIEVED * believed) / precision
    return AnchoredLine(
        anchor_set_c=float(set_c[-1]),
        anchor_true_c=float(true_c[-1]),
        anchor_sd_c=anchor_sd_c,
        gain=max(gain, 2 * GAIN_SPREAD),
        gain_sd=precision**-0.5,
        count=len(set_c),
        set_range_c=(float(set_c.min()), float(set_c.max())),
    )


# What an element's level does between surveys: a little of its own accord, rarely a jump (a loose
# sensor, a knocked controller).
WANDER_C_PER_DAY = 0.02
JUMP_CHANCE, JUMP_SPREAD_C = 0.1, 5.0


def level_shift(difference_c: float, observed_sd_c: float, days: float) -> tuple[float, float]:
    """How far an element's level has moved since a survey, and its standard uncertainty, in K.

    `difference_c`: a later spot check's mean less what the survey says; `observed_sd_c` is that
    difference's own standard uncertainty. Prior: a wander that grows with the days, or with chance
    0.1 a jump (normal, 5 K); the posterior's mean and spread are exact for that mixture. After ten
    days 0.5 K apart ± 1 is taken as 0.13 K, 5 K apart as 4.7 K.
    """
    chance = np.array([1 - JUMP_CHANCE, JUMP_CHANCE])
    wander = REPRODUCIBILITY_C**2 + (WANDER_C_PER_DAY * days) ** 2
    before = np.array([wander, wander + JUMP_SPREAD_C**2])
    whole = before + observed_sd_c**2
    weight = chance * np.exp(-0.5 * difference_c**2 / whole) / np.sqrt(whole)
    weight = weight / weight.sum() if weight.sum() > 0 else np.array([0.0, 1.0])
    moved = difference_c * before / whole
    left = before * observed_sd_c**2 / whole
    mean = float(weight @ moved)
    return mean, float(np.sqrt(weight @ (left + moved**2) - mean**2))
