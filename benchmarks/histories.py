"""Surveys of presses that are known, on imagined histories: three sets of 300 presses, six surveys
a month apart.

The first survey of each knows nothing and goes as few readings as it needs; the others remember,
with the rates that so many presses would have taught.
Beside each a fresh 5 × 5 grid with the same gun. The truth is the dense hidden field. One set tells
each bar to a few readings in a hundred; the table is of all sets, a line of each stands before it.
"""

from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from functools import lru_cache, partial
from itertools import pairwise

import numpy as np
from scipy.stats import binom

from benchmarks.adaptive import EDGES, NOISE_C, SIZE_MM, TOLERANCE_C, grid_5x5, share_of
from tempermark.core.metrology.map import verdict as decide
from tempermark.core.metrology.map.adaptive import MOST_READINGS, first_places, is_decided
from tempermark.core.metrology.map.field import fit_field
from tempermark.core.metrology.map.imagined import (
    OFFSET_SPREAD_C,
    TILT_SPREAD_C_PER_100MM,
    imagine,
)
from tempermark.core.metrology.map.outlook import LIMIT_WIDTH_C, extremes, keeps, outlook
from tempermark.core.metrology.memory.imagined import (
    FAULT_CHANCE,
    FAULT_DEPTH_C,
    GUN_COMMON_C,
    INTERVAL_DAYS,
    ImaginedState,
    imagine_fault,
    imagine_history,
)
from tempermark.core.metrology.memory.kept import Kept, keep
from tempermark.core.metrology.memory.learning import rest_chances, unevenness
from tempermark.core.metrology.memory.looks import Look, Rates
from tempermark.core.metrology.memory.steps import survey_known

PRESSES, SURVEYS, FIRST_SEEDS = 300, 6, (50_000, 90_000, 130_000)
LARGE_FAULT_C = 6.0
# The share of the reliability table's rows that lie in their interval where all chances are true.
INSIDE = 0.95
COLUMNS = (
    "press",
    "number",
    "good",
    "worst_c",
    "probability",
    "readings",
    "new_c",
    "unchanged",
    "with_fault",
    "keeps_5_c",
    "keeps_95_c",
    "is_limit",
    "grid",
)
# So many presses that are not among those of the sets have taught how uneven they are.
TAUGHT, TAUGHT_SEED = 300, 20_000
Read = tuple[float, np.ndarray, np.ndarray, np.ndarray]


@lru_cache(maxsize=1)
def taught_rates() -> Rates:
    """What as many presses would have taught: how uneven they are by a map of each, the others as
    they were imagined.
    """
    place, evidence = grid_5x5(), []
    for number in range(TAUGHT):
        rng = np.random.default_rng(TAUGHT_SEED + number)
        value = imagine(*SIZE_MM, rng).deviation_c(place) + NOISE_C * rng.standard_normal(25)
        evidence.append(unevenness(place, value, NOISE_C, SIZE_MM))
    return Rates(
        new_chance=FAULT_CHANCE,
        kind_level_c=OFFSET_SPREAD_C,
        kind_fall_c_per_100mm=TILT_SPREAD_C_PER_100MM,
        rest_chance=rest_chances(evidence),
    )


def one_press(seed: int) -> list[list[float]]:
    """A row of `COLUMNS` for each survey of a press."""
    rng = np.random.default_rng(seed)
    looks: list[Look] = []
    rows = []
    for number, state in enumerate(imagine_history(*SIZE_MM, SURVEYS, rng)):
        low, high = state.extremes_c()
        worst = max(-low, high)
        change, unchanged, with_fault = None, np.nan, np.nan
        if number == 0:
            probability, place, value, kept_c = _first(state, rng)
        else:
            kept = keep(looks, SIZE_MM, taught_rates(), state.gun, GUN_COMMON_C)
            read = partial(_read, state, rng=rng)
            standing = survey_known(kept, read, TOLERANCE_C, NOISE_C, rng)
            recalled = standing.recalled
            probability, unchanged = standing.probability_within, recalled.unchanged
            place, value, change = recalled.place_mm, recalled.deviation_c, recalled.change
            kept_c = _keeps(standing.draws)
            if state.new is None:
                with_fault = _with_fault(kept, state, np.random.default_rng([seed, number]))
        rows.append(
            [
                seed,
                number,
                float(worst <= TOLERANCE_C),
                worst,
                probability,
                len(value),
                state.new.depth_c if state.new else 0.0,
                unchanged,
                with_fault,
                *kept_c,
                _by_grid(state, rng),
            ]
        )
        newest = Look(place, value, 0.0, NOISE_C, state.gun, GUN_COMMON_C, change=change)
        looks = [_a_month_older(look) for look in [*looks, newest]]
    return rows


