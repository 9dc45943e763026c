"""How far presses move, by their surveys: pooled over presses of a kind, then each its own."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.special import softmax
from scipy.stats import chi2

from tempermark.core.metrology.map import field_prior as prior
from tempermark.core.metrology.map.field import condition_all
from tempermark.core.metrology.map.field_members import Observations
from tempermark.core.metrology.memory.looks import DAYS_PER_MONTH, Rates

# The defaults count as so many steps between surveys; those of the kind as so many of a press.
DEFAULT_STEPS, KIND_STEPS = 8.0, 8.0
DEFAULT_SURVEYS = 25.0
# Within these the rates stay, whatever few surveys say.
LEVEL_RANGE_C, NEW_RANGE = (0.2, 2.5), (0.03, 0.4)
# A step that is larger is no drift: something had happened.
LARGEST_STEP_C = 6.0
SHORTEST_DAYS = 0.5
# How far presses of a kind differ is taken as the upper limit that so many samples in a hundred
# keep: few presses say little of it. Below these it stays, however alike they are.
KIND_LIMIT = 0.95
LEAST_LEVEL_C, LEAST_FALL_C_PER_100MM = 1.0, 0.2
# How uneven presses are, before any was mapped, counts as so many of them.
DEFAULT_PRESSES = 8.0
# The chances settle long before that, to 0.001.
SETTLING_STEPS = 100
# So many readings of a map tell how uneven it is; a logger's thousand would take minutes.
MOST_OF_MAP = 64


@dataclass(frozen=True)
class SurveyStep:
    """From one survey of an element to the next: days, by how much something moved (its level, K;
    its fall, mm), and the standard uncertainty of that in the same unit, without what both share.
    """

    days: float
    moved: float
    uncertainty: float


@dataclass(frozen=True)
class FoundShape:
    """What the newest whole map of an element found: how far its level lies from the dial, K; its
    fall to the right and to the back, K per 100 mm; the standard uncertainties of both; and the log
    evidence of each size of the smooth rest (`unevenness`).
    """

    level_c: float
    level_uncertainty_c: float
    fall_c_per_100mm: tuple[float, float]
    fall_uncertainty_c_per_100mm: float
    log_evidence: tuple[float, ...]


def learned(
    own: Sequence[SurveyStep], of_kind: Sequence[SurveyStep], new: int, surveys: int
) -> Rates:
    """The rates of an element by the steps of its level in K and those of its kind; `new` of the
    kind's `surveys` found that something had happened.
    """
    start = Rates()
    level_c = month_step(own, of_kind, start.level_c, LARGEST_STEP_C)
    return replace(
        start,
        level_c=float(np.clip(level_c, *LEVEL_RANGE_C)),
        new_chance=chance_of_new(new, surveys, start.new_chance),
    )


def with_kind(rates: Rates, shapes: Sequence[FoundShape]) -> Rates:
    """The rates with how far presses of its kind differ, by what was found of each."""
    levels = [shape.level_c for shape in shapes]
    falls = [one for shape in shapes for one in shape.fall_c_per_100mm]
    level = kind_spread(levels, [shape.level_uncertainty_c for shape in shapes])
    fall = kind_spread(falls, [s.fall_uncertainty_c_per_100mm for s in shapes for _ in range(2)])
    return replace(
        rates,
        kind_level_c=float(np.clip(level, LEAST_LEVEL_C, rates.kind_level_c)),
        kind_fall_c_per_100mm=float(
            np.clip(fall, LEAST_FALL_C_PER_100MM, rates.kind_fall_c_per_100mm)
        ),
        rest_chance=rest_chances([shape.log_evidence for shape in shapes]),
    )


def unevenness(
    place_mm: np.ndarray,
    deviation_c: np.ndarray,
    repeatability_c: float,
    size_mm: tuple[float, float],
) -> tuple[float, ...]:
    """The log evidence (A,), unitless, that readings at (n, 2) mm of deviations (n,) in K, each
    with the noise `repeatability_c` in K, give each size of the smooth rest (`AMPLITUDES_C`); of
    more than `MOST_OF_MAP` so many, always the same.
    """
    some = np.random.default_rng(0).permutation(len(deviation_c))[:MOST_OF_MAP]
    seen = Observations(place_mm[some], deviation_c[some], np.ones(len(some)))
    noise = max(repeatability_c, prior.NOISE_FLOOR_C)
    result = condition_all(seen, noise, prior.close_faults(*size_mm), np.array(size_mm, float))
    found = []
    for amplitude_c, chance in prior.AMPLITUDES_C:
        of_size = [logs for pieces, logs in result if pieces[0].amplitude_c == amplitude_c]
        found.append(float(np.logaddexp.reduce(np.concatenate(of_size)) - np.log(chance)))
    return tuple(found)


def rest_chances(log_evidence: Sequence[tuple[float, ...]]) -> tuple[float, ...]:
    """The chance (A,), 0–1, of each size of the smooth rest among presses of a kind, by the log
    evidence (A,) that each press gives (expectation maximisation; Dempster et al. 1977). It leans
    on what a map believes that knows no other press.
    """
    usual = np.array([chance for _, chance in prior.AMPLITUDES_C])
    if not log_evidence:
        return tuple(map(float, usual))
    evidence, chance = np.array(log_evidence), usual
    for _ in range(SETTLING_STEPS):
        each = softmax(np.log(chance) + evidence, axis=1)
        chance = (usual * DEFAULT_PRESSES + each.sum(axis=0)) / (DEFAULT_PRESSES + len(each))
    return tuple(map(float, chance))


def kind_spread(found: Sequence[float], uncertainty: Sequence[float]) -> float:
    """The upper limit of the standard deviation about none of values, in their unit (K, K per
    100 mm), found with standard uncertainties; infinite without any (chi-square limit of a
    variance).
    """
    if not found:
        return float("inf")
    limit = np.square(found).sum() / chi2.ppf(1 - KIND_LIMIT, len(found))
    return float(np.sqrt(max(limit - np.square(uncertainty).mean(), 0.0)))


def month_step(
    own: Sequence[SurveyStep], of_kind: Sequence[SurveyStep], start: float, largest: float
) -> float:
    """Standard deviation of a month's step, in the steps' unit (K, mm): pooled over those of the
    kind, which lean on `start`, then its own, which lean on the kind's. Larger ones than `largest`
    are left out.
    """
    kind = _variance(of_kind, start**2, DEFAULT_STEPS, largest)
    return float(np.sqrt(_variance(own, kind, KIND_STEPS, largest)))


def chance_of_new(new: int, surveys: int, start: float) -> float:
    """The chance (0–1) that something happens between two surveys, where `new` of so many found
    it; it leans on `start`.
    """
    found = (new + DEFAULT_SURVEYS * start) / (surveys + DEFAULT_SURVEYS)
    return float(np.clip(found, *NEW_RANGE))


def _variance(steps: Sequence[SurveyStep], start: float, weight: float, largest: float) -> float:
    """What is left of each step after its own uncertainty, for a month."""
    total, count = start * weight, weight
    for step in steps:
        if abs(step.moved) <= largest and step.days >= SHORTEST_DAYS:
            months = step.days / DAYS_PER_MONTH
            total += max(step.moved**2 - step.uncertainty**2, 0.0) / months
            count += 1
    return total / count
