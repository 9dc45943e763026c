"""As few readings as the decision needs: where to begin, where to go on, when to stop.

Begin at the middle and the corners, then read where one more reading tells most about the
verdict, until it is_decided. The rule and its figures are measured by `./tempermark bench
adaptive` on imagined platens.
"""

from collections.abc import Callable

import numpy as np

from tempermark.core.metrology.map import verdict as decide
from tempermark.core.metrology.map.field import fit_field

INSET_SHARE, LARGEST_INSET_MM = 0.06, 25.0
# A pass speaks of places nobody read, so it is not believed before this many readings.
FEWEST_FOR_PASS = 9
# Looking after every reading finds unlucky moments: a fail is stopped at only when clearer.
FAIL_STOPS_UP_TO = 0.02
# What is not decided by then is close to the tolerance; more readings seldom tell.
MOST_READINGS = 17


def first_places(width_mm: float, height_mm: float) -> np.ndarray:
    """Middle and four corners (5, 2) in mm, the middle first, corners walked round."""
    x, y = (min(LARGEST_INSET_MM, INSET_SHARE * size) for size in (width_mm, height_mm))
    right, back = width_mm - x, height_mm - y
    return np.array([[width_mm / 2, height_mm / 2], [x, y], [right, y], [right, back], [x, back]])


def is_decided(probability_within: float, count: int) -> bool:
    """Whether a verdict with this probability, from this many readings, may be stopped at."""
    if probability_within <= FAIL_STOPS_UP_TO:
        return True
    return decide.classify(probability_within) == "pass" and count >= FEWEST_FOR_PASS


def survey_until_decided(
    read: Callable[[np.ndarray], np.ndarray],
    size_mm: tuple[float, float],
    tolerance_c: float,
    repeatability_c: float,
    rng: np.random.Generator,
    most: int = MOST_READINGS,
) -> tuple[float, int]:
    """Walk a survey with `read`, which gives deviations (n,) in K at places (n, 2) in mm.

    Returns the probability that the whole element is within tolerance, and how many
    readings that took. For simulations; at the bench the technician is `read`.
    """
    place = first_places(*size_mm)
    value = read(place)
    while True:
        field = fit_field(place, value, repeatability_c, size_mm)
        draws = decide.draw_field(field, *size_mm, 0.0, rng)
        within = decide.all_within(draws, 0.0, tolerance_c)
        probability = float(within.mean())
        if is_decided(probability, len(value)) or len(value) >= most:
            return probability, len(value)
        at = np.array([decide.next_place(draws, within, field.noise_c, *size_mm, place)])
        place, value = np.vstack([place, at]), np.append(value, read(at))
