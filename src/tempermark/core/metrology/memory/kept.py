"""What was known of an element before today's first reading: the likeliest beliefs about it, each
as a normal distribution over a lattice and over the error of today's gun.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from tempermark.core.metrology.map import field_prior as prior
from tempermark.core.metrology.map import verdict as decide
from tempermark.core.metrology.map.field import condition_all
from tempermark.core.metrology.map.field_members import Observations, stable_cholesky
from tempermark.core.metrology.memory.changes import Changes, changes_of
from tempermark.core.metrology.memory.looks import Look, PastReadings, Rates, stacked
from tempermark.core.metrology.memory.today import TodaysElement, at_rest

# So many beliefs are kept, none below this share of the likeliest.
MOST_BELIEFS, LEAST_SHARE = 10, 0.01


@dataclass(frozen=True)
class Belief:
    """A belief about the smooth rest and a lasting fault (None: none), conditioned on the past.

    `mean_c` (m,), `variance` (m,) and the lower `factor` (m, m) of the covariance of the element
    today on the lattice; `gun_mean_c`, `gun_var`
    of the error of today's gun and its covariance (m,) with the lattice. `solved` (N,) and
    `inverse` (N, N) continue it to other places.
    """

    rest: prior.SmoothRest
    fault: int | None
    log_weight: float
    mean_c: np.ndarray
    variance: np.ndarray
    factor: np.ndarray
    gun_mean_c: float
    gun_var: float
    gun_cross: np.ndarray
    solved: np.ndarray
    inverse: np.ndarray
    half: np.ndarray

    @cached_property
    def factor_single(self) -> np.ndarray:
        """The factor (m, m) in K in single precision, for draws."""
        return self.factor.astype(np.float32)


@dataclass(frozen=True, eq=False)
class Kept:
    """The beliefs before today's first reading, on a lattice (m, 2) in mm."""

    size_mm: tuple[float, float]
    past: PastReadings
    rates: Rates
    changes: Changes
    gun: str
    common_c: float
    place_mm: np.ndarray
    element: TodaysElement
    beliefs: tuple[Belief, ...]


def keep(
    looks: list[Look],
    size_mm: tuple[float, float],
    rates: Rates,
    gun: str = "",
    common_c: float = 0.0,
) -> Kept:
    """What the looks at an element of a size in mm tell of it today, before it is read with a gun
    whose readings share `common_c` (standard, K).
    """
    past, size, changes = stacked(looks), np.array(size_mm, float), changes_of(size_mm)
    repeatability = float(past.noise_c.min())
    seen = Observations(past.place_mm, past.deviation_c, (repeatability / past.noise_c) ** 2)
    faults = prior.local_faults(*size_mm)
    element = TodaysElement(size_mm, past, changes)
    extra = past.shared() + past.walked(rates, size) + element.changed_since_built()
    result = condition_all(seen, repeatability, faults, size, extra)
    evidence = np.array([found for _, found in result])
    share = np.exp(evidence - evidence.max())
    least = max(LEAST_SHARE, np.sort(share, axis=None)[-MOST_BELIEFS])
    places, course = decide.lattice(*size_mm), faults.shape(past.place_mm)
    beliefs = []
    for at, fault in np.argwhere(share >= least)[:MOST_BELIEFS]:
        parts = result[at][0]
        covariance = np.linalg.inv(parts[3])
        bump = None if fault == 0 else course[:, fault - 1]
        if bump is not None:
            covariance = covariance + prior.FAULT_SPREAD_C**2 * np.outer(bump, bump)
        inverse = np.linalg.inv(covariance)
        rest = parts[0]
        seen_basis = prior.basis(past.place_mm, size, rest.margin_reach_mm)
        solved = inverse @ (past.deviation_c - seen_basis @ prior.BASIS_MEAN)
        lasting = None if fault == 0 else int(fault) - 1
        cross = element.with_past(rest, lasting, places)
        half = cross @ inverse
        gun_seen = common_c * past.common_c * past.of_gun(gun)
        gun_half = gun_seen @ inverse
        today = element.covariance(rest, lasting, places, places) - half @ cross.T
        beliefs.append(
            Belief(
                rest,
                lasting,
                float(evidence[at, fault]),
                at_rest(rest, size_mm, places) + cross @ solved,
                today.diagonal().copy(),
                stable_cholesky(today),
                float(gun_seen @ solved),
                float(common_c**2 - gun_half @ gun_seen),
                -half @ gun_seen,
                solved,
                inverse,
                half,
            )
        )
    return Kept(size_mm, past, rates, changes, gun, common_c, places, element, tuple(beliefs))
