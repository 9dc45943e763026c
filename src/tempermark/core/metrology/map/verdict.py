"""Is the whole element within tolerance, how sure, and which reading would decide.

Joint draws of the whole field, not cell by cell (handbook 3, "Map"); errors common to
the survey move every draw as a whole.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from tempermark.core.metrology.map.field import Field
from tempermark.core.metrology.map.peaks import highest
from tempermark.core.metrology.map.usable import Rectangle

PASS_FROM, FAIL_UP_TO = 0.95, 0.05
DRAWS = 1000
# A reading this close to another tells of the same place.
SAME_PLACE_MM = 12.0
# No instrument reads the very edge.
RIM_SHARE = 0.04
# Joint draws are taken on this many lines each way, rims included.
LINES = (15, 18)


@dataclass(frozen=True)
class Draws:
    """Samples (s, m) of the deviation in K at places (m, 2) in mm: where lines across and along
    cross, as many as `lines`, the places of one line across after the other.
    """

    place_mm: np.ndarray
    deviation_c: np.ndarray
    lines: tuple[int, int] = LINES

    @cached_property
    def high_c(self) -> np.ndarray:
        """Highest deviation (s,) in K of each, between the lines too."""
        return highest(self.deviation_c, self.lines)

    @cached_property
    def low_c(self) -> np.ndarray:
        """Lowest deviation (s,) in K of each, between the lines too."""
        return -highest(-self.deviation_c, self.lines)


def lattice(width_mm: float, height_mm: float) -> np.ndarray:
    """Where draws are taken, (m, 2) in mm."""
    x, y = np.meshgrid(np.linspace(0, width_mm, LINES[0]), np.linspace(0, height_mm, LINES[1]))
    return np.column_stack([x.ravel(), y.ravel()])


def draw_field(
    field: Field, width_mm: float, height_mm: float, common_c: float, rng: np.random.Generator
) -> Draws:
    """Joint samples of the field over the element, common error (standard, K) included."""
    places = lattice(width_mm, height_mm)
    samples = field.draws(places, DRAWS, rng)
    if common_c:
        samples = samples + common_c * rng.standard_normal((DRAWS, 1))
    return Draws(places, samples)


def all_within(draws: Draws, shift_c: float, tolerance_c: float) -> np.ndarray:
    """Whether each draw, moved by `shift_c`, stays within ± tolerance; (s,) booleans."""
    high, low = draws.high_c + shift_c, draws.low_c + shift_c
    return np.asarray((high <= tolerance_c) & (low >= -tolerance_c))


def probability_inside(
    draws: Draws, rectangle: Rectangle, shift_c: float, tolerance_c: float
) -> float:
    """Probability 0–1 that everything inside the rectangle is within the tolerance in K."""
    x, y = draws.place_mm.T
    inside = (
        (x >= rectangle.x_mm)
        & (x <= rectangle.x_mm + rectangle.width_mm)
        & (y >= rectangle.y_mm)
        & (y <= rectangle.y_mm + rectangle.height_mm)
    )
    if not inside.any():
        centre = [
            rectangle.x_mm + rectangle.width_mm / 2,
            rectangle.y_mm + rectangle.height_mm / 2,
        ]
        inside[np.argmin(((draws.place_mm - centre) ** 2).sum(axis=1))] = True
    lines = len(np.unique(x[inside])), len(np.unique(y[inside]))
    found = Draws(draws.place_mm[inside], draws.deviation_c[:, inside], lines)
    return float(all_within(found, shift_c, tolerance_c).mean())


def classify(probability: float) -> str:
    """A probability as a verdict: pass from 0.95, fail up to 0.05, else undecided."""
    if probability >= PASS_FROM:
        return "pass"
    return "fail" if probability <= FAIL_UP_TO else "undecided"


def next_place(
    draws: Draws,
    within: np.ndarray,
    noise_c: float,
    width_mm: float,
    height_mm: float,
    read_mm: np.ndarray | None = None,
) -> tuple[float, float]:
    """Where one more reading tells most about the verdict, in mm."""
    gain = verdict_gain(draws, within, noise_c)
    return best_place(gain, draws.place_mm, (width_mm, height_mm), read_mm)


def verdict_gain(draws: Draws, within: np.ndarray, noise_c: float) -> np.ndarray:
    """What one more reading at each of the draws' places tells about the verdict, (m,), unitless.

    Mutual information between that reading and the verdict, with the reading taken as
    normal within each class: ½ ln v − Σ p_k ½ ln v_k.
    """
    samples = draws.deviation_c - draws.deviation_c.mean(axis=0)
    groups = np.array([np.ones(len(within), bool), within, ~within])
    share = groups.mean(axis=1)
    # Means and mean squares of all three at once: a few sums more, and none of the samples copied.
    weight = (groups / np.maximum(groups.sum(axis=1), 1)[:, None]).astype(samples.dtype)
    variance = weight @ samples**2 - (weight @ samples) ** 2
    half_log = 0.5 * np.log(np.maximum(variance, 0.0) + noise_c**2)
    gain = half_log[0].astype(float)
    for number in (1, 2):
        if groups[number].sum() >= 2:
            gain -= share[number] * half_log[number]
    return np.asarray(gain)


def best_place(
    gain: np.ndarray,
    place_mm: np.ndarray,
    size_mm: tuple[float, float],
    read_mm: np.ndarray | None = None,
) -> tuple[float, float]:
    """The place in mm, of (m, 2), with the most to gain (m,), unitless. Rims are kept clear by 4 %,
    for no instrument reads the very edge; so are places (n, 2) that were read already.
    """
    free = reachable(place_mm, size_mm, read_mm)
    best = np.argmax(np.where(free, gain, -np.inf)) if free.any() else np.argmax(gain)
    return float(place_mm[best, 0]), float(place_mm[best, 1])


def reachable(
    place_mm: np.ndarray, size_mm: tuple[float, float], read_mm: np.ndarray | None = None
) -> np.ndarray:
    """Which places (m,) of (m, 2) in mm may be read: off the very rim, and off what was read."""
    (x, y), (width_mm, height_mm) = place_mm.T, size_mm
    low, high = RIM_SHARE, 1 - RIM_SHARE
    found = (x >= low * width_mm) & (x <= high * width_mm)
    found &= (y >= low * height_mm) & (y <= high * height_mm)
    if read_mm is not None and len(read_mm):
        away = np.hypot(x[:, None] - read_mm[:, 0], y[:, None] - read_mm[:, 1]).min(axis=1)
        found &= away > SAME_PLACE_MM
    return np.asarray(found)
