"""Search for a good setting: what scored test presses say, the best setting so far and the next
press to try.

Method: Bayesian. Many imagined shops (surface.py) are weighted by how well each explains the
scores; the next press is the one after which, in the mean over what it may show, the best setting
is most likely good (knowledge gradient). Source: handbook 3, “Search for good settings”; scores as
in formats/commands.md, “search”.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from tempermark.core.experiments.surface import Expected, PressTables, Shops, drawn_shops
from tempermark.core.pressing.verdict import GOOD_FROM, RISK_LIMIT

# Where one step of a score becomes the next (formats/commands.md, “search”).
FILLED_FROM = (0.3, 0.55, 0.75, 0.9)
OVERDONE_FROM = (0.1, 0.3, 0.6, 0.85)
# One score in five is off by a step; a slip of the pen says nothing at all.
OFF_BY_ONE, SLIPS = 0.2, 0.01
SHOPS, KEPT, SEED = 12_000, 1500, 77
# The grid of settings that are looked at, and the coarser one of presses to try.
GRID, TRIED = (13, 13), (7, 7)
# Another blank is not worth it once the best setting is this sure, or gains less than that.
SURE, GAINS_LEAST = 0.9, 0.01
# Between presses that teach alike, the more likely good one: it may confirm the setting.
LIKES_GOOD = 0.05
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
    shops = drawn_shops(SHOPS, display_sd_k, surface.rate_share, seed)
    weights, per_press = _weighted(surface, shops, tested)
    shops, weights = _thinned(shops, weights, seed)
    cells = _grid(temperature_c, time_s, GRID)
    good = _is_good(surface.expected(shops, *cells))
    chances = good @ weights
    at = _best_cell(chances, cells)
    region = tuple(
        GoodChance(float(c), float(s), float(p)) for c, s, p in zip(*cells, chances, strict=True)
    )
    gain, tried = _next(surface, shops, weights, good, temperature_c, time_s)
    stops = bool(tested) and (region[at].chance >= SURE or gain < GAINS_LEAST)
    return SearchResult(
        None if stops else tried, region[at], region, gain, stops, per_press < CONTRADICTS
    )


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


def _is_good(expected: Expected) -> np.ndarray:
    return (expected.filled >= GOOD_FROM) & (expected.risk <= RISK_LIMIT)


def _weighted(
    surface: PressTables, shops: Shops, tested: Sequence[ScoredPress]
) -> tuple[np.ndarray, float]:
    """Each shop's weight by the scores, and how likely they are for each press, in the mean."""
    logs = np.zeros(len(shops.rate))
    if not tested:
        return np.full(len(logs), 1 / len(logs)), 1.0
    dials, dwells = (np.array([getattr(t, n) for t in tested]) for n in ("set_c", "time_s"))
    density, overdone = _scores(surface.expected(shops, dials, dwells))
    for press, filled, over in zip(tested, density, overdone, strict=True):
        for given, true in ((press.density_score, filled), (press.overdone_score, over)):
            if given is not None:
                logs += np.log(SEEN[true - 1, given - 1])
    top = logs.max()
    raw = np.exp(logs - top)
    evidence = (np.log(raw.mean()) + top) / len(tested)
    return raw / raw.sum(), float(np.exp(evidence))


def _thinned(shops: Shops, weights: np.ndarray, seed: int) -> tuple[Shops, np.ndarray]:
    """Fewer shops that stand for all: drawn evenly by their weights."""
    rng = np.random.default_rng(seed + 1)
    points = (np.arange(KEPT) + rng.random()) / KEPT
    rows = np.minimum(np.searchsorted(np.cumsum(weights), points), len(weights) - 1)
    return shops.chosen(rows), np.full(KEPT, 1 / KEPT)


def _grid(
    temperature_c: tuple[float, float], time_s: tuple[float, float], points: tuple[int, int]
) -> tuple[np.ndarray, np.ndarray]:
    dials, dwells = np.meshgrid(
        np.linspace(*temperature_c, points[0]), np.linspace(*time_s, points[1]), indexing="ij"
    )
    return dials.ravel(), dwells.ravel()


def _best_cell(chances: np.ndarray, cells: tuple[np.ndarray, np.ndarray]) -> int:
    """The likeliest setting; of those as likely the one in their middle, far from any edge."""
    alike = np.flatnonzero(chances >= chances.max() - 0.01)
    spans = [max(float(np.ptp(values)), 1e-9) for values in cells]
    places = np.stack([c[alike] / s for c, s in zip(cells, spans, strict=True)])
    middle = places.mean(axis=1, keepdims=True)
    return int(alike[np.argmin(((places - middle) ** 2).sum(axis=0))])


def _next(
    surface: PressTables,
    shops: Shops,
    weights: np.ndarray,
    good: np.ndarray,
    temperature_c: tuple[float, float],
    time_s: tuple[float, float],
) -> tuple[float, GoodChance]:
    """What the most teaching press gains in the best setting's chance, and that press."""
    dials, dwells = _grid(temperature_c, time_s, TRIED)
    expected = surface.expected(shops, dials, dwells)
    density, overdone = _scores(expected)
    own_good = _is_good(expected) @ weights
    now = float((good @ weights).max())
    weighted_good = good * weights
    worth = np.empty(len(dials))
    for n in range(len(dials)):
        # Chance of each pair of scores in each shop: (shops, 25).
        pairs = SEEN[density[n] - 1][:, :, None] * SEEN[overdone[n] - 1][:, None, :]
        worth[n] = (weighted_good @ pairs.reshape(len(weights), -1)).max(axis=0).sum()
    at = int(np.argmax(worth + LIKES_GOOD * own_good))
    press = GoodChance(float(dials[at]), float(dwells[at]), float(own_good[at]))
    return max(float(worth[at]) - now, 0.0), press
