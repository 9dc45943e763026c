"""What a shop's own pieces teach: its dye's law from scored test presses, contacts and sheets from
thermocouple traces. Bayesian: what is known before, times what the pieces say.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.optimize import least_squares
from scipy.special import logsumexp, ndtr

from tempermark.core.thermal.result import dye
from tempermark.core.thermal.result.dye import UNTAUGHT, LawKnown
from tempermark.core.thermal.result.sampled import CONTACT_SHARE, PROPERTY_SHARE
from tempermark.core.thermal.solver.closing import STEP_WEIGHTS, over_time
from tempermark.core.thermal.solver.conduction import HeatCourse

# A black scored 1 to 5 by eye, against the best this cloth can take: shares of that at which one
# step becomes the next, and how far an eye errs, standard. Starting values; a densitometer's
# reading (against the proof) is worth more.
SCORE_FROM, EYE_SD, METER_SD = (0.35, 0.55, 0.75, 0.88), 0.06, 0.03
# A slip of the pen or another fault: this share of scores says nothing.
SLIPS = 0.02
# The grid over ln(rate) and activation: its half width in standard deviations, and its points.
GRID_SDS, GRID_POINTS = 4.0, 41
# What all temperatures of one survey err by together is shared by its pieces: nodes of Gauss and
# Hermite over it.
SHARED_NODES = 9
# Samples of a trace lie close in time and err together: at most so many count, each to this, K.
TRACE_POINTS, TRACE_SD_K = 40, 2.0


@dataclass(frozen=True)
class Trial:
    """One scored piece: the course under its transfer and what was seen.

    `share` of what dye finds; `score` 1–5 or a measured `density` 0–1; `group` names what its
    temperature was read with, known to `sd_c` (standard, K) in common.
    """

    course: HeatCourse
    interface: int
    share: float
    score: int | None
    density: float | None
    group: str
    sd_c: float


@dataclass(frozen=True)
class Taught:
    """A law before and after the pieces, how well each is known, and how each predicts them.

    `seen` (n,) as densities (a score's middle), `before` and `after` (n,) predicted ones.
    """

    law: dye.Law
    known: LawKnown
    seen: np.ndarray
    before: np.ndarray
    after: np.ndarray
    pieces: int


def score_middle(score: int) -> float:
    """The share of full density in the middle of a score's step."""
    edges = (0.2, *SCORE_FROM, 1.0)
    return float((edges[score - 1] + edges[score]) / 2)


def teach_law(
    trials: list[Trial], prior: dye.Law = dye.STARTING, known: LawKnown = UNTAUGHT
) -> Taught:
    """The law's posterior on a grid of ln(rate) and activation, exact but for the grid: first over
    all that was believed, then finely over what the pieces leave.

    ValueError without trials.
    """
    if not trials:
        raise ValueError("There are no pieces to learn from.")
    whole = (-GRID_SDS, GRID_SDS)
    coarse = _posterior(trials, prior, known, whole, whole)
    return _taught(trials, _posterior(trials, prior, known, *coarse.ends()), prior)


@dataclass(frozen=True)
class _Grid:
    """Weights (rates, activations) of laws, with ln(rate) against the prior's and activations."""

    log_rate: np.ndarray
    activation: np.ndarray
    weights: np.ndarray
    standard: tuple[np.ndarray, np.ndarray]

    def ends(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """Where the finer grid runs, in standard deviations of the prior."""
        ends = []
        for values, each in zip(self.standard, (1, 0), strict=True):
            share = self.weights.sum(axis=each)
            middle = float(share @ values)
            step = float(values[1] - values[0])
            reach = GRID_SDS * max(float(np.sqrt(share @ (values - middle) ** 2)), step / 2)
            ends.append((max(middle - reach, -GRID_SDS), min(middle + reach, GRID_SDS)))
        return ends[0], ends[1]


def _posterior(
    trials: list[Trial],
    prior: dye.Law,
    known: LawKnown,
    of_rate: tuple[float, float],
    of_activation: tuple[float, float],
) -> _Grid:
    first, second = (np.linspace(*ends, GRID_POINTS) for ends in (of_rate, of_activation))
    log_rate = known.rate_share * first
    activation = np.maximum(prior.activation_j_mol + known.activation_j_mol * second, 5_000.0)
    # ∫ per unit of rate, for each trial and activation.
    unit = np.array([_unit_doses(trial, activation) for trial in trials])
    log_likelihood = np.zeros((GRID_POINTS, GRID_POINTS))
    for group in sorted({trial.group for trial in trials}):
        members = [n for n, trial in enumerate(trials) if trial.group == group]
        log_likelihood += _of_group([trials[n] for n in members], unit[members], prior, log_rate)
    # Two standard normals with a correlation.
    x, y = np.meshgrid(first, second, indexing="ij")
    square = x**2 - 2 * known.correlation * x * y + y**2
    logs = log_likelihood - square / (2 * (1 - known.correlation**2))
    return _Grid(log_rate, activation, np.exp(logs - logsumexp(logs)), (first, second))


def _unit_doses(trial: Trial, activation: np.ndarray) -> np.ndarray:
    """Uptake (activations,) for a rate of 1/s at 200 °C, all activations in one go."""

    def rates(temperature_c: np.ndarray) -> np.ndarray:
        return np.asarray(np.exp(-activation * dye.per_activation(temperature_c)))

    course, at = trial.course, trial.interface
    below, middle = (rates(face[:, :1, at]) for face in (course.below_c, course.middle_below_c))
    weights = STEP_WEIGHTS
    each = weights[0] * below[:-1] + weights[1] * middle + weights[2] * below[1:]
    return np.asarray(np.diff(course.time_s) @ each)


def _of_group(
    trials: list[Trial], unit: np.ndarray, prior: dye.Law, log_rate: np.ndarray
) -> np.ndarray:
    """Log likelihood (rate, activation) of pieces whose temperatures err together."""
    nodes, weights = np.polynomial.hermite_e.hermegauss(SHARED_NODES)
    rates = prior.rate_per_s * np.exp(log_rate)
    found = []
    for node in nodes:
        total = np.zeros((len(rates), unit.shape[1]))
        for trial, each in zip(trials, unit, strict=True):
            shift = np.exp(node * trial.sd_c * _per_kelvin(trial, prior))
            doses = rates[:, None] * each[None, :] * shift
            total += np.log(_chance(trial, dye.density(doses, trial.share)))
        found.append(total)
    logs = np.log(weights / weights.sum())
    return np.asarray(logsumexp(np.array(found) + logs[:, None, None], axis=0))


def _per_kelvin(trial: Trial, prior: dye.Law) -> float:
    """Share of the dose that one kelvin more gives, at the hottest of the course."""
    hottest = float(trial.course.below_c[:, 0, trial.interface].max())
    return float(np.log(prior.at(hottest + 0.5) / prior.at(hottest - 0.5)))


def _chance(trial: Trial, density: np.ndarray) -> np.ndarray:
    """Chance (density for a measured one) of what was seen where the density is truly so."""
    if trial.density is not None:
        off = (trial.density - density) / METER_SD
        return np.asarray(
            (1 - SLIPS) * np.exp(-(off**2) / 2) / (METER_SD * np.sqrt(2 * np.pi)) + SLIPS
        )
    if trial.score is None:
        raise ValueError("A piece needs a score or a density to teach anything.")
    edges = (-np.inf, *SCORE_FROM, np.inf)
    low, high = edges[trial.score - 1], edges[trial.score]
    filled = density / trial.share
    inside = ndtr((high - filled) / EYE_SD) - ndtr((low - filled) / EYE_SD)
    return np.asarray((1 - SLIPS) * inside + SLIPS / (len(SCORE_FROM) + 1))


def _taught(trials: list[Trial], grid: _Grid, prior: dye.Law) -> Taught:
    weights, log_rate, activation = grid.weights, grid.log_rate, grid.activation
    by_rate, by_activation = weights.sum(axis=1), weights.sum(axis=0)
    rate, energy = float(by_rate @ log_rate), float(by_activation @ activation)
    rate_sd = float(np.sqrt(by_rate @ (log_rate - rate) ** 2))
    energy_sd = float(np.sqrt(by_activation @ (activation - energy) ** 2))
    joint = (log_rate - rate)[:, None] * (activation - energy)[None, :]
    correlation = float((weights * joint).sum() / max(rate_sd * energy_sd, 1e-12))
    law = dye.Law(prior.rate_per_s * float(np.exp(rate)), energy)
    seen = [
        t.share * score_middle(t.score or 1) if t.density is None else t.density for t in trials
    ]

    def predicted(by: dye.Law) -> np.ndarray:
        doses = [over_time(t.course, by.at, t.interface)[0] for t in trials]
        pairs = zip(doses, trials, strict=True)
        return np.array([float(dye.density(dose, t.share)) for dose, t in pairs])

    return Taught(
        law,
        LawKnown(rate_sd, energy_sd, float(np.clip(correlation, -0.99, 0.99))),
        np.array(seen, float),
        predicted(prior),
        predicted(law),
        len(trials),
    )


@dataclass(frozen=True)
class ThermocoupleTrace:
    """A thermocouple's trace (t,) under a stack, and the course computed where it lay:
    `face_c(contact_factor, sheet_factor, times)` in °C.
    """

    face_c: Callable[[float, float, np.ndarray], np.ndarray]
    time_s: np.ndarray
    seen_c: np.ndarray

    def thinned(self) -> "ThermocoupleTrace":
        """So many samples as count."""
        count = len(self.time_s)
        keep = np.unique(np.linspace(0, count - 1, TRACE_POINTS).round().astype(int))
        return ThermocoupleTrace(
            self.face_c, np.asarray(self.time_s)[keep], np.asarray(self.seen_c)[keep]
        )


@dataclass(frozen=True)
class HeatTaught:
    """Factors on contact resistances and on the sheets' conductivity, each with its standard share;
    for each trace the temperatures before and after, and by how much all miss (rms, K).
    """

    contact_factor: float
    contact_share: float
    sheet_factor: float
    sheet_share: float
    traces: list[ThermocoupleTrace]
    before_c: list[np.ndarray]
    after_c: list[np.ndarray]

    @property
    def missed_k(self) -> tuple[float, float]:
        """Root mean square before and after, K."""
        seen = np.concatenate([trace.seen_c for trace in self.traces])
        before, after = (
            np.concatenate(summary) - seen for summary in (self.before_c, self.after_c)
        )
        return float(np.sqrt(np.mean(before**2))), float(np.sqrt(np.mean(after**2)))


def teach_heat(traces: list[ThermocoupleTrace]) -> HeatTaught:
    """Factors that traces teach: the most probable ones, and their spread by curvature.

    ValueError without traces.
    """
    if not traces:
        raise ValueError("There are no traces to learn from.")
    traces = [trace.thinned() for trace in traces]
    shares = np.array([CONTACT_SHARE, PROPERTY_SHARE])

    def computed(contact: float, sheet: float) -> list[np.ndarray]:
        return [trace.face_c(contact, sheet, trace.time_s) for trace in traces]

    def residuals(z: np.ndarray) -> np.ndarray:
        contact, sheet = np.exp(shares * z)
        pairs = zip(computed(float(contact), float(sheet)), traces, strict=True)
        return np.concatenate([*((summary - t.seen_c) / TRACE_SD_K for summary, t in pairs), z])

    found = least_squares(residuals, np.zeros(2), diff_step=1e-3)
    spread = np.sqrt(np.diag(np.linalg.inv(found.jac.T @ found.jac)))
    contact, sheet = (float(v) for v in np.exp(shares * found.x))
    contact_share, sheet_share = (float(v) for v in shares * spread)
    before, after = computed(1.0, 1.0), computed(contact, sheet)
    return HeatTaught(contact, contact_share, sheet, sheet_share, traces, before, after)
