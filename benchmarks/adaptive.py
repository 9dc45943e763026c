"""Adaptive order stopped when decided against the fixed 5 × 5 grid, on imagined platens.

The truth is the dense hidden field, rims included; the model sees readings with noise.
"""

from concurrent.futures import ProcessPoolExecutor
from itertools import pairwise

import numpy as np

from tempermark.core.metrology.map import verdict as decide
from tempermark.core.metrology.map.adaptive import (
    INSET_SHARE,
    LARGEST_INSET_MM,
    survey_until_decided,
)
from tempermark.core.metrology.map.field import fit_field
from tempermark.core.metrology.map.imagined import imagine

PLATENS, FIRST_SEED = 300, 20_000
SIZE_MM, TOLERANCE_C, NOISE_C = (400.0, 500.0), 5.0, 0.8
Z = 1.96
EDGES = (0.0, 0.05, 0.2, 0.4, 0.6, 0.8, 0.95, 1.0001)


def grid_5x5() -> np.ndarray:
    """The stations of the fixed grid, (25, 2) in mm."""
    lines = []
    for size in SIZE_MM:
        inset = min(LARGEST_INSET_MM, INSET_SHARE * size)
        lines.append(np.linspace(inset, size - inset, 5))
    return np.column_stack([a.ravel() for a in np.meshgrid(*lines)])


def one_platen(seed: int) -> tuple[bool, float, float, int]:
    """Truth, probability by the grid, probability and readings of the adaptive order."""
    rng = np.random.default_rng(seed)
    platen = imagine(*SIZE_MM, rng)
    low, high = platen.extremes_c()

    def read(place):
        return platen.deviation_c(place) + NOISE_C * rng.standard_normal(len(place))

    place = grid_5x5()
    field = fit_field(place, read(place), NOISE_C, SIZE_MM)
    draws = decide.draw_field(field, *SIZE_MM, 0.0, rng)
    fixed = float(decide.all_within(draws, 0.0, TOLERANCE_C).mean())
    adaptive, count = survey_until_decided(read, SIZE_MM, TOLERANCE_C, NOISE_C, rng)
    return low >= -TOLERANCE_C and high <= TOLERANCE_C, fixed, adaptive, count


def simulate(platens: int, first_seed: int) -> np.ndarray:
    """Rows of `one_platen` (platens, 4) as numbers."""
    with ProcessPoolExecutor() as pool:
        return np.array(list(pool.map(one_platen, range(first_seed, first_seed + platens))), float)


def tally(good: np.ndarray, probability: np.ndarray) -> dict[str, int]:
    """Right, wrongly passed, wrongly failed and undecided verdicts."""
    passed, failed = probability >= decide.PASS_FROM, probability <= decide.FAIL_UP_TO
    return {
        "right": int((passed & good | failed & ~good).sum()),
        "wrong pass": int((passed & ~good).sum()),
        "wrong fail": int((failed & good).sum()),
        "undecided": int((~passed & ~failed).sum()),
    }


def run() -> None:
    """Print verdicts, readings and the reliability table."""
    rows = simulate(PLATENS, FIRST_SEED)
    good = rows[:, 0].astype(bool)
    print(f"{PLATENS} imagined platens, {good.mean():.0%} of them within ±{TOLERANCE_C:g} K")
    for name, column, count in (("5 × 5 grid", 1, 25.0), ("adaptive", 2, rows[:, 3].mean())):
        summary = ", ".join(f"{v} {k}" for k, v in tally(good, rows[:, column]).items())
        print(f"{name:11} {count:5.1f} readings on average: {summary}")
        for low, high in pairwise(EDGES):
            here = (rows[:, column] >= low) & (rows[:, column] < high)
            if here.any():
                stated, (true, least, most) = rows[here, column].mean(), share_of(good[here])
                print(
                    f"    stated {stated:.2f}, true {true:.2f} ({least:.2f}–{most:.2f}), "
                    f"{here.sum()} platens"
                )
        brier = float(((rows[:, column] - good) ** 2).mean())
        print(f"    Brier score {brier:.3f}, of a constant {good.mean() * (1 - good.mean()):.3f}")


def share_of(good: np.ndarray, of: np.ndarray | None = None) -> tuple[float, float, float]:
    """Share of true ones with its 95 % interval (Wilson 1927); `of` (n,) says what each belongs to,
    where several of one are alike.
    """
    count, share = len(good) / (1.0 if of is None else design_effect(good, of)), float(good.mean())
    centre = (share + Z**2 / (2 * count)) / (1 + Z**2 / count)
    half = Z / (1 + Z**2 / count) * (share * (1 - share) / count + (Z / (2 * count)) ** 2) ** 0.5
    return share, centre - half, centre + half


def design_effect(good: np.ndarray, of: np.ndarray) -> float:
    """By how much likeness within clusters `of` (n,) widens the variance of a share (Kish 1965)."""
    plain = float(good.var()) * len(good)
    if plain == 0:
        return 1.0
    _, cluster = np.unique(of, return_inverse=True)
    off = np.bincount(cluster, weights=good - good.mean())
    return max(1.0, float(off @ off) / plain * len(off) / max(len(off) - 1, 1))
