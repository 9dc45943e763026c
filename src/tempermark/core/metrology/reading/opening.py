"""Back to the moment of opening: a pad cools while one reads it.

T(t) = T_a + (T_0 − T_a)·exp(−t/τ), τ and T_0 by least squares on the temperatures
(handbook 3, "Radiation thermometry").

Equation: T(t) = T_a + (T_0 − T_a)·e^(−t/τ), least squares in T.
Range: T_0 at most 20 K above the first reading; beyond it the reading says so.
Source: lumped cooling (handbook 1 §2).
"""

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Opening:
    """Temperature at opening; `time_constant_s` None where nothing was extrapolated."""

    temperature_c: float
    time_constant_s: float | None
    fit_standard_uncertainty_c: float


def at_opening(value_c: np.ndarray, seconds: np.ndarray, ambient_c: float) -> Opening:
    """The temperature at t = 0 from readings (n,) in °C at `seconds` after opening.

    Not extrapolated (their mean, time constant None) with a single reading, equal
    times, or values that do not fall or not stay above ambient. Two falling readings
    fix the curve exactly; of three and more the residuals give the uncertainty.
    """
    start = _starting_curve(value_c, seconds, ambient_c)
    if start is None:
        return Opening(float(np.mean(value_c)), None, 0.0)
    excess_c, rate_per_s = _least_squares(value_c - ambient_c, seconds, *start)
    if not (np.isfinite(excess_c) and rate_per_s > 0 and excess_c > 0):
        return Opening(float(np.mean(value_c)), None, 0.0)
    spread = _fit_uncertainty(value_c - ambient_c, seconds, excess_c, rate_per_s)
    return Opening(float(ambient_c + excess_c), float(1 / rate_per_s), spread)


def _starting_curve(
    value_c: np.ndarray, seconds: np.ndarray, ambient_c: float
) -> tuple[float, float] | None:
    """Excess and rate of the log-linear fit, or None where no decay can be read."""
    excess = value_c - ambient_c
    if len(value_c) < 2 or np.ptp(seconds) <= 0 or np.any(excess <= 0):
        return None
    centred = seconds - seconds.mean()
    if centred @ value_c >= 0:
        return None
    rate = -(centred @ np.log(excess)) / (centred @ centred)
    if rate <= 0:
        return None
    level = np.exp(np.log(excess).mean() + rate * seconds.mean())
    return level, rate


def _least_squares(
    excess: np.ndarray, seconds: np.ndarray, level: float, rate: float, rounds: int = 50
) -> np.ndarray:
    """Gauss–Newton on the temperatures themselves, step halved where it would worsen."""
    params = np.array([level, rate])
    residual = excess - _curve(params, seconds)
    for _ in range(rounds):
        step = np.linalg.lstsq(_jacobian(params, seconds), residual, rcond=None)[0]
        for _ in range(20):
            trial = params + step
            trial_residual = excess - _curve(trial, seconds)
            if trial_residual @ trial_residual <= residual @ residual:
                break
            step = step / 2
        else:
            break
        params, residual = trial, trial_residual
        if np.all(np.abs(step) < 1e-12 * np.abs(params)):
            break
    return params


def _curve(params: np.ndarray, seconds: np.ndarray) -> np.ndarray:
    return np.asarray(params[0] * np.exp(-np.clip(params[1] * seconds, -700, 700)))


def _jacobian(params: np.ndarray, seconds: np.ndarray) -> np.ndarray:
    fall = np.exp(-np.clip(params[1] * seconds, -700, 700))
    return np.column_stack([fall, -params[0] * seconds * fall])


def _fit_uncertainty(excess: np.ndarray, seconds: np.ndarray, level: float, rate: float) -> float:
    """Standard uncertainty of the level from the residuals, n − 2 degrees of freedom."""
    count = len(excess)
    if count < 3:
        return 0.0
    jacobian = _jacobian(np.array([level, rate]), seconds)
    residual = excess - _curve(np.array([level, rate]), seconds)
    variance = residual @ residual / (count - 2)
    return float(np.sqrt(variance * np.linalg.pinv(jacobian.T @ jacobian)[0, 0]))
