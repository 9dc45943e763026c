"""Level, hollow and pinch from how far the pad is compressed at places of the platen.

Level and hollows add up in millimetres of compression, not in kilopascals: pressures are carried
through the pad's law first, then a plane and, where the rest shows one, a local hollow are
fitted.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.optimize import least_squares

# A level better than this over the platen cannot be told from the pad's own unevenness, mm.
LEVEL_ENOUGH_MM = 0.25
# A hollow shallower than this is none, mm, and it must stand out of the fit's scatter.
LEAST_HOLLOW_MM = 0.08
CLEAR_OF_SCATTER = 4.0
# From the hinge pin to the platen's back rim where nobody measured it, mm. Starting value.
HINGE_BEHIND_MM = 60.0
# A sponge gives way to about three quarters of its thickness, then it is solid (open sponge of
# some 30 % rubber). Starting value.
MOST_PAD_SHARE = 0.75
SCALES = (0.12, 0.22)
STEEPNESS = (0.6, 3.0)


@dataclass(frozen=True)
class Hollow:
    """A place where the pad gives way: its middle, depth and half widths in mm."""

    x_mm: float
    y_mm: float
    depth_mm: float
    half_width_mm: float
    half_height_mm: float


@dataclass(frozen=True)
class Level:
    """How the closed platen lies on its pad.

    `right_mm`: how much more the right rim compresses the pad than the left, `back_mm` the back
    than the front, each with its standard uncertainty; `mean_mm` in the middle.
    """

    mean_mm: float
    right_mm: float
    back_mm: float
    right_sd_mm: float
    back_sd_mm: float
    hollow: Hollow | None
    scatter_mm: float

    @property
    def weak_side(self) -> str | None:
        """left, right, front or back, the steeper axis; None when level enough and surely so."""
        if abs(self.right_mm) >= abs(self.back_mm):
            value, sd, low_side, high_side = self.right_mm, self.right_sd_mm, "left", "right"
        else:
            value, sd, low_side, high_side = self.back_mm, self.back_sd_mm, "front", "back"
        if abs(value) < max(LEVEL_ENOUGH_MM, 2 * sd):
            return None
        return low_side if value > 0 else high_side


def fit_level(
    place_mm: np.ndarray,
    low_mm: np.ndarray,
    high_mm: np.ndarray,
    sd_mm: np.ndarray,
    size_mm: tuple[float, float],
) -> Level:
    """Plane and hollow through compressions at (n, 2) mm that lie in [low, high] (n,) mm.

    Equal bounds are figures with standard deviations `sd_mm` (n,); an open side counts only where
    the model leaves it. Least squares with a hollow of free place, depth, widths and steepness,
    kept when it stands out of the scatter.
    """
    at = place_mm / np.array(size_mm) - 0.5
    seen = _Seen(at, low_mm, high_mm, sd_mm)
    middle = np.clip(np.where(np.isfinite(low_mm), low_mm, 0.0), 0.0, None)
    start = np.array([np.median(middle), 0.0, 0.0])
    plane = least_squares(seen.residual, start, loss="soft_l1")
    best = least_squares(seen.residual, plane.x)
    hollow = None
    if len(at) >= 12:
        tried = [_try_hollow(seen, plane.x, scale) for scale in SCALES]
        fitted = min(tried, key=lambda t: t.cost)
        if _is_prominent(fitted, best, len(at)):
            best, hollow = fitted, _as_hollow(fitted.x, size_mm)
    scatter = float(np.sqrt(np.mean((seen.residual(best.x) * sd_mm) ** 2)))
    covariance = _covariance(best, len(at))
    return Level(
        mean_mm=float(best.x[0]),
        right_mm=float(best.x[1]),
        back_mm=float(best.x[2]),
        right_sd_mm=float(np.sqrt(covariance[1, 1])),
        back_sd_mm=float(np.sqrt(covariance[2, 2])),
        hollow=hollow,
        scatter_mm=scatter,
    )


@dataclass(frozen=True)
class _Seen:
    at: np.ndarray
    low_mm: np.ndarray
    high_mm: np.ndarray
    sd_mm: np.ndarray

    def residual(self, parameters: np.ndarray) -> np.ndarray:
        model = _plane(parameters, self.at)
        if len(parameters) > 3:
            model = model - _bump(parameters[3:], self.at)
        return np.asarray((model - np.clip(model, self.low_mm, self.high_mm)) / self.sd_mm)


def _plane(parameters: np.ndarray, at: np.ndarray) -> np.ndarray:
    return np.asarray(parameters[0] + at @ parameters[1:3])


def _bump(parameters: np.ndarray, at: np.ndarray) -> np.ndarray:
    depth, x, y, wide, high, steep = parameters
    away = ((at[:, 0] - x) / wide) ** 2 + ((at[:, 1] - y) / high) ** 2
    return np.asarray(depth * np.exp(-(np.maximum(away, 1e-12) ** steep)))


def _try_hollow(seen: _Seen, plane: np.ndarray, scale: float) -> Any:
    """The fit begun at the place that lies lowest under the plane."""
    under = -seen.residual(plane) * seen.sd_mm
    near = np.exp(-((seen.at[:, None] - seen.at[None]) ** 2).sum(axis=2) / (2 * (scale / 2) ** 2))
    deepest = int(np.argmin(-(near @ -under) / near.sum(axis=1)))
    depth = max(float(-(near[deepest] @ under) / near[deepest].sum()), LEAST_HOLLOW_MM)
    start = np.array([*plane, depth, *seen.at[deepest], scale, scale, 1.0])
    low = [-50, -50, -50, 0.0, -0.5, -0.5, 0.03, 0.03, STEEPNESS[0]]
    high = [50, 50, 50, 50.0, 0.5, 0.5, 0.8, 0.8, STEEPNESS[1]]
    return least_squares(seen.residual, np.clip(start, low, high), bounds=(low, high))


def _is_prominent(fitted: Any, plain: Any, count: int) -> bool:
    depth = fitted.x[3]
    if depth < LEAST_HOLLOW_MM:
        return False
    sd = np.sqrt(_covariance(fitted, count)[3, 3])
    # Six more parameters must pay for themselves (Bayesian information criterion).
    noise = max(2 * fitted.cost / count, 1e-12)
    gain = count * np.log(max(2 * plain.cost / count, 1e-12) / noise)
    return bool(depth > CLEAR_OF_SCATTER * sd and gain > 6 * np.log(count))


def _covariance(fit: Any, count: int) -> np.ndarray:
    jacobian = fit.jac
    degrees_of_freedom = max(count - jacobian.shape[1], 1)
    scale = max(2 * fit.cost / degrees_of_freedom, 1.0)
    return np.asarray(scale * np.linalg.pinv(jacobian.T @ jacobian))


def _as_hollow(parameters: np.ndarray, size_mm: tuple[float, float]) -> Hollow:
    depth, x, y, wide, high, _ = parameters[3:]
    return Hollow(
        float((x + 0.5) * size_mm[0]),
        float((y + 0.5) * size_mm[1]),
        float(depth),
        float(wide * size_mm[0]),
        float(high * size_mm[1]),
    )


def pinch_mm(change_mm: float, depth_mm: float, hinge_behind_mm: float = HINGE_BEHIND_MM) -> float:
    """How much more the back of a hinged press compresses than the front, in mm, when the stack
    grows by `change_mm` over the one at which platen and pad lie parallel.

    The platen turns about its hinge by Δt ÷ (distance of its middle); over the platen's depth that
    is Δt · depth ÷ (hinge behind + depth/2). 3 mm on 380 mm, hinge 60 mm behind: 4.56 mm.
    """
    return change_mm * depth_mm / (hinge_behind_mm + depth_mm / 2)


def closes_at_all(pinched_mm: float, pad_mm: float) -> bool:
    """Whether a pinch in mm is one that a pad can give: a press that would press its pad solid
    at the back does not close.
    """
    return pinched_mm <= MOST_PAD_SHARE * pad_mm
