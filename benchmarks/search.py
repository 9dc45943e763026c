"""Search against a ladder: blanks and success on imagined shops that neither has seen.

Each shop has its own display error, dye, limits and stack; every score is right four times in five.
The ladder raises the dwell at the middle dial until a piece is full and not overdone, confirms it,
and starts over one step hotter where the dwell runs out.
"""

import time

import numpy as np

from tempermark.core.experiments.search import (
    FILLED_FROM,
    OVERDONE_FROM,
    SEEN,
    ScoredPress,
    score_of,
    search,
)
from tempermark.core.experiments.surface import drawn_shops, surface

SHOPS, MOST_BLANKS, DISPLAY_SD_K = 300, 10, 3.0
WINDOWS = {
    "cloth": ((180.0, 215.0), (15.0, 120.0), "medium", 10.0),
    "hard_coat": ((180.0, 215.0), (20.0, 160.0), "medium", 15.0),
    "plastic": ((150.0, 200.0), (10.0, 60.0), "light", 5.0),
    "hot_melt": ((130.0, 175.0), (3.0, 30.0), "medium", 3.0),
}


def scored(table, shop, set_c, time_s, rng):
    """A press with the scores that a person gives it."""
    found = table.expected(shop, np.array([set_c]), np.array([time_s]))
    given = []
    for values, edges, rises in (
        (found.filled, FILLED_FROM, True),
        (found.risk, OVERDONE_FROM, False),
    ):
        true = int(score_of(values, edges, rises)[0, 0])
        given.append(int(rng.choice(5, p=SEEN[true - 1])) + 1)
    return ScoredPress(set_c, time_s, *given)


def is_good(table, shop, set_c, time_s):
    """Whether a setting is good in that shop."""
    found = table.expected(shop, np.array([set_c]), np.array([time_s]))
    return bool(found.filled[0, 0] >= 0.9 and found.risk[0, 0] <= 0.2)


def adaptive(table, warm, dwell, shop, rng):
    """Blanks until the search stops, and whether the setting that it confirms is good."""
    tested: list[ScoredPress] = []
    while True:
        found = search(table, warm, dwell, tested, DISPLAY_SD_K)
        if found.stops or len(tested) == MOST_BLANKS:
            return len(tested), is_good(table, shop, found.best.set_c, found.best.time_s)
        press = found.next_press
        tested.append(scored(table, shop, press.set_c, press.time_s, rng))


def ladder(table, warm, dwell, step_s, shop, rng):
    """Blanks of the one-factor ladder, and whether what it confirms is good."""
    blanks = 0
    middle = sum(warm) / 2
    for set_c in (middle, middle + 8, middle - 8):
        for time_s in np.arange(dwell[0], dwell[1] + 1e-9, step_s):
            first = scored(table, shop, set_c, time_s, rng)
            blanks += 1
            if first.overdone_score < 4:
                break
            if first.density_score == 5:
                second = scored(table, shop, set_c, time_s, rng)
                blanks += 1
                if second.density_score == 5 and second.overdone_score >= 4:
                    return blanks, is_good(table, shop, set_c, time_s)
    return blanks, False


def run():
    """Both on the same shops of every material; distributions, and the ratio of blanks in all."""
    everything = []
    for receiver, (warm, dwell, pressure, step_s) in WINDOWS.items():
        table = surface(receiver, pressure)
        shops = drawn_shops(SHOPS, DISPLAY_SD_K, table.rate_share, 4242)
        begun = time.perf_counter()
        rows = []
        for n in range(SHOPS):
            shop = shops.chosen(np.array([n]))
            first = adaptive(table, warm, dwell, shop, np.random.default_rng(n))
            second = ladder(table, warm, dwell, step_s, shop, np.random.default_rng(n))
            rows.append((*first, *second))
        everything += rows
        report(f"{receiver}, {SHOPS} shops in {time.perf_counter() - begun:.0f} s", rows)
    report(f"all {len(everything)} shops", everything)


def report(title, rows):
    """Blanks and success of both, and how the blanks are distributed."""
    found = np.array(rows, float)
    mine, other = found[:, 0], found[:, 2]
    print(
        f"{title}: search {mine.mean():.2f} blanks, good {found[:, 1].mean():.1%}; ladder "
        f"{other.mean():.2f}, good {found[:, 3].mean():.1%}; ratio of blanks "
        f"{mine.mean() / other.mean():.2f}",
        flush=True,
    )
    for name, blanks in (("search", mine), ("ladder", other)):
        counts = np.bincount(blanks.astype(int))
        shown = ", ".join(f"{n}: {count}" for n, count in enumerate(counts) if count)
        print(f"  blanks of the {name}, so many shops each: {shown}", flush=True)
