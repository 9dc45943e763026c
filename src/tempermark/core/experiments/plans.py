"""Plans of experiments: ladders, comparisons in blocks, factorials; what is pressed in which order.

Source: handbook 1 §7: one thing at a time; the order of a comparison is random within blocks, so
that a platen that drifts favours no arm.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import product

import numpy as np

from tempermark.core.errors import InputError

UP, DOWN, BOTH = "up", "down", "both"
DIRECTIONS = (UP, DOWN, BOTH)
FEWEST_LEVELS, MOST_PRESSES = 2, 60


@dataclass(frozen=True)
class PlannedRung:
    """A press that is planned: its level of each factor by name, the block it belongs to, and on
    which scrap it is made; both counted from 1.
    """

    levels: Mapping[str, float | str]
    block: int = 1
    scrap: int = 1


@dataclass(frozen=True)
class ExperimentPlan:
    """Presses in the order in which they are made."""

    presses: tuple[PlannedRung, ...]
    factors: Mapping[str, tuple[float | str, ...]] = field(default_factory=dict)

    @property
    def blanks(self) -> int:
        """Blanks that it spends, a number: several dwells on one scrap count as one."""
        return len({press.scrap for press in self.presses})


def ladder(
    factor: str,
    low: float,
    high: float,
    rungs: int,
    direction: str = UP,
    one_scrap: bool = False,
    repeats: int = 1,
) -> ExperimentPlan:
    """A ladder of one factor from low to high in even steps, in the factor's own unit (°C, s, kPa).

    `both` begins in the middle and goes outward in turn, so that it may end early. `one_scrap`
    covers one scrap step by step: all its rungs spend one blank. Raises InputError for a ladder of
    one level, or one that goes nowhere.
    """
    if rungs < FEWEST_LEVELS:
        raise InputError.single("rungs", "A ladder needs two rungs at least: one shows no change.")
    if not high > low:
        raise InputError.single("high", "The last rung must be above the first.")
    _not_too_many(rungs * repeats)
    values = [float(v) for v in np.linspace(low, high, rungs)]
    ordered = _ordered(values, direction)
    presses = []
    for block in range(1, repeats + 1):
        for n, value in enumerate(ordered):
            scrap = block if one_scrap else (block - 1) * rungs + n + 1
            presses.append(PlannedRung({factor: value}, block, scrap))
    return ExperimentPlan(tuple(presses), {factor: tuple(values)})


def _ordered(values: list[float], direction: str) -> list[float]:
    if direction == DOWN:
        return values[::-1]
    if direction == UP:
        return values
    middle = (len(values) - 1) / 2
    return [v for _, v in sorted(enumerate(values), key=lambda p: (abs(p[0] - middle), p[0]))]


def comparison(
    factor: str, arms: Sequence[str], repeats: int, rng: np.random.Generator
) -> ExperimentPlan:
    """Arms against each other in blocks: each block has every arm once, in an order of its own; a
    number of repeats. Raises InputError for fewer than two arms or arms of one name.
    """
    return factorial({factor: tuple(arms)}, repeats, rng)


def factorial(
    factors: Mapping[str, Sequence[float | str]], repeats: int, rng: np.random.Generator
) -> ExperimentPlan:
    """Every combination of the levels once in each block, in random order; a number of repeats.

    Raises InputError where a factor has one level, a level comes twice, or there are too many
    presses.
    """
    for name, levels in factors.items():
        if len(levels) < FEWEST_LEVELS:
            raise InputError.single(
                name, f"{name.capitalize()} has one level: with one there is nothing to compare."
            )
        if len({str(level).strip().lower() for level in levels}) < len(levels):
            raise InputError.single(name, f"{name.capitalize()} has the same level twice.")
    cells = list(product(*factors.values()))
    _not_too_many(len(cells) * repeats)
    presses: list[PlannedRung] = []
    for block in range(1, repeats + 1):
        for n in rng.permutation(len(cells)):
            cell = dict(zip(factors, cells[n], strict=True))
            presses.append(PlannedRung(cell, block, len(presses) + 1))
    return ExperimentPlan(tuple(presses), {name: tuple(v) for name, v in factors.items()})


def _not_too_many(count: int) -> None:
    if count > MOST_PRESSES:
        raise InputError.single(
            "repeats", f"{count} presses are more than one sheet holds: at most {MOST_PRESSES}."
        )
