"""How an element of today hangs together with itself and with its earlier readings: as it was
built, and what has happened to it since.

The platen that was built is the map's own prior (map/field_prior.py), as far as it is not narrower
by what is known of presses of its kind. A change that an earlier
survey found is in the readings from that survey on and in the element of today, and not in the
readings before it: so a survey that disagrees is never averaged away, and what changed keeps the
course of a change.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from tempermark.core.metrology.map import field_prior as prior
from tempermark.core.metrology.memory.changes import Changes, changes_of
from tempermark.core.metrology.memory.held import held
from tempermark.core.metrology.memory.looks import PARTS_FROM, Look, PastReadings, Rates, stacked

# Where all was new, earlier readings tell so little of the element, K (standard).
STRANGE_C = 3.0


@dataclass(frozen=True, eq=False)
class TodaysElement:
    """Covariances in K² of an element of a size in mm with what was read of it."""

    size_mm: tuple[float, float]
    past: PastReadings
    changes: Changes
    rates: Rates

    @cached_property
    def lasting(self) -> tuple[tuple[int, np.ndarray, float], ...]:
        """Each look (by number, the newest 0) that found a change; the variances (J,) in K² of the
        strengths of what it may have been; and the chance 0–1 that all was new.
        """
        squared = self.changes.spread_c**2 + self.changes.mean_c**2
        found = []
        for number, look in enumerate(self.past.looks):
            change = look.change
            if change is not None and change.any >= PARTS_FROM:
                size, strange = change.chance / change.any, change.all_new / change.any
                found.append((number, size * squared, strange))
        return tuple(found)

    @cached_property
    def added(self) -> np.ndarray:
        """Variances (J,), squares of K, of all that has been added until today."""
        return np.asarray(
            sum((size for _, size, _ in self.lasting), np.zeros(len(self.changes.kind)))
        )

    @cached_property
    def past_course(self) -> np.ndarray:
        """Each change's course (N, J) at the earlier readings, unitless."""
        return self.changes.course(self.past.place_mm)

    def covariance(
        self, rest: prior.SmoothRest, fault: int | None, a_mm: np.ndarray, b_mm: np.ndarray
    ) -> np.ndarray:
        """Covariance (n, m) in K² of the element between places (n, 2) and (m, 2) in mm."""
        found = as_built_covariance(rest, fault, self.size_mm, a_mm, b_mm)
        found = found + self.rates.known_of_kind(self.size_mm, a_mm, b_mm)
        if self.lasting:
            here, there = self.changes.course(a_mm), self.changes.course(b_mm)
            found = found + (here * self.added) @ there.T
        return np.asarray(found)

    def with_past(
        self, rest: prior.SmoothRest, fault: int | None, place_mm: np.ndarray
    ) -> np.ndarray:
        """Covariance (n, N) in K² of the element at places (n, 2) in mm with what it was at the
        earlier readings.
        """
        found = as_built_covariance(rest, fault, self.size_mm, place_mm, self.past.place_mm)
        found = found + self.rates.known_of_kind(self.size_mm, place_mm, self.past.place_mm)
        if self.lasting:
            here = self.changes.course(place_mm)
            for number, size, _ in self.lasting:
                after = self.past_course * (self.past.look <= number)[:, None]
                found = found + (here * size) @ after.T
        return np.asarray(found)

    def variance(
        self, rest: prior.SmoothRest, fault: int | None, place_mm: np.ndarray
    ) -> np.ndarray:
        """Variance (n,) in K² of the element at places (n, 2) in mm, before any reading."""
        found = as_built_variance(rest, fault, self.size_mm, place_mm)
        found = found + self.rates.known_of_kind_at(self.size_mm, place_mm)
        if self.lasting:
            course = self.changes.course(place_mm)
            found = found + course**2 @ self.added
        return np.asarray(found)

    def changed_since_built(self) -> np.ndarray:
        """Covariance (N, N) in K² of what changes have added to the earlier readings; where all
        was new, the readings before tell little of the element.
        """
        look = self.past.look
        found = np.zeros((len(look),) * 2)
        for number, size, strange in self.lasting:
            after = self.past_course * (look <= number)[:, None]
            found += (after * size) @ after.T
            older = np.flatnonzero(look > number)
            level = prior.LEVEL_SPREAD_C**2 + STRANGE_C**2 * np.eye(len(older))
            found[np.ix_(older, older)] += strange * level
        return found


def todays_element(looks: list[Look], size_mm: tuple[float, float], rates: Rates) -> TodaysElement:
    """An element of a size in mm that moves at some rates, with its newest looks. Raises ValueError
    without any.
    """
    return TodaysElement(size_mm, stacked(looks), changes_of(size_mm), rates)


def at_rest(
    rest: prior.SmoothRest, size_mm: tuple[float, float], place_mm: np.ndarray
) -> np.ndarray:
    """What is expected (n,) in K before any reading, at places (n, 2) in mm."""
    return np.asarray(_basis((size_mm, rest.margin_reach_mm), place_mm) @ prior.BASIS_MEAN)


def as_built_covariance(
    rest: prior.SmoothRest,
    fault: int | None,
    size_mm: tuple[float, float],
    a_mm: np.ndarray,
    b_mm: np.ndarray,
) -> np.ndarray:
    """Covariance (n, m) in K² of the element that was built between places (n, 2) and (m, 2) in
    mm, before readings.
    """
    of = size_mm, rest.margin_reach_mm
    scaled = _basis(of, a_mm) * prior.BASIS_SPREAD**2
    found = rest.amplitude_c**2 * _alike(rest.length_mm, a_mm, b_mm) + scaled @ _basis(of, b_mm).T
    if fault is not None:
        faults = prior.close_faults(*size_mm)
        here, there = faults.one(fault, a_mm), faults.one(fault, b_mm)
        found = found + prior.FAULT_SPREAD_C**2 * np.outer(here, there)
    return np.asarray(found)


@held
def _basis(of: tuple[tuple[float, float], float], place_mm: np.ndarray) -> np.ndarray:
    size_mm, reach_mm = of
    return prior.basis(place_mm, np.array(size_mm, float), reach_mm)


@held
def _alike(length_mm: tuple[float, float], a_mm: np.ndarray, b_mm: np.ndarray) -> np.ndarray:
    return prior.matern(a_mm, b_mm, length_mm)


def as_built_variance(
    rest: prior.SmoothRest, fault: int | None, size_mm: tuple[float, float], place_mm: np.ndarray
) -> np.ndarray:
    """Variance (n,) in K² of the element that was built, at places (n, 2) in mm."""
    basis = _basis((size_mm, rest.margin_reach_mm), place_mm)
    found = rest.amplitude_c**2 + (basis**2 * prior.BASIS_SPREAD**2).sum(axis=1)
    if fault is not None:
        course = prior.close_faults(*size_mm).one(fault, place_mm)
        found = found + (prior.FAULT_SPREAD_C * course) ** 2
    return np.asarray(found)
