"""What was known of an element before today's first reading: the likeliest beliefs about it, each
as a normal distribution over a lattice and over the error of today's gun.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from tempermark.core.metrology.map import field_prior as prior
from tempermark.core.metrology.map import verdict as decide
from tempermark.core.metrology.map.field import condition_all
from tempermark.core.metrology.map.field_members import Observations, lean_factor
from tempermark.core.metrology.memory.changes import Changes
from tempermark.core.metrology.memory.hidden import HiddenFaults, hidden_faults
from tempermark.core.metrology.memory.looks import Look, PastReadings, Rates
from tempermark.core.metrology.memory.today import TodaysElement, at_rest, todays_element

# So many beliefs are kept, none below this share of the likeliest.
MOST_BELIEFS, LEAST_SHARE = 10, 0.01
# What draws may leave out at any place, K²: a standard deviation of 0.03 K.
LEFT_OUT = 1e-3


@dataclass(frozen=True)
class Belief:
    """A belief about the smooth rest and a lasting fault (None: none), conditioned on the past.

    `mean_c` (m,), `variance` (m,) and a `factor` (m, r) of the covariance of the element today on
    the lattice, whose rows at the r places `pivot` are a lower triangle; `gun_mean_c`, `gun_var`
    of the error of today's gun and its covariance (m,) with the lattice. `solved` (N,) and
    `inverse` (N, N) continue it to other places.
    """

    rest: prior.SmoothRest
    fault: int | None
    log_weight: float
    mean_c: np.ndarray
    variance: np.ndarray
    factor: np.ndarray
    pivot: np.ndarray
    gun_mean_c: float
    gun_var: float
    gun_cross: np.ndarray
    solved: np.ndarray
    inverse: np.ndarray
    half: np.ndarray
    hidden: HiddenFaults | None

    @property
    def log_with_hidden(self) -> float:
        """Its log evidence, unitless, with that of the faults beside it."""
        logs = (
            [self.log_weight] if self.hidden is None else [self.log_weight, *self.hidden.log_weight]
        )
        return float(np.logaddexp.reduce(logs))


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
    known = conditioned(looks, size_mm, rates, gun, common_c)
    share = np.exp(known.evidence - known.evidence.max())
    least = max(LEAST_SHARE, np.sort(share, axis=None)[-MOST_BELIEFS])
    likely = [(int(at), int(fault)) for at, fault in np.argwhere(share >= least)[:MOST_BELIEFS]]
    beliefs = []
    for at, fault in likely:
        own = frozenset(other for rest, other in likely if rest == at)
        beliefs.append(known.belief(at, fault, own))
    return _kept(known.element, gun, common_c, tuple(beliefs))


def _kept(element: TodaysElement, gun: str, common_c: float, beliefs: tuple[Belief, ...]) -> Kept:
    return Kept(
        element.size_mm,
        element.past,
        element.rates,
        element.changes,
        gun,
        common_c,
        decide.lattice(*element.size_mm),
        element,
        beliefs,
    )


# Of a belief, what is a figure or an array of one shape for all.
EVEN = (
    "log_weight",
    "mean_c",
    "variance",
    "gun_mean_c",
    "gun_var",
    "gun_cross",
    "solved",
    "inverse",
    "half",
)
OF_HIDDEN = ("number", "log_weight", "mean_c", "variance")


def packed(kept: Kept) -> dict[str, np.ndarray]:
    """The beliefs of what is kept as arrays with names, for `unpacked`: those of each belief in
    their own units one after another, `rank` and `hidden_count` (b,) telling how wide each one's
    factor is and how many faults are beside it.
    """
    beliefs, rests = kept.beliefs, prior.smooth_rests()
    hidden = [b.hidden for b in beliefs if b.hidden]
    found = {name: np.array([getattr(b, name) for b in beliefs]) for name in EVEN}
    found["rest"] = np.array([rests.index(b.rest) for b in beliefs])
    found["fault"] = np.array([-1 if b.fault is None else b.fault for b in beliefs])
    found["rank"] = np.array([len(b.pivot) for b in beliefs])
    found["factor"] = np.hstack([b.factor for b in beliefs])
    found["pivot"] = np.concatenate([b.pivot for b in beliefs])
    found["hidden_count"] = np.array([len(b.hidden.number) if b.hidden else 0 for b in beliefs])
    for name in OF_HIDDEN:
        parts = [getattr(one, name) for one in hidden]
        found[f"hidden_{name}"] = np.concatenate(parts) if parts else np.zeros(0)
    return found


def unpacked(
    arrays: Mapping[str, np.ndarray], element: TodaysElement, gun: str, common_c: float
) -> Kept:
    """What `keep` gave of an element before it is read with a gun whose readings share `common_c`
    (standard, K), from its arrays. Raises KeyError where one is missing.
    """
    rests = prior.smooth_rests()
    course = prior.close_faults(*element.size_mm).shape(element.past.place_mm)
    of_factor, of_hidden = (_slices(arrays[name]) for name in ("rank", "hidden_count"))
    beliefs = []
    for number, (rest, fault) in enumerate(zip(arrays["rest"], arrays["fault"], strict=True)):
        hidden, own = None, of_hidden[number]
        if own.stop > own.start:
            which, log_weight, *strength = (arrays[f"hidden_{name}"][own] for name in OF_HIDDEN)
            hidden = HiddenFaults(which, log_weight, course[:, which], *strength)
        beliefs.append(
            Belief(
                rest=rests[rest],
                fault=None if fault < 0 else int(fault),
                factor=arrays["factor"][:, of_factor[number]],
                pivot=arrays["pivot"][of_factor[number]],
                hidden=hidden,
                **{name: arrays[name][number] for name in EVEN},
            )
        )
    return _kept(element, gun, common_c, tuple(beliefs))


def _slices(count: np.ndarray) -> list[slice]:
    """Where each one's part of an array lies, of so many (b,) each."""
    ends = np.cumsum(count)
    return [slice(int(end - one), int(end)) for one, end in zip(count, ends, strict=True)]


