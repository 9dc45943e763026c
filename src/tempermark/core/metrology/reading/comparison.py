"""A gun against a contact probe on one pad: learning what the gun's readings there have in common.

Two things move every reading of a survey alike: the gun's own error and the pad's emissivity. A
few pairs, read by gun and by probe at the same place, tell their sum well and each of them a
little. Both are held with their joint covariance (Gauss–Newton on the radiation equation, normal
priors; Rodgers 2000, ch. 2), so that the part that was learned shrinks what is common, and the
probe's own uncertainty stays in it.

Equation: gun = f(probe, error, emissivity), by Gauss–Newton with normal priors.
Range: pads 40 K and more above the room.
Source: Rodgers 2000, ch. 2.
"""

from dataclasses import dataclass

import numpy as np
from scipy.special import chdtrc

from tempermark.core.constants import COVERAGE_FACTOR, EMISSIVITY_RANGE
from tempermark.core.errors import InputError, Problem
from tempermark.core.metrology.reading.radiometry import true_surface_temperature

FEWEST_PAIRS = 3
ROUNDS = 6
# A probe that is pressed on and left to settle repeats this well.
PROBE_REPEATABILITY_C = 0.4
# Pairs this unlikely under the stated uncertainties mean that something else is wrong.
UNLIKELY = 0.005


@dataclass(frozen=True)
class Comparison:
    """Input: pairs as corrected figures (n,) in °C, and what is known before.

    `gun_c` is what the gun showed with its own corrections, at `emissivity_setting`; `probe_c` the
    probe's corrected figure. Uncertainties of gun and probe are expanded (k = 2), the others
    standard.
    """

    gun_c: np.ndarray
    probe_c: np.ndarray
    emissivity_setting: float
    surface_emissivity: float
    surface_emissivity_uncertainty: float
    ambient_c: float
    gun_uncertainty_c: float
    probe_uncertainty_c: float
    repeatability_c: float


@dataclass(frozen=True)
class LearnedGun:
    """What to add to the gun on this pad, the pad's emissivity, and their covariance (2, 2).

    `before_c` and `after_c`: the common standard uncertainty at the pairs' mean temperature.
    `shift_c`: how much higher the gun's true figures come out than before. `probability`: how
    likely pairs at least this far apart are, if all uncertainties are as stated.
    """

    correction_c: float
    surface_emissivity: float
    covariance: np.ndarray
    before_c: float
    after_c: float
    shift_c: float
    probability: float

    @property
    def is_strange(self) -> bool:
        """Whether the pairs disagree by more than the stated uncertainties allow."""
        return self.probability < UNLIKELY


def compare(pairs: Comparison) -> LearnedGun:
    """Learn from at least three pairs; InputError names what is wrong.

    Three pairs 4 K apart with a gun of ± 1.5 K, ε 0.92 ± 0.02 and a probe of ± 0.8 K shrink the
    common part from about 2.3 K to 0.6 K.
    """
    _check(pairs)
    prior_mean = np.array([0.0, pairs.surface_emissivity])
    prior_sd = np.array(
        [pairs.gun_uncertainty_c / COVERAGE_FACTOR, pairs.surface_emissivity_uncertainty]
    )
    # A thing held for certain stays as it is.
    prior_precision = np.diag(1 / np.maximum(prior_sd, 1e-9) ** 2)
    noise = _noise(pairs)
    weight = np.linalg.inv(noise)
    state = prior_mean.copy()
    for _ in range(ROUNDS):
        slope = _slope(pairs, state)
        missed = pairs.probe_c - _true(pairs, state) + slope @ (state - prior_mean)
        covariance = np.linalg.inv(prior_precision + slope.T @ weight @ slope)
        state = prior_mean + covariance @ slope.T @ weight @ missed
        state[1] = np.clip(state[1], *EMISSIVITY_RANGE)
    at_first = _slope(pairs, prior_mean)
    apart = pairs.probe_c - _true(pairs, prior_mean)
    expected = noise + at_first @ np.diag(prior_sd**2) @ at_first.T
    own = pairs.repeatability_c**2 + PROBE_REPEATABILITY_C**2
    middle, middle_first = slope.mean(axis=0), at_first.mean(axis=0)
    return LearnedGun(
        correction_c=float(state[0]),
        surface_emissivity=float(state[1]),
        covariance=covariance,
        before_c=float(np.sqrt(middle_first**2 @ prior_sd**2)),
        after_c=float(np.sqrt(middle @ covariance @ middle)),
        shift_c=float((_true(pairs, state) - _true(pairs, prior_mean)).mean()),
        probability=_chance(apart, expected.mean(), own),
    )


def _check(pairs: Comparison) -> None:
    problems = []
    if len(pairs.gun_c) < FEWEST_PAIRS:
        problems.append(
            Problem(
                "pairs", f"{len(pairs.gun_c)} pairs are few: at least {FEWEST_PAIRS} are needed."
            )
        )
    if len(pairs.gun_c) and (np.abs(pairs.probe_c - pairs.ambient_c) < 40).any():
        problems.append(
            Problem(
                "pairs", "Compare on a hot pad, at least {40 K} above the room: that shows more."
            )
        )
    if problems:
        raise InputError(problems)


def _chance(apart: np.ndarray, mean_variance: float, own_variance: float) -> float:
    """Of differences (n,) at least so far from nothing, or so scattered; both are looked at."""
    mean = float(apart.mean())
    by_mean = chdtrc(1, mean**2 / mean_variance)
    by_scatter = chdtrc(len(apart) - 1, float(((apart - mean) ** 2).sum()) / own_variance)
    return min(1.0, 2 * float(min(by_mean, by_scatter)))


def _noise(pairs: Comparison) -> np.ndarray:
    """Covariance (n, n) of the differences: own noise of both, and the probe's common error."""
    own = pairs.repeatability_c**2 + PROBE_REPEATABILITY_C**2
    count = len(pairs.gun_c)
    common = (pairs.probe_uncertainty_c / COVERAGE_FACTOR) ** 2
    return own * np.eye(count) + common * np.ones((count, count))


def _true(pairs: Comparison, state: np.ndarray) -> np.ndarray:
    return true_surface_temperature(
        pairs.gun_c + state[0], pairs.emissivity_setting, state[1], pairs.ambient_c
    )


def _slope(pairs: Comparison, state: np.ndarray) -> np.ndarray:
    """Change (n, 2) of the true figures with the gun's correction and the emissivity."""
    columns = []
    for index, step in enumerate((0.01, 1e-4)):
        moved = np.zeros(2)
        moved[index] = step
        columns.append((_true(pairs, state + moved) - _true(pairs, state - moved)) / (2 * step))
    return np.column_stack(columns)
