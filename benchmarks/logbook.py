"""The logbook with many presses: list, every filter and yield against the floor page. Filters are
asked for as the page itself does it: the rows alone.

Needs the demo running, filled by `./tempermark manage --demo many_presses`; only reads.
"""

import re
import statistics
import time
import urllib.request

from benchmarks.browser import say
from benchmarks.demo_room import demo_address, signed_in

PAGES = {
    "floor": "/",
    "list": "/logbook/",
    "older page": "/logbook/?after={middle}",
    "press": "/logbook/?press=1",
    "recipe": "/logbook/?recipe={recipe}",
    "blank": "/logbook/?blank={blank}",
    "symptom": "/logbook/?symptom=ghosting",
    "outcome": "/logbook/?outcome=spoiled",
    "lot": "/logbook/?lot=F-17",
    "text in a note": "/logbook/?q=humid",
    "text nowhere": "/logbook/?q=zeppelin",
    "two words": "/logbook/?q=heron+paper",
    "dates": "/logbook/?since=2025-03-01&until=2025-03-31",
    "all of them": "/logbook/?press=1&outcome=good&q=tape&symptom=ghosting",
    "yield": "/logbook/yield/?since=2026-08-01",
}
FILTERS = set(PAGES) - {"floor", "list", "older page", "yield"}
ROUNDS, WARM_UP = 15, 2
OPTION = r'<select name="{0}".*?<option value="(\d+)"'


def run() -> None:
    """Print median and 95th percentile in milliseconds, and medians as shares of the floor's."""
    address = demo_address()
    if address is None:
        return
    browser = signed_in(address)
    page = browser.open(f"{address}/logbook/").read().decode()
    print(re.search(r'<p class="lead">(.*?)press', page, re.DOTALL)[1].strip(), "presses")
    known = {
        name: re.search(OPTION.format(name), page, re.DOTALL)[1] for name in ("recipe", "blank")
    }
    known["middle"] = f"{int((time.time() - 500 * 86400) * 1e6)}.1"
    times: dict[str, list[float]] = {name: [] for name in PAGES}
    for turn in range(WARM_UP + ROUNDS):
        for name, path in PAGES.items():
            begun = time.perf_counter()
            rows_only = {"HX-Request": "true"} if name in FILTERS else {}
            request = urllib.request.Request(address + path.format(**known), headers=rows_only)
            browser.open(request).read()
            if turn >= WARM_UP:
                times[name].append(1e3 * (time.perf_counter() - begun))
    floor = statistics.median(times["floor"])
    for name, taken in times.items():
        say(f"{name}, {statistics.median(taken) / floor:.1f} × the floor", taken)
