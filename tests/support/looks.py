"""Surveys of an imagined element of 400 × 500 mm that keeps its shape."""

import numpy as np

from tempermark.core.metrology.memory.looks import Look

SIZE = (400.0, 500.0)
NOISE, TOLERANCE = 0.5, 5.0


def grid(n=5):
    lines = [np.linspace(25.0, size - 25.0, n) for size in SIZE]
    return np.column_stack([a.ravel() for a in np.meshgrid(*lines)])


def shape(place):
    """An element that keeps its shape: a tilt, a dent."""
    dent = np.exp(-0.5 * ((place - [120.0, 380.0]) ** 2).sum(axis=1) / 80.0**2)
    return 0.4 * (place[:, 0] - 200.0) / 100.0 - 3.0 * dent


def looks(count=2, level=0.0, seed=3, gun="A", **more):
    rng = np.random.default_rng(seed)
    return [
        Look(
            grid(),
            shape(grid()) + level + NOISE * rng.standard_normal(25),
            30.0 * (n + 1),
            NOISE,
            gun,
            0.4,
            **more,
        )
        for n in range(count)
    ]