@dataclass(frozen=True, eq=False)
class Conditioned:
    """All that may be believed, conditioned on the past: each smooth rest's pieces, and log
    evidences (B, 1 + J) of each without a fault and with each fault, whose courses (N, J) at the
    past's readings are `course`; carried to a lattice (m, 2) in mm.
    """

    past: PastReadings
    element: TodaysElement
    gun: str
    common_c: float
    place_mm: np.ndarray
    course: np.ndarray
    rests: tuple[tuple[Any, ...], ...]
    evidence: np.ndarray

    def belief(self, at: int, fault: int, own: frozenset[int]) -> Belief:
        """The belief in a rest and a fault (0: none); of that rest `own` are beliefs too."""
        past, element, size_mm = self.past, self.element, self.element.size_mm
        rest, inverse = self.rests[at][0], self.rests[at][3]
        lasting = None if fault == 0 else fault - 1
        if lasting is not None:
            # A fault adds one rank to the covariance (Sherman & Morrison 1950).
            bump = self.course[:, lasting]
            pulled = inverse @ bump
            precision = 1 / prior.FAULT_SPREAD_C**2 + bump @ pulled
            inverse = inverse - np.outer(pulled, pulled) / precision
        solved = inverse @ (past.deviation_c - at_rest(rest, size_mm, past.place_mm))
        hidden = None
        if lasting is None:
            but = frozenset(number - 1 for number in own)
            likeliest = float(self.evidence.max())
            hidden = hidden_faults(
                self.evidence[at, 1:], likeliest, self.course, inverse, solved, but
            )
        cross = element.with_past(rest, lasting, self.place_mm)
        half = cross @ inverse
        gun_seen = self.common_c * past.common_c * past.of_gun(self.gun)
        today = element.covariance(rest, lasting, self.place_mm, self.place_mm) - half @ cross.T
        return Belief(
            rest,
            lasting,
            float(self.evidence[at, fault]),
            at_rest(rest, size_mm, self.place_mm) + cross @ solved,
            today.diagonal().copy(),
            *lean_factor(today, LEFT_OUT),
            float(gun_seen @ solved),
            float(self.common_c**2 - gun_seen @ inverse @ gun_seen),
            -half @ gun_seen,
            solved,
            inverse,
            half,
            hidden,
        )


def conditioned(
    looks: list[Look], size_mm: tuple[float, float], rates: Rates, gun: str, common_c: float
) -> Conditioned:
    """The looks at an element of a size in mm weighed under all that may be believed of it, for a
    gun whose readings share `common_c` (standard, K).
    """
    element, size = todays_element(looks, size_mm, rates), np.array(size_mm, float)
    past = element.past
    repeatability = float(past.noise_c.min())
    seen = Observations(past.place_mm, past.deviation_c, (repeatability / past.noise_c) ** 2)
    faults = prior.close_faults(*size_mm)
    extra = past.shared() + past.walked(rates, size) + element.changed_since_built()
    extra = extra + rates.known_of_kind(size_mm, past.place_mm, past.place_mm)
    result = condition_all(seen, repeatability, faults, size, extra)
    return Conditioned(
        past,
        element,
        gun,
        common_c,
        decide.lattice(*size_mm),
        faults.shape(past.place_mm),
        tuple(pieces for pieces, _ in result),
        np.array([found + rates.log_share(pieces[0]) for pieces, found in result]),
    )
