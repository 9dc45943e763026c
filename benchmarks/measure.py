"""The map of a 25-reading survey: ours against scikit-learn's Gaussian process regressor.

Twice: first the smooth beliefs alone (each a kernel with plane, margins and noise, weighed by
its evidence), then the whole model, where each local fault is one more kernel to fit for every
belief that ours keeps. Ours does the whole model in both, and the joint verdict, usable
rectangle and next point besides; cells are 60 × 75.
"""

import statistics
import time

import numpy as np
from sklearn.gaussian_process import GaussianProcessRegressor
from sklearn.gaussian_process.kernels import DotProduct, Kernel, Matern, WhiteKernel

from benchmarks.adaptive import NOISE_C, SIZE_MM, grid_5x5
from tempermark.core.metrology.map import field as ours
from tempermark.core.metrology.map import field_prior as prior
from tempermark.core.metrology.map.imagined import imagine
from tempermark.core.metrology.map.usable import Grid
from tempermark.core.metrology.survey import TemperatureSurvey, temperature_survey

REPEATS = 9
SEED = 77
BASIS, FAULT = len(prior.BASIS_MEAN), prior.FAULT_SPREAD_C**2


class OnPlaten(Kernel):
    """A kernel on x and y or on the basis, of inputs that hold both side by side."""

    def __init__(self, inner, columns, scale=1.0):
        self.inner, self.columns, self.scale = inner, columns, scale

    def __call__(self, x, y=None, eval_gradient=False):
        """The inner kernel's matrix on this part of the input."""
        other = None if y is None else y[:, self.columns]
        return self.scale * self.inner(x[:, self.columns], other)

    def diag(self, x):
        """The inner kernel's diagonal."""
        return self.scale * self.inner.diag(x[:, self.columns])

    def is_stationary(self):
        """A basis is not."""
        return False


def _inputs(place_mm: np.ndarray, reach_mm: float) -> np.ndarray:
    shape = prior.basis(place_mm, np.array(SIZE_MM), reach_mm) * prior.BASIS_SPREAD
    return np.hstack([place_mm, shape])


def _kernel(rest: prior.SmoothRest):
    smooth = OnPlaten(Matern(rest.length_mm, nu=2.5), slice(0, 2), rest.amplitude_c**2)
    linear = OnPlaten(DotProduct(sigma_0=0.0), slice(2, None))
    noise = WhiteKernel((rest.noise_factor * NOISE_C) ** 2)
    return smooth + linear + noise


def theirs(place_mm: np.ndarray, deviation_c: np.ndarray, cells_mm: np.ndarray) -> np.ndarray:
    """Weighed mean (m,) over the cells, with each belief's spread predicted too."""
    log_weight, means = [], []
    for rest in prior.smooth_rests():
        fixed = GaussianProcessRegressor(_kernel(rest), optimizer=None, alpha=0.0)
        size, reach = np.array(SIZE_MM), rest.margin_reach_mm
        residual = deviation_c - prior.basis(place_mm, size, reach) @ prior.BASIS_MEAN
        fixed.fit(_inputs(place_mm, reach), residual)
        log_weight.append(fixed.log_marginal_likelihood_value_ + np.log(rest.chance))
        mean, _ = fixed.predict(_inputs(cells_mm, reach), return_std=True)
        means.append(mean + prior.basis(cells_mm, size, reach) @ prior.BASIS_MEAN)
    weight = np.exp(np.array(log_weight) - max(log_weight))
    return weight @ np.array(means) / weight.sum()


