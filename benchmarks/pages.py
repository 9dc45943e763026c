"""How long the server takes for the pages that compute most, against the floor page in one run.

Needs the demo running (`./tempermark demo` in another shell); only reads.
"""

import statistics
import time

from benchmarks.browser import say
from benchmarks.demo_room import demo_address, signed_in

PAGES = {
    "floor": "/",
    "lessons": "/lessons/",
    "recipe": "/recipes/dye-on-a-polyester-vest/",
    "windows": "/windows/?recipe=dye-on-a-polyester-vest",
    "heat": "/recipes/dye-on-a-polyester-vest/heat/",
    "board": "/cases/1/",
}
ROUNDS, WARM_UP = 15, 3


def run() -> None:
    """Print median and 95th percentile in milliseconds, and medians as shares of the floor's."""
    address = demo_address()
    if address is None:
        return
    browser = signed_in(address)
    times: dict[str, list[float]] = {name: [] for name in PAGES}
    for turn in range(WARM_UP + ROUNDS):
        for name, path in PAGES.items():
            begun = time.perf_counter()
            browser.open(address + path).read()
            if turn >= WARM_UP:
                times[name].append(1e3 * (time.perf_counter() - begun))
    floor = statistics.median(times["floor"])
    for name, taken in times.items():
        say(f"{name}, {statistics.median(taken) / floor:.1f} × the floor", taken)