def _with_fault(kept: Kept, state: ImaginedState, rng: np.random.Generator) -> float:
    """The chance 0–1 that nothing is new, found where a large fault is put in just before."""
    depth = float(rng.uniform(LARGE_FAULT_C, FAULT_DEPTH_C[1]))
    fault = replace(imagine_fault(np.array(SIZE_MM), rng), depth_c=depth)
    broken = replace(state, faults=(*state.faults, fault), new=fault)
    found = survey_known(kept, partial(_read, broken, rng=rng), TOLERANCE_C, NOISE_C, rng)
    return found.recalled.unchanged


def _a_month_older(look: Look) -> Look:
    return Look(
        look.place_mm,
        look.deviation_c,
        look.days_ago + INTERVAL_DAYS,
        look.repeatability_c,
        look.gun,
        look.common_c,
        change=look.change,
    )


def _read(state: ImaginedState, place: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    noise = NOISE_C * rng.standard_normal(len(place))
    return state.deviation_c(place) + state.gun_error_c + noise


def _first(state: ImaginedState, rng: np.random.Generator) -> Read:
    """A survey that knows nothing; its probability, places, values, tolerances it keeps."""
    place = first_places(*SIZE_MM)
    value = _read(state, place, rng)
    while True:
        field = fit_field(place, value, NOISE_C, SIZE_MM)
        draws = decide.draw_field(field, *SIZE_MM, GUN_COMMON_C, rng)
        within = decide.all_within(draws, 0.0, TOLERANCE_C)
        if is_decided(float(within.mean()), len(value)) or len(value) >= MOST_READINGS:
            return float(within.mean()), place, value, _keeps(draws)
        at = np.array([decide.next_place(draws, within, field.noise_c, *SIZE_MM, place)])
        place, value = np.vstack([place, at]), np.append(value, _read(state, at, rng))


def _keeps(draws: decide.Draws) -> np.ndarray:
    """The tolerances in K that are kept with 5 and with 95 %; and whether the page would say of an
    open verdict that the element is at the limit.
    """
    found = extremes(draws)
    is_limit = outlook(found, GUN_COMMON_C, TOLERANCE_C, []).is_limit
    return np.array([keeps(found, 0.05), keeps(found, 0.95), is_limit])


def _by_grid(state: ImaginedState, rng: np.random.Generator) -> float:
    place = grid_5x5()
    field = fit_field(place, _read(state, place, rng), NOISE_C, SIZE_MM)
    draws = decide.draw_field(field, *SIZE_MM, GUN_COMMON_C, rng)
    return float(decide.all_within(draws, 0.0, TOLERANCE_C).mean())


def simulate(presses: int, first_seed: int) -> dict[str, np.ndarray]:
    """Columns (presses × surveys,) of all rows."""
    taught_rates()
    with ProcessPoolExecutor() as pool:
        found = pool.map(one_press, range(first_seed, first_seed + presses))
        table = np.array([row for rows in found for row in rows])
    return dict(zip(COLUMNS, table.T, strict=True))


def run() -> None:
    """Print the table of the bars: readings, right and wrong verdicts, faults, reliability."""
    sets = [simulate(PRESSES, seed) for seed in FIRST_SEEDS]
    for seed, rows in zip(FIRST_SEEDS, sets, strict=True):
        _say_set(seed, rows)
    _table({name: np.concatenate([rows[name] for rows in sets]) for name in COLUMNS})


def _say_set(seed: int, rows: dict[str, np.ndarray]) -> None:
    """A line of one set, so that it is seen how far sets of this size differ."""
    same, large = _unchanged(rows), _large(rows)
    out = _rows_out(_reliability(rows))
    print(
        f"set from {seed}: unchanged {rows['readings'][same].mean():.2f} readings, faults missed "
        f"{(rows['unchanged'][large] >= 0.5).mean():.1%}, put in one by one "
        f"{(rows['with_fault'][same] >= 0.5).mean():.1%}, {out} of the table's rows out"
    )


def _unchanged(rows: dict[str, np.ndarray]) -> np.ndarray:
    """Which surveys remember a press to which nothing has happened since."""
    return np.asarray((rows["number"] > 0) & (rows["new_c"] == 0))


def _large(rows: dict[str, np.ndarray]) -> np.ndarray:
    """Which surveys come after a large fault that is new."""
    return np.asarray((rows["number"] > 0) & (rows["new_c"] >= LARGE_FAULT_C))


def _table(rows: dict[str, np.ndarray]) -> None:
    later, good = rows["number"] > 0, rows["good"].astype(bool)
    same, large = _unchanged(rows), _large(rows)
    presses = len(np.unique(rows["press"]))
    print(f"{presses} imagined presses × {SURVEYS} surveys, {later.sum()} of them remember")
    for name, here in (
        ("first surveys", rows["number"] == 0),
        ("unchanged", same),
        ("unchanged and decided", same & _is_decided(rows)),
        ("something new", later & ~same),
        ("all that remember", later),
    ):
        _say(name, rows, here, good)
    decided = later & _is_decided(rows)
    limit = later & ~decided & rows["is_limit"].astype(bool)
    closely = later & ~decided & (rows["keeps_95_c"] - rows["keeps_5_c"] <= LIMIT_WIDTH_C)
    inside = (rows["worst_c"] >= rows["keeps_5_c"]) & (rows["worst_c"] <= rows["keeps_95_c"])
    print(
        f"decided, or at the limit with what is kept: {(decided | limit)[later].mean():.1%}, "
        f"known closely with what readings share too {(decided | closely)[later].mean():.1%}; "
        f"at the limit the truth within 5 and 95 %: {inside[limit].mean():.1%}"
    )
    put_in = rows["with_fault"][same]
    by_itself = rows["unchanged"][large]
    for name, unchanged in (
        ("", by_itself),
        (", put in one by one", put_in),
        (", both together", np.append(by_itself, put_in)),
    ):
        missed, least, most = share_of(unchanged >= 0.5)
        print(
            f"faults of {LARGE_FAULT_C:g} K or more{name}: {len(unchanged)}, missed {missed:.1%} "
            f"({least:.1%}–{most:.1%})"
        )
    print(f"false alarms on unchanged presses: {(rows['unchanged'][same] < 0.5).mean():.1%}")
    bins = _reliability(rows)
    for stated, true, least, most, count in bins:
        mark = "" if least <= stated <= most else "  OUT"
        print(
            f"    stated {stated:.3f}, true {true:.3f} ({least:.3f}–{most:.3f}), "
            f"{count} surveys{mark}"
        )
    between = later & ~decided
    share, low, high = share_of(good[between], rows["press"][between])
    print(
        f"all that are open: stated {rows['probability'][between].mean():.3f}, true {share:.3f} "
        f"({low:.3f}–{high:.3f})"
    )
    for name, chance, of in (
        ("within its tolerance", rows["probability"], good),
        ("nothing new", rows["unchanged"], rows["new_c"] == 0),
    ):
        print(f"Brier score of “{name}” {((chance - of)[later] ** 2).mean():.4f}")
    out = _rows_out(bins)
    by_chance = float(binom.sf(out - 1, len(bins), 1 - INSIDE))
    print(
        f"{out} of {len(bins)} rows out of their {INSIDE:.0%} interval; as many or more are in "
        f"{by_chance:.0%} of tables whose every chance is true"
    )


def _reliability(rows: dict[str, np.ndarray]) -> list[tuple[float, float, float, float, int]]:
    """Of the surveys that remember: each bin's stated chance, the true share with its 95 %
    interval, and how many there are. Surveys of one press are alike.
    """
    found = []
    for low, high in pairwise(EDGES):
        here = (rows["number"] > 0) & (rows["probability"] >= low) & (rows["probability"] < high)
        if here.any():
            share = share_of(rows["good"][here], rows["press"][here])
            found.append((float(rows["probability"][here].mean()), *share, int(here.sum())))
    return found


def _rows_out(bins: list[tuple[float, float, float, float, int]]) -> int:
    """How many of a reliability table's rows lie outside their interval."""
    return sum(not least <= stated <= most for stated, _, least, most, _ in bins)


def _is_decided(rows: dict[str, np.ndarray]) -> np.ndarray:
    return np.asarray((rows["probability"] >= 0.95) | (rows["probability"] <= 0.05))


def _say(name: str, rows: dict[str, np.ndarray], here: np.ndarray, good: np.ndarray) -> None:
    for how, column in (("", "probability"), (", fresh 5 × 5", "grid")):
        stated, true = rows[column][here], good[here]
        right = (stated >= 0.95) & true | (stated <= 0.05) & ~true
        wrong = (stated >= 0.95) & ~true | (stated <= 0.05) & true
        count = rows["readings"][here].mean() if column == "probability" else 25.0
        print(
            f"{name}{how}: {here.sum()}, {count:.2f} readings, right {right.mean():.1%}, wrong "
            f"{wrong.mean():.1%}, undecided {1 - right.mean() - wrong.mean():.1%}"
        )
