"""Heat through the stack: ours against scipy's solve_ivp on the same cells at equal error.

Five layers of a vest for 60 s, moisture on. Theirs integrates dT/dt = flux ÷ apparent heat capacity
with the banded structure told, by BDF and Radau, at the loosest tolerance whose faces are as near
to a reference (cells as ours, steps sixteen times finer) as ours are; the faster of both counts.
"""

import resource
import statistics
import time
from functools import partial
from typing import Any

import numpy as np
from scipy.integrate import solve_ivp

from tempermark.core.thermal.library.materials import materials
from tempermark.core.thermal.result.outcome import Adhesive, Piece, reached
from tempermark.core.thermal.result.outcome import outcome as outcome_of
from tempermark.core.thermal.solver import closing as press
from tempermark.core.thermal.solver import conduction, kernel
from tempermark.core.thermal.solver.closing import Closing, cells_of
from tempermark.core.thermal.solver.places import carried, press_places
from tempermark.core.thermal.solver.stack import contact_m2k_w

LAYERS = ("parchment", "transfer_paper", "polyester_jersey", "plain_paper", "silicone_pad")
TIME_S, HUMIDITY, KPA = 60.0, 0.5, 30.0
AT_S = np.array([2.0, 5.0, 10.0, 20.0, 40.0, 60.0])
PLACES = 32 * 24
# All that can come out: dye, an adhesive, dyed cloth, a blank that softens.
PIECE = Piece(1, adhesive=Adhesive(136.0), migrates_c=165.0, dyed=0.5, softens_c=215.0)
REPEATS = 7
TOLERANCES = (1e-2, 3e-3, 1e-3, 3e-4, 1e-4, 3e-5, 1e-5, 1e-6)


def closing(places: int, rng=None) -> Closing:
    """The vest at places of their own temperature and pressure."""
    library = materials()
    warm, kpa = np.full(places, 198.0), np.full(places, KPA)
    if rng is not None:
        warm = 198.0 + 4 * rng.standard_normal(places).clip(-2, 2)
        kpa = KPA * np.exp(0.3 * rng.standard_normal(places).clip(-2, 2))
    return Closing(
        layers=[library[name].layer(HUMIDITY) for name in LAYERS],
        initial_c=22.0,
        time_s=TIME_S,
        upper_c=warm,
        lower_c=np.full(places, 22.0),
        pressure_kpa=kpa,
    )


class Theirs:
    """The same cells as an ordinary differential equation."""

    def __init__(self):
        cells = cells_of(closing(1))
        half = cells.dx_m / 2 / cells.conductivity
        resistance = half[:-1] + half[1:]
        resistance[cells.last[:-1]] += contact_m2k_w(KPA)
        self.cells, self.half, self.between = cells, half, 1 / resistance

    def rate(self, _, temperature):
        """dT/dt of every cell."""
        between = self.between * (temperature[:-1] - temperature[1:])
        net = np.zeros_like(temperature)
        net[1:] += between
        net[:-1] -= between
        net[0] += (198.0 - temperature[0]) / self.half[0]
        net[-1] -= (temperature[-1] - 22.0) / self.half[-1]
        left = np.clip((kernel.BOILS_TO_C - temperature) / kernel.BAND_K, 0, 1)
        boils = (temperature > kernel.BOILS_FROM_C) & (temperature < kernel.BOILS_TO_C)
        water = self.cells.water_kg_m2
        capacity = self.cells.dry_j_m2k + water * left * kernel.WATER_J_KGK
        return net / (capacity + np.where(boils, water * kernel.LATENT_J_KG / kernel.BAND_K, 0.0))

    def faces(self, method: str, tolerance: float) -> np.ndarray:
        """Receiving faces (times, interfaces)."""
        banded: dict[str, Any] = {"lband": 1, "uband": 1} if method == "LSODA" else {}
        if method in ("BDF", "Radau"):
            count = len(self.cells.dx_m)
            banded = {"jac_sparsity": np.eye(count) + np.eye(count, k=1) + np.eye(count, k=-1)}
        solved = solve_ivp(
            self.rate,
            (0.0, TIME_S),
            self.cells.initial_c,
            method,
            t_eval=AT_S,
            rtol=tolerance,
            atol=tolerance * 100,
            **banded,
        )
        values = solved.y.T
        last, first = self.cells.last[:-1], self.cells.first[1:]
        flux = self.between[last] * (values[:, last] - values[:, first])
        return values[:, first] + flux * self.half[first]


