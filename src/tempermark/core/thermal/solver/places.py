"""A closing over a whole platen: every place with its own temperature and pressure.

Places differ in two numbers only, and everything that comes out changes smoothly with both. So the
stack is solved on a small lattice of Chebyshev points that spans them, and polynomials through
the lattice carry every result to the places. A test holds this against solving each place.
"""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import lru_cache, partial
from typing import Any

import numpy as np
from scipy.interpolate import BarycentricInterpolator

from tempermark.core.thermal.result.outcome import Piece, Reached, reached
from tempermark.core.thermal.solver.closing import Closing, press
from tempermark.core.thermal.solver.conduction import HeatCourse, HeatState

# A generous lattice is rounded out to so many K, has so many points over temperature, and the last
# few are kept (some 50 kB each).
ROUND_K, SPREAD_POINTS, KEPT = 20.0, 13, 64
# Points of the lattice in temperature and in the logarithm of pressure.
WARM_POINTS, PRESSED_POINTS = 7, 5
# Places closer than this share one point.
SAME_K, SAME_SHARE = 0.05, 0.005


@dataclass(frozen=True)
class Nodes:
    """The points of a lattice, in °C and ln kPa (None where pressure plays no part)."""

    warm_c: np.ndarray
    log_kpa: np.ndarray | None

    @property
    def pressure_kpa(self) -> np.ndarray | None:
        """The lattice's pressures (lattice,) in kPa; None where pressure plays no part."""
        if self.log_kpa is None:
            return None
        return np.tile(np.exp(self.log_kpa), len(self.warm_c))

    def weights(self, upper_c: np.ndarray, pressure_kpa: np.ndarray | None) -> np.ndarray:
        """Weights (places, lattice) that carry the lattice's values to places (p,)."""
        warm = _lagrange(upper_c, self.warm_c)
        if self.log_kpa is None or pressure_kpa is None:
            return warm
        both = warm[:, :, None] * _lagrange(np.log(pressure_kpa), self.log_kpa)[:, None, :]
        return np.asarray(both.reshape(len(warm), -1))


@dataclass(frozen=True)
class Lattice:
    """A closing solved at the nodes of a lattice."""

    course: HeatCourse
    nodes: Nodes


def carried(weights: np.ndarray, values: np.ndarray) -> np.ndarray:
    """Values (lattice, …) at places (places, …). A polynomial may swing past what it goes through:
    they are held between the lattice's lowest and highest.
    """
    return np.clip(np.tensordot(weights, values, axes=1), values.min(axis=0), values.max(axis=0))


@dataclass(frozen=True)
class Platen:
    """A solved lattice and the weights (places, lattice) of a platen's places."""

    lattice: Lattice
    weights: np.ndarray

    def over(self, result: Callable[[HeatCourse], np.ndarray]) -> np.ndarray:
        """A result (lattice, …) of the course in its own unit (°C, s) at every place (places,
        …).
        """
        return carried(self.weights, np.asarray(result(self.lattice.course)))


def press_places(closing: Closing) -> Platen:
    """A closing whose `upper_c` and `pressure_kpa` are of (p,) places."""
    lattice = solve(closing, (float(closing.upper_c.min()), float(closing.upper_c.max())))
    return Platen(lattice, lattice.nodes.weights(closing.upper_c, closing.pressure_kpa))


def solve(closing: Closing, warm_c: tuple[float, float], points: int = WARM_POINTS) -> Lattice:
    """A closing solved between two upper temperatures in °C, over its places' pressures in kPa."""
    warm = _nodes(*warm_c, points, SAME_K)
    if closing.pressure_kpa is None or closing.contacts is not None:
        one = replace(closing, upper_c=warm, lower_c=_repeated(closing.lower_c, len(warm)))
        return Lattice(press(one), Nodes(warm, None))
    logs = np.log(closing.pressure_kpa)
    logs = _nodes(float(logs.min()), float(logs.max()), PRESSED_POINTS, SAME_SHARE)
    both = replace(
        closing,
        upper_c=np.repeat(warm, len(logs)),
        pressure_kpa=np.tile(np.exp(logs), len(warm)),
        lower_c=_repeated(closing.lower_c, len(warm) * len(logs)),
    )
    return Lattice(press(both), Nodes(warm, logs))


@dataclass(frozen=True)
class Spread:
    """What a closing reaches at the points of a lattice that spans a platen's temperatures and
    pressures generously, so that a moved dial or another place is only carried anew.
    """

    nodes: Nodes
    reached: Reached

    def at(self, upper_c: np.ndarray, pressure_kpa: np.ndarray) -> Reached:
        """What is reached at places (p,) of °C and kPa."""
        weights = self.nodes.weights(upper_c, pressure_kpa)
        return self.reached.carried(partial(carried, weights))


def spread_over(
    closing: Closing, piece: Piece, warm_c: tuple[float, float], kpa: tuple[float, float]
) -> Spread:
    """A closing solved over spans of upper temperature in °C and of pressure in kPa; the last ones
    asked for are kept.
    """
    warm = (
        ROUND_K * float(np.floor(warm_c[0] / ROUND_K)),
        ROUND_K * float(np.ceil(warm_c[1] / ROUND_K)),
    )
    one = replace(
        closing,
        upper_c=np.array([warm[0]]),
        lower_c=_repeated(closing.lower_c, 1),
        pressure_kpa=np.array(kpa),
    )
    return _kept(_Requested(one, piece, warm, kpa[0], _content(one)))


@dataclass(frozen=True)
class _Requested:
    """A question by its content: two with the same layers, times and state are one."""

    closing: Closing = field(compare=False)
    piece: Piece
    warm_c: tuple[float, float]
    kpa: float
    content: tuple[Any, ...]


def _content(closing: Closing) -> tuple[Any, ...]:
    """All of a closing, as something that can be compared."""
    return tuple(_comparable(value) for value in vars(closing).values())


def _comparable(value: Any) -> Any:
    if isinstance(value, np.ndarray):
        return value.tobytes()
    if isinstance(value, HeatState):
        return value.now_c.tobytes(), value.highest_c.tobytes()
    return tuple(value) if isinstance(value, list) else value


@lru_cache(maxsize=KEPT)
def _kept(requested: _Requested) -> Spread:
    lattice = solve(requested.closing, requested.warm_c, SPREAD_POINTS)
    kpa = lattice.nodes.pressure_kpa
    if kpa is None:
        kpa = np.full(len(lattice.nodes.warm_c), requested.kpa)
    # The course itself is large and has told what it had to.
    return Spread(lattice.nodes, reached(lattice.course, requested.piece, kpa))


def _repeated(lower_c: np.ndarray | None, count: int) -> np.ndarray | None:
    """One lower temperature for all."""
    return None if lower_c is None else np.full(count, float(np.mean(lower_c)))


def _nodes(low: float, high: float, points: int, same: float) -> np.ndarray:
    """Chebyshev points (k,) from low to high; one where they are the same."""
    if high - low <= same:
        return np.array([(low + high) / 2])
    turn = np.cos(np.pi * np.arange(points) / (points - 1))
    return (low + high) / 2 - (high - low) / 2 * turn


def _lagrange(values: np.ndarray, nodes: np.ndarray) -> np.ndarray:
    """Weights (p, k) of the polynomial through the nodes."""
    if len(nodes) == 1:
        return np.ones((len(values), 1))
    through = BarycentricInterpolator(nodes, np.eye(len(nodes)))
    return np.asarray(through(values))
