"""Pressure maps of presses that are known, on imagined histories: 500 presses, six maps two months
apart. Beside each short map the nine strips of a whole one, pulled by the same arm.

The truth is what strips would show that nobody's arm blurs, on a grid of 5 × 5.
"""

from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace

import numpy as np

from benchmarks.adaptive import share_of
from tempermark.core.metrology.memory.looks import FoundChanges
from tempermark.core.pressure.map.field import MEAN_MM
from tempermark.core.pressure.map.pulls import PULL_STEPS, pull_survey
from tempermark.core.pressure.memory.imagined import (
    FALL_MM,
    FAULT_CHANCE,
    HOLLOW_MM,
    INTERVAL_DAYS,
    LEVEL_MM,
    LEVEL_SPREAD_MM,
    imagine_closings,
)
from tempermark.core.pressure.memory.kept import keep_pressure
from tempermark.core.pressure.memory.looks import (
    MOST_PRESSURE_LOOKS,
    PressureLook,
    PressureRates,
    strips_look,
)
from tempermark.core.pressure.memory.steps import strips_of_known
from tempermark.core.pressure.press.spring import usual_pad

PRESSES, MAPS, FIRST_SEED = 500, 6, 70_000
SIZE_MM = (400.0, 500.0)
PAD = usual_pad("silicone", 8.0)
# With what so many presses would have taught.
RATES = PressureRates(
    new_chance=FAULT_CHANCE,
    kind_level_mm=float(np.hypot(LEVEL_SPREAD_MM, LEVEL_MM - MEAN_MM)),
    kind_fall_mm=FALL_MM,
    kind_hollow_mm=HOLLOW_MM,
)
# A change counts as large where so many of nine strips would truly pull otherwise.
SHOWS_AT = 2
# `unfound`: changes since the oldest map that is remembered that none has found, this one's too.
COLUMNS = (
    "press",
    "number",
    "new_mm",
    "unchanged",
    "strips",
    "truth",
    "known",
    "whole",
    "shows",
    "ever",
    "unfound",
)
VERDICTS = ("pass", "undecided", "fail")


def _grid(lines: int) -> np.ndarray:
    share = np.linspace(0.08, 0.92, lines)
    return np.array([(x * SIZE_MM[0], y * SIZE_MM[1]) for y in share for x in share])


STATIONS, DENSE = _grid(3), _grid(5)


def one_press(seed: int) -> list[list[float]]:
    """A row of `COLUMNS` for each map of a press."""
    rng = np.random.default_rng(seed)
    looks: list[PressureLook] = []
    rows, ever = [], 0
    unfound: list[int] = []
    places = np.vstack([STATIONS, DENSE])
    for number, closing in enumerate(imagine_closings(places, SIZE_MM, MAPS, rng)):
        pulled = closing.pulls(PAD, rng)[: len(STATIONS)]
        truth = closing.pulls(PAD)[len(STATIONS) :]
        whole = pull_survey(*SIZE_MM, STATIONS, _steps(pulled)).verdict
        true_verdict = pull_survey(*SIZE_MM, DENSE, _steps(truth)).verdict
        change: FoundChanges | None = None
        unchanged, known, read = np.nan, whole, dict(enumerate(pulled))
        if looks:
            kept = keep_pressure(looks, SIZE_MM, RATES)
            standing, read = strips_of_known(kept, STATIONS, pulled, PAD)
            unchanged, known = standing.recalled.unchanged, standing.pull.verdict
            change = standing.recalled.change
        new_mm = closing.new.depth_mm if closing.new else 0.0
        found = [seed, number, new_mm, unchanged, len(read)]
        clean = _steps(closing.pulls(PAD)[: len(STATIONS)])
        shows = (clean != _steps(closing.without_new().pulls(PAD)[: len(STATIONS)])).sum()
        ever = ever + (new_mm > 0)
        unfound = [came for came in unfound if came > number - MOST_PRESSURE_LOOKS]
        unfound += [number] if new_mm > 0 else []
        found += [*map(VERDICTS.index, (true_verdict, known, whole)), shows, ever, len(unfound)]
        unfound = [] if unchanged < 0.5 else unfound
        rows.append(found)
        place = STATIONS[sorted(read)]
        newest = strips_look(place, [read[at] for at in sorted(read)], PAD)
        looks.append(replace(newest, change=change))
        looks = [replace(look, days_ago=look.days_ago + INTERVAL_DAYS) for look in looks]
    return rows


def _steps(pulls: list[str]) -> np.ndarray:
    return np.array([PULL_STEPS[pull] for pull in pulls])


def simulate(presses: int, first_seed: int) -> dict[str, np.ndarray]:
    """Columns (presses × maps,) of all rows."""
    with ProcessPoolExecutor() as pool:
        found = pool.map(one_press, range(first_seed, first_seed + presses))
        table = np.array([row for rows in found for row in rows])
    return dict(zip(COLUMNS, table.T, strict=True))


def run(presses: int = PRESSES) -> None:
    """Print strips, right and wrong verdicts beside nine strips', faults missed, false alarms."""
    rows = simulate(presses, FIRST_SEED)
    later = rows["number"] > 0
    same, large = later & (rows["new_mm"] == 0), later & (rows["shows"] >= SHOWS_AT)
    never = later & (rows["ever"] == 0)
    print(f"{presses} imagined presses × {MAPS} pressure maps, {later.sum()} of them remember")
    for name, here in (("unchanged", same), ("something new", later & ~same), ("all", later)):
        for how, column in (("", "known"), (", nine strips", "whole")):
            right = rows[column][here] == rows["truth"][here]
            wrong = np.abs(rows[column][here] - rows["truth"][here]) == 2
            count = rows["strips"][here].mean() if column == "known" else 9.0
            print(
                f"{name}{how}: {here.sum()}, {count:.1f} strips, right {right.mean():.1%}, "
                f"pass for fail or fail for pass {wrong.mean():.1%}"
            )
    print(
        f"changes that {SHOWS_AT} of nine strips or more would show: {large.sum()}, missed "
        f"{(rows['unchanged'][large] >= 0.5).mean():.1%}; false alarms where nothing ever happened "
        f"{(rows['unchanged'][never] < 0.5).mean():.1%} of {never.sum()}"
    )
    for low, high in ((0, 0.1), (0.1, 0.3), (0.3, 0.5), (0.5, 0.7), (0.7, 0.85), (0.85, 1.01)):
        here = later & (rows["unchanged"] >= low) & (rows["unchanged"] < high)
        if here.any():
            # A change that an earlier map missed is found late.
            none = (rows["unfound"][here] == 0).astype(float)
            stated = rows["unchanged"][here].mean()
            true, least, most = share_of(none, rows["press"][here])
            mark = "" if least <= stated <= most else "  OUT"
            print(
                f"    nothing new: stated {stated:.2f}, true {true:.2f} ({least:.2f}–{most:.2f}), "
                f"{here.sum()} maps{mark}"
            )
