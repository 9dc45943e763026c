"""A small bounded quasi-Newton search for smooth functions of a few variables.

The command line must answer in 0.7 s and importing scipy.optimize alone costs more, so
these forty lines stand in for it; tests hold them against it (docs/decisions/0003).
"""

from collections.abc import Callable

import numpy as np

Objective = Callable[[np.ndarray], tuple[float, np.ndarray]]


def minimise(
    objective: Objective,
    start: np.ndarray,
    lower: np.ndarray,
    upper: np.ndarray,
    rounds: int = 60,
    tolerance: float = 1e-5,
) -> np.ndarray:
    """Argument of a local minimum inside the box, by projected BFGS with backtracking.

    `objective` gives value and gradient (n,); all arrays (n,).
    """
    here = np.clip(start, lower, upper)
    value, gradient = objective(here)
    curvature = np.eye(len(here)) / max(1.0, float(np.linalg.norm(gradient)))
    for _ in range(rounds):
        free = ~(((here <= lower) & (gradient > 0)) | ((here >= upper) & (gradient < 0)))
        if np.linalg.norm(gradient[free]) < tolerance:
            break
        step = _descent(curvature, gradient, free)
        found = _backtrack(objective, here, value, gradient, step, lower, upper)
        if found is None:
            break
        there, new_value, new_gradient = found
        curvature = _update(curvature, there - here, new_gradient - gradient)
        here, value, gradient = there, new_value, new_gradient
    return here


def _descent(curvature, gradient, free):
    step = np.zeros_like(gradient)
    step[free] = -curvature[np.ix_(free, free)] @ gradient[free]
    if step @ gradient >= 0:
        step[free] = -gradient[free]
    return step * min(1.0, 1.5 / max(1e-12, float(np.abs(step).max())))


def _backtrack(objective, here, value, gradient, step, lower, upper):
    for shrink in 0.5 ** np.arange(14):
        there = np.clip(here + shrink * step, lower, upper)
        moved = there - here
        if not np.any(moved):
            return None
        new_value, new_gradient = objective(there)
        if new_value <= value + 1e-4 * (gradient @ moved):
            return there, new_value, new_gradient
    return None


def _update(curvature, moved, change):
    product = moved @ change
    if product <= 1e-12:
        return curvature
    left = np.eye(len(moved)) - np.outer(moved, change) / product
    return left @ curvature @ left.T + np.outer(moved, moved) / product