def theirs_whole(field: ours.Field, place_mm, deviation_c, cells_mm) -> np.ndarray:
    """The whole model by their regressor: mean (m,) over kept beliefs and all faults."""
    size, chance = np.array(SIZE_MM), field.faults.chance
    seen, query = field.faults.shape(place_mm), field.faults.shape(cells_mm)
    log_weight, means = [], []
    for member in field.members:
        rest, reach = member.rest, member.rest.margin_reach_mm
        residual = deviation_c - prior.basis(place_mm, size, reach) @ prior.BASIS_MEAN
        at_rest = prior.basis(cells_mm, size, reach) @ prior.BASIS_MEAN
        for fault in range(-1, len(chance)):
            kernel, x, cells = _kernel(rest), _inputs(place_mm, reach), _inputs(cells_mm, reach)
            before = 1 - chance.sum()
            if fault >= 0:
                bump = OnPlaten(DotProduct(sigma_0=0.0), slice(2 + BASIS, None), FAULT)
                kernel, before = kernel + bump, chance[fault]
                x = np.column_stack([x, seen[:, fault]])
                cells = np.column_stack([cells, query[:, fault]])
                kernel.k1.k1.k2.columns = slice(2, 2 + BASIS)
            fixed = GaussianProcessRegressor(kernel, optimizer=None, alpha=0.0).fit(x, residual)
            weight = fixed.log_marginal_likelihood_value_ + np.log(rest.chance * before)
            log_weight.append(weight)
            means.append(fixed.predict(cells) + at_rest)
    share = np.exp(np.array(log_weight) - max(log_weight))
    return share @ np.array(means) / share.sum()


def without_faults(field: ours.Field, cells_mm: np.ndarray) -> np.ndarray:
    """Our mean (m,) with the same beliefs and no local fault, for the comparison."""
    weight = np.array([m.weight for m in field.members])
    means = [c @ m.weights + at_rest for m, c, _, at_rest in field._at(cells_mm)]
    return weight @ np.array(means) / weight.sum()


def run() -> None:
    """Print both times, their ratio, and how far the predictions lie apart."""
    rng = np.random.default_rng(SEED)
    platen, place = imagine(*SIZE_MM, rng), grid_5x5()
    deviation = platen.deviation_c(place) + NOISE_C * rng.standard_normal(25)
    cells = Grid(*SIZE_MM).places_mm
    survey = TemperatureSurvey(
        *SIZE_MM,
        set_c=195.0,
        target_c=195.0,
        tolerance_c=5.0,
        place_mm=place,
        value_c=195.0 + deviation,
        repeatability_c=NOISE_C,
    )
    whole, other, alone = [], [], []
    for _ in range(REPEATS):
        alone.append(_seconds(lambda: _map_alone(place, deviation, cells)))
        whole.append(_seconds(lambda: temperature_survey(survey, np.random.default_rng(1))))
        other.append(_seconds(lambda: theirs(place, deviation, cells)))
    field = ours.fit_field(place, deviation, NOISE_C, SIZE_MM)
    apart = np.abs(without_faults(field, cells) - theirs(place, deviation, cells))
    mine, theirs_s = statistics.median(whole), statistics.median(other)
    alone_s = statistics.median(alone)
    print(f"ours, map with verdict, usable area and next point: {1000 * mine:.0f} ms")
    print(f"ours, fit, mean and spread on the cells alone: {1000 * alone_s:.0f} ms")
    print(f"scikit-learn, the same without local faults: {1000 * theirs_s:.0f} ms")
    print(
        f"  ratio {theirs_s / alone_s:.1f} ({theirs_s / mine:.1f} with our verdict, area and next "
        f"point); predictions at most {apart.max():.3f} K apart"
    )
    start = time.perf_counter()
    whole_model = theirs_whole(field, place, deviation, cells)
    taken = time.perf_counter() - start
    apart = np.abs(field.mean(cells) - whole_model)
    print(f"scikit-learn, the whole model with its local faults: {1000 * taken:.0f} ms")
    print(
        f"  ratio {taken / mine:.0f} with our verdict, area and next point; predictions at most "
        f"{apart.max():.3f} K apart"
    )


def _map_alone(place, deviation, cells) -> None:
    """What their regressor does: fit, then mean and spread on the cells."""
    field, grid = ours.fit_field(place, deviation, NOISE_C, SIZE_MM), Grid(*SIZE_MM)
    for values in field.moments(grid.nodes_mm):
        grid.from_nodes(values)


def _seconds(act) -> float:
    start = time.perf_counter()
    act()
    return time.perf_counter() - start