def timed(work, repeats: int = REPEATS) -> float:
    """Median seconds."""
    took = []
    for _ in range(repeats):
        begun = time.perf_counter()
        work()
        took.append(time.perf_counter() - begun)
    return statistics.median(took)


def reference() -> np.ndarray:
    """Our cells with steps sixteen times finer."""
    result = closing(1)
    parts = press._bounds(result)
    course = conduction.run(
        cells_of(result), press._contacts(result), parts, TIME_S, tuple(AT_S), 16.0
    )
    return press.at_times(course, AT_S)[:, 0]


def run() -> None:
    """Print times, ratios and how cost grows."""
    exact, one = reference(), closing(1)
    begun = time.perf_counter()
    press.press(one)
    print(
        f"first call in this process (loads the kept kernel): {time.perf_counter() - begun:.2f} s"
    )
    ours = press.at_times(press.press(one), AT_S)[:, 0]
    error = float(np.abs(ours - exact).max())
    single = timed(lambda: press.press(one))
    print(f"one stack, {len(cells_of(one).dx_m)} cells: {single * 1e3:.1f} ms, {error:.3f} K off")
    theirs = Theirs()
    best = min(_theirs(theirs, method, exact, error) for method in ("BDF", "Radau"))
    print(f"ratio for one stack: {best / single:.0f} times faster than the better of theirs")
    _platens(best)


def _theirs(theirs: Theirs, method: str, exact, error: float) -> float:
    for tolerance in TOLERANCES:
        off = float(np.abs(theirs.faces(method, tolerance) - exact).max())
        if off <= max(error, 1e-3) or tolerance == TOLERANCES[-1]:
            took = timed(lambda: theirs.faces(method, tolerance), 3)  # noqa: B023
            print(f"  {method} at {tolerance:g}: {took * 1e3:.0f} ms, {off:.3f} K off")
            return took
    raise AssertionError("the last tolerance returns")


def _platens(single_theirs: float) -> None:
    def outcome(result: Closing):
        platen = press_places(result)
        kpa = platen.lattice.nodes.pressure_kpa
        reaches = reached(platen.lattice.course, PIECE, kpa)
        return outcome_of(
            reaches.carried(partial(carried, platen.weights)), PIECE, result.pressure_kpa
        )

    for factor in (1, 4, 16):
        places = PLACES * factor // 16
        result = closing(places, np.random.default_rng(1))
        outcome(result)
        took = timed(lambda: outcome(result))  # noqa: B023
        _say(f"{places} places with outcome", took, places, single_theirs)
    used = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"memory of the process so far, at most: {used:.0f} MB")
    for factor in (1, 4, 16):
        places = PLACES * factor // 16
        result = closing(places, np.random.default_rng(1))
        direct = timed(lambda: press.press(result), 1)  # noqa: B023
        _say(f"{places} places each alone", direct, places, single_theirs)
    summary = press_places(result).over(lambda c: c.below_c[-1])
    off = np.abs(summary - press.press(result).below_c[-1]).max()
    print(f"carried over the lattice against each place alone: {off:.4f} K at most")


def _say(what: str, took: float, places: int, theirs: float) -> None:
    each = took / places
    print(
        f"{what}: {took * 1e3:.0f} ms, {each * 1e3:.3f} ms each, {theirs / each:.0f} times faster"
    )


if __name__ == "__main__":
    run()
