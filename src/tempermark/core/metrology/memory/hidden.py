"""Local faults that an element may have had since before its first survey, where nobody read.

Each is too unlikely to be a belief of its own; together they are not. A fault of unknown strength
adds one rank to its belief, as a change does (weighed.py), so that all of them are weighed exactly.
"""

from dataclasses import dataclass

import numpy as np

from tempermark.core.metrology.map import field_prior as prior
from tempermark.core.metrology.memory.held import held

# Less likely than this share of the likeliest belief, a fault has no say.
LEAST_HIDDEN = 1e-4


@dataclass(frozen=True, eq=False)
class HiddenFaults:
    """F faults, by their numbers (F,) in field_prior's lattice, given the past: log evidences (F,),
    their course (N, F) at its readings, mean (F,) in K and variance (F,), squares of K, of their
    strengths.
    """

    number: np.ndarray
    log_weight: np.ndarray
    past_course: np.ndarray
    mean_c: np.ndarray
    variance: np.ndarray

    def course(
        self,
        size_mm: tuple[float, float],
        place_mm: np.ndarray,
        half: np.ndarray,
        which: np.ndarray | slice = slice(None),
    ) -> np.ndarray:
        """Course (n, F) of each, or of those that `which` names of them, at places (n, 2) in mm
        beyond what the past says of it, where `half` (n, N) carries the past's readings there;
        unitless.
        """
        shape = _shape(size_mm, place_mm)[:, self.number[which]]
        return np.asarray(shape - half @ self.past_course[:, which])


@held
def _shape(size_mm: tuple[float, float], place_mm: np.ndarray) -> np.ndarray:
    return prior.close_faults(*size_mm).shape(place_mm)


def hidden_faults(
    evidence: np.ndarray,
    top: float,
    course: np.ndarray,
    inverse: np.ndarray,
    solved: np.ndarray,
    but: frozenset[int],
) -> HiddenFaults | None:
    """The faults beside a belief without one: log evidences and courses (J,) and (N, J) of all that
    may be, `top` the log evidence of the likeliest belief, the inverse (N, N) in 1/K² of the past's
    covariance and what it makes (N,) of its readings, and those that are beliefs of their own.
    None where there are none.
    """
    number = np.flatnonzero(evidence >= top + np.log(LEAST_HIDDEN))
    number = np.array([n for n in number if n not in but], int)
    if not len(number):
        return None
    course = course[:, number]
    precision = 1 / prior.FAULT_SPREAD_C**2 + (course * (inverse @ course)).sum(axis=0)
    mean = course.T @ solved / precision
    return HiddenFaults(number, evidence[number], course, mean, 1 / precision)
