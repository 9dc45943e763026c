"""A closing over a whole platen: every place with its own temperature and pressure.

Places differ in two numbers only, and everything that comes out changes smoothly with both. So the
stack is solved on a small lattice of Chebyshev points that spans them, and polynomials through
the lattice carry every result to the places. A test holds this against solving each place.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from tempermark.core.thermal.conduction import Course
from tempermark.core.thermal.press import Closing, press

# Points of the lattice in temperature and in the logarithm of pressure.
WARM_POINTS, PRESSED_POINTS = 7, 5
# Places closer than this share one point.
SAME_K, SAME_SHARE = 0.05, 0.005


@dataclass(frozen=True)
class Platen:
    """A solved lattice: its course, and the weights (places, lattice) that carry values over."""

    course: Course
    weights: np.ndarray
    closing: Closing

    def over(self, result: Callable[[Course], np.ndarray]) -> np.ndarray:
        """A result (lattice, …) of the course at every place (places, …), never below its range.

        A polynomial may swing past what it goes through; results are held between the lattice's
        lowest and highest.
        """
        values = np.asarray(result(self.course))
        carried = np.tensordot(self.weights, values, axes=1)
        return np.clip(carried, values.min(axis=0), values.max(axis=0))


def press_places(closing: Closing) -> Platen:
    """A closing whose `upper_c` and `pressure_kpa` are of (p,) places."""
    warm, warm_weights = _axis(closing.upper_c, WARM_POINTS, SAME_K)
    if closing.pressure_kpa is None or closing.contacts is not None:
        lattice = replace(closing, upper_c=warm, lower_c=_repeated(closing.lower_c, len(warm)))
        return Platen(press(lattice), warm_weights, lattice)
    logs, log_weights = _axis(np.log(closing.pressure_kpa), PRESSED_POINTS, SAME_SHARE)
    lattice = replace(
        closing,
        upper_c=np.repeat(warm, len(logs)),
        pressure_kpa=np.tile(np.exp(logs), len(warm)),
        lower_c=_repeated(closing.lower_c, len(warm) * len(logs)),
    )
    weights = warm_weights[:, :, None] * log_weights[:, None, :]
    return Platen(press(lattice), weights.reshape(len(weights), -1), lattice)


def _repeated(lower_c: np.ndarray | None, count: int) -> np.ndarray | None:
    """One lower temperature for all."""
    return None if lower_c is None else np.full(count, float(np.mean(lower_c)))


def _axis(values: np.ndarray, points: int, same: float) -> tuple[np.ndarray, np.ndarray]:
    """Lattice points (k,) over the values (p,), and Lagrange weights (p, k)."""
    low, high = float(values.min()), float(values.max())
    if high - low <= same:
        return np.array([values.mean()]), np.ones((len(values), 1))
    nodes = (low + high) / 2 - (high - low) / 2 * np.cos(np.pi * np.arange(points) / (points - 1))
    weights = np.ones((len(values), points))
    for i in range(points):
        for j in range(points):
            if i != j:
                weights[:, i] *= (values - nodes[j]) / (nodes[i] - nodes[j])
    return nodes, weights
