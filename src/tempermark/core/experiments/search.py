"""Search for a good setting: what scored test presses say, the best setting so far and the next
press to try.

Method: Bayesian. Many imagined shops (surface.py) are weighted by how well each explains the
scores. The next press is the one that most likely ends the search, by coming out well at a setting
that is then sure, or else leaves the surest setting for the press after it (knowledge gradient with
a stop; a later end counts less by `PATIENCE` for each blank). Source: handbook 3, “Search for good
settings”; scores as in formats/commands.md, “search”.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from tempermark.core.experiments.surface import Expected, PressTables, Shops, drawn_shops
from tempermark.core.pressing.verdict import GOOD_FROM, RISK_LIMIT

# Where one step of a score becomes the next (formats/commands.md, “search”).
FILLED_FROM = (0.3, 0.55, 0.75, 0.9)
OVERDONE_FROM = (0.1, 0.3, 0.6, 0.85)
# What a press that confirms its setting shows at least.
CONFIRMS_DENSITY, CONFIRMS_OVERDONE = 5, 4
# One score in five is off by a step; a slip of the pen says nothing at all.
OFF_BY_ONE, SLIPS = 0.2, 0.01
SHOPS, KEPT, SEED = 8000, 1500, 77
# The grid of settings that are looked at and tried.
GRID = (13, 13)
# So many cells at a time: all at once are two hundred megabytes for a moment.
CELLS_AT_ONCE = 13
# A setting that was pressed well and is this sure is found.
SURE = 0.985
# What an end one blank later is worth of an end now.
PATIENCE = 0.7
# Chances this close are alike: then the setting that was pressed is the better one.
ALIKE = 0.01
# A window in which nothing is likely, and the next press would change little: it is given up.
UNLIKELY, GAINS_LEAST, FEWEST_TO_GIVE_UP = 0.5, 0.01, 3
# No imagined shop explains scores that are this unlikely, for each press.
CONTRADICTS = 0.02


@dataclass(frozen=True)
class ScoredPress:
    """A test press: dial in °C, dwell in s, density (or bond) and overdone scored 1 to 5; None for
    a score that was not given.
    """

    set_c: float
    time_s: float
    density_score: int | None = None
    overdone_score: int | None = None


@dataclass(frozen=True)
class GoodChance:
    """A setting, dial in °C and dwell in s, and its chance 0–1 to come out good."""

    set_c: float
    time_s: float
    chance: float


@dataclass(frozen=True)
class SearchResult:
    """The next press to try (None when to stop), the best setting, all of the grid, what the next
    press would gain in chance, and whether the scores contradict each other.
    """

    next_press: GoodChance | None
    best: GoodChance
    region: tuple[GoodChance, ...]
    gain: float
    stops: bool
    contradicts: bool


@dataclass(frozen=True, eq=False)
class Imagined:
    """Imagined shops (n,) at every cell (g,) of a window: dials in °C, dwells in s; whether it
    comes out good there, and the scores 1–5 that an errorless eye would give: arrays (g, n).
    """

    shops: Shops
    set_c: np.ndarray
    time_s: np.ndarray
    good: np.ndarray
    density: np.ndarray
    overdone: np.ndarray

    def chosen(self, rows: np.ndarray) -> "Imagined":
        """Some of the shops, by their places; units as before (°C, s)."""
        return Imagined(
            self.shops.chosen(rows),
            self.set_c,
            self.time_s,
            self.good[:, rows],
            self.density[:, rows],
            self.overdone[:, rows],
        )


@lru_cache(maxsize=8)
def imagined(
    surface: PressTables,
    temperature_c: tuple[float, float],
    time_s: tuple[float, float],
    display_sd_k: float,
    seed: int = SEED,
) -> Imagined:
    """Shops before anything was pressed, over a window of dials in °C and dwells in s; the
    display's error is known to a standard in K.
    """
    shops = drawn_shops(SHOPS, display_sd_k, surface.rate_share, seed)
    dials, dwells = _grid(temperature_c, time_s)
    good, density, overdone = (
        np.empty((len(dials), SHOPS), kind) for kind in (bool, np.int8, np.int8)
    )
    for first in range(0, len(dials), CELLS_AT_ONCE):
        here = slice(first, first + CELLS_AT_ONCE)
        expected = surface.expected(shops, dials[here], dwells[here])
        good[here] = is_good(expected)
        density[here], overdone[here] = _scores(expected)
    return Imagined(shops, dials, dwells, good, density, overdone)


def search(
    surface: PressTables,
    temperature_c: tuple[float, float],
    time_s: tuple[float, float],
    tested: Sequence[ScoredPress],
    display_sd_k: float,
    seed: int = SEED,
) -> SearchResult:
    """What scored presses say of a window of dials in °C and dwells in s; the display's error is
    known to a standard in K.
    """
    before = imagined(surface, temperature_c, time_s, display_sd_k, seed)
    seen = _weighted(surface, before.shops, tested)
    chances = before.good @ seen.weights
    region = tuple(
        GoodChance(float(c), float(s), float(p))
        for c, s, p in zip(before.set_c, before.time_s, chances, strict=True)
    )
    found = _confirmed(tested, seen)
    gain, tried = _next(before.chosen(_rows(seen.weights, seed)))
    likeliest = region[_best_cell(chances, (before.set_c, before.time_s))]
    best = found if found and found.chance >= likeliest.chance - ALIKE else likeliest
    gives_up = len(tested) >= FEWEST_TO_GIVE_UP and gain < GAINS_LEAST and best.chance < UNLIKELY
    stops = found is not None or gives_up
    return SearchResult(
        None if stops else tried, best, region, gain, stops, seen.per_press < CONTRADICTS
    )


def is_confirming(press: ScoredPress) -> bool:
    """Whether a press shows its setting to be good, by its scores alone (steps from 1 to 5)."""
    return (press.density_score or 0) >= CONFIRMS_DENSITY and (
        press.overdone_score or 0
    ) >= CONFIRMS_OVERDONE


def _confirmed(tested: Sequence[ScoredPress], seen: "_WeighedShops") -> GoodChance | None:
    """The surest setting that a press has confirmed; None while none is sure enough."""
    sure = [
        GoodChance(press.set_c, press.time_s, float(chance))
        for press, chance in zip(tested, seen.chances, strict=True)
        if is_confirming(press) and chance >= SURE
    ]
    return max(sure, key=lambda one: one.chance, default=None)


def score_of(expected: np.ndarray, edges: tuple[float, ...], rises: bool) -> np.ndarray:
    """The score 1–5 that an errorless eye gives to shares 0–1; `rises` where more is better."""
    steps = np.searchsorted(edges, expected, side="right")
    return steps + 1 if rises else 5 - np.searchsorted(edges, expected, side="left")


# The chance of each score (column) where an errorless eye would give a score (row).
_OFF = np.eye(5) * (1 - OFF_BY_ONE)
for _row in range(5):
    _beside = [n for n in (_row - 1, _row + 1) if 0 <= n < 5]
    for _n in _beside:
        _OFF[_row, _n] += OFF_BY_ONE / len(_beside)
SEEN = (1 - SLIPS) * _OFF + SLIPS / 5


def _scores(expected: Expected) -> tuple[np.ndarray, np.ndarray]:
    return (
        score_of(expected.filled, FILLED_FROM, rises=True),
        score_of(expected.risk, OVERDONE_FROM, rises=False),
    )


def is_good(expected: Expected) -> np.ndarray:
    """Whether each comes out good: the density, and every risk as the contract has it."""
    return (expected.filled >= GOOD_FROM) & (expected.risk <= RISK_LIMIT)


@dataclass(frozen=True, eq=False)
class _WeighedShops:
    """Weights (n,) of the shops by the scores, how likely those are for each press in the mean, and
    the chance 0–1 of each pressed setting to be good.
    """

    weights: np.ndarray
    per_press: float
    chances: np.ndarray


def _weighted(surface: PressTables, shops: Shops, tested: Sequence[ScoredPress]) -> _WeighedShops:
    logs = np.zeros(len(shops.rate))
    if not tested:
        return _WeighedShops(np.full(len(logs), 1 / len(logs)), 1.0, np.empty(0))
    dials, dwells = (np.array([getattr(t, n) for t in tested]) for n in ("set_c", "time_s"))
    expected = surface.expected(shops, dials, dwells)
    density, overdone = _scores(expected)
    for press, filled, over in zip(tested, density, overdone, strict=True):
        for given, true in ((press.density_score, filled), (press.overdone_score, over)):
            if given is not None:
                logs += np.log(SEEN[true - 1, given - 1])
    top = logs.max()
    raw = np.exp(logs - top)
    evidence = (np.log(raw.mean()) + top) / len(tested)
    weights = raw / raw.sum()
    return _WeighedShops(weights, float(np.exp(evidence)), is_good(expected) @ weights)


def likely_shops(
    surface: PressTables,
    window: tuple[tuple[float, float], tuple[float, float]],
    tested: Sequence[ScoredPress],
    display_sd_k: float,
) -> Shops:
    """Shops that stand alike for all that the scores leave possible, over a window of (dials in
    °C, dwells in s); the display's error is known to a standard in K.
    """
    before = imagined(surface, *window, display_sd_k)
    weights = _weighted(surface, before.shops, tested).weights
    return before.shops.chosen(_rows(weights, SEED))


def _rows(weights: np.ndarray, seed: int) -> np.ndarray:
    """Fewer shops that stand for all: drawn evenly by their weights."""
    rng = np.random.default_rng(seed + 1)
    points = (np.arange(KEPT) + rng.random()) / KEPT
    return np.minimum(np.searchsorted(np.cumsum(weights), points), len(weights) - 1)


def _grid(
    temperature_c: tuple[float, float], time_s: tuple[float, float]
) -> tuple[np.ndarray, np.ndarray]:
    dials, dwells = np.meshgrid(
        np.linspace(*temperature_c, GRID[0]), np.linspace(*time_s, GRID[1]), indexing="ij"
    )
    return dials.ravel(), dwells.ravel()


def _best_cell(chances: np.ndarray, cells: tuple[np.ndarray, np.ndarray]) -> int:
    """The likeliest setting; of those as likely the one in their middle, far from any edge."""
    alike = np.flatnonzero(chances >= chances.max() - ALIKE)
    spans = [max(float(np.ptp(values)), 1e-9) for values in cells]
    places = np.stack([c[alike] / s for c, s in zip(cells, spans, strict=True)])
    middle = places.mean(axis=1, keepdims=True)
    return int(alike[np.argmin(((places - middle) ** 2).sum(axis=0))])


# Which of the 25 pairs of scores, density by overdone, confirm a setting.
_CONFIRMING = np.array(
    [
        density >= CONFIRMS_DENSITY and overdone >= CONFIRMS_OVERDONE
        for density in range(1, 6)
        for overdone in range(1, 6)
    ]
)


def _next(left: Imagined) -> tuple[float, GoodChance]:
    """What the best press to try gains in the best setting's chance, and that press."""
    count = len(left.shops.rate)
    good = left.good.astype(np.float32)
    chances = good.mean(axis=1)
    worth, gains = np.empty(len(good)), np.empty(len(good))
    for n in range(len(good)):
        # Chance of each pair of scores in each shop: (shops, 25).
        pairs = SEEN[left.density[n] - 1][:, :, None] * SEEN[left.overdone[n] - 1][:, None, :]
        flat = pairs.reshape(count, -1).astype(np.float32) / count
        mass = flat.sum(axis=0)
        best_after = (good @ flat).max(axis=0)
        ends = _CONFIRMING & (good[n] @ flat >= SURE * mass)
        worth[n] = np.where(ends, mass, PATIENCE * best_after).sum()
        gains[n] = best_after.sum()
    at = int(np.argmax(worth))
    press = GoodChance(float(left.set_c[at]), float(left.time_s[at]), float(chances[at]))
    return max(float(gains[at] - chances.max()), 0.0), press
