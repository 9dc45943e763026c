"""What a page costs with a year's pieces against what it costs with a week's, in one run.

Needs the demo running (`./tempermark demo` in another shell). Fills it: FEW pieces, then MANY with
READINGS readings of earlier surveys; throw the demo's data away afterwards (`demo --reset`).
"""

import statistics
import subprocess
import time
import urllib.request

from benchmarks.demo_room import demo_address, largest_mb, signed_in
from launcher import paths, server
from launcher.cluster import cluster

FEW, MANY, READINGS = 2_000, 200_000, 50_000
ROUNDS, WARM_UP = 9, 4
SAME_WORK = 50_000
LIMIT = 1.3
# What is opened beside every page that needs no key: one of each kind that has one.
PAGES = (
    "/presses/heron/",
    "/presses/heron/pressure/",
    "/presses/heron/setting/",
    "/presses/heron/live/",
    "/presses/heron/test-presses/new/",
    "/presses/heron/calibration/",
    "/plans/next/heron/",
    "/recipes/dye-on-a-polyester-vest/",
    "/recipes/dye-on-a-polyester-vest/heat/",
    "/recipes/dye-on-a-polyester-vest/prepare/",
    "/recipes/dye-on-a-polyester-vest/versions/",
    "/windows/?recipe=dye-on-a-polyester-vest",
    "/cases/1/",
    "/surveys/1/",
    "/surveys/1/pieces/",
    "/instruments/1/",
    "/instruments/1/pieces/",
    "/jobs/1/",
    "/orders/1/",
    "/experiments/1/",
    "/test-presses/1/",
    "/faults/ghosting/",
)
ROUTES = """
from django.urls import get_resolver
def walk(resolver, before):
    for entry in resolver.url_patterns:
        route = before + str(entry.pattern)
        if hasattr(entry, "url_patterns"):
            walk(entry, route)
        elif "<" not in route:
            print("/" + route)
walk(get_resolver(), "")
"""
# They answer for as long as one listens, end the session, or are no page.
NOT_OPENED = ("/sign-out/", "/runs/worker.js", "/files/room.zip", "/files/surveys.zip", "/due.ics")


def run() -> None:
    """Print milliseconds of each page with few and with many, and their ratio, the worst first."""
    address = demo_address()
    if address is None:
        return
    browser = signed_in(address, "maren")
    routes = _manage(["shell", "-v", "0", "-c", ROUTES]).split()
    wanted = [*(r for r in routes if r not in NOT_OPENED), *PAGES]
    pages = [page for page in dict.fromkeys(wanted) if _is_page(browser, address + page)]
    _fill(FEW, 0)
    few, beside = _times(browser, address, pages)
    print(f"largest worker {largest_mb():.0f} MB")
    _fill(MANY, READINGS)
    many, beside_many = _times(browser, address, pages)
    # What the machine does for others goes up and down between the two parts.
    slower = beside_many / beside
    print(f"the machine by itself: {beside:.2f} → {beside_many:.2f} ms, {slower:.2f} ×, taken out")
    print(f"largest worker {largest_mb():.0f} MB")
    for page in sorted(pages, key=lambda page: few[page] / many[page]):
        ratio = many[page] / few[page] / slower
        mark = "  over" if ratio > LIMIT else ""
        print(f"{page}: {few[page]:.0f} → {many[page]:.0f} ms, {ratio:.2f} ×{mark}")


def _is_page(browser: urllib.request.OpenerDirector, url: str) -> bool:
    """Whether a page is there without anything being chosen first."""
    try:
        answer = browser.open(url)
        return "text/html" in answer.headers["Content-Type"] and bool(answer.read())
    except OSError:
        return False


def _fill(pieces: int, readings: int) -> None:
    """Fill the demo, let PostgreSQL look at it once, and let the worker's counts be kept."""
    _manage(["many_presses", "--count", str(pieces), "--readings", str(readings)])
    _manage(["keep_counts"])
    look = "from django.db import connection as c; c.cursor().execute('VACUUM ANALYZE')"
    _manage(["shell", "-v", "0", "-c", look])


def _manage(arguments: list[str]) -> str:
    database = cluster("demo")
    port, _ = database.start()
    env = server.environment("demo", database.environment(port))
    command = [str(paths.python()), "-m", "django", *arguments]
    return subprocess.run(command, env=env, check=True, capture_output=True, text=True).stdout


def _times(
    browser: urllib.request.OpenerDirector, address: str, pages: list[str]
) -> tuple[dict[str, float], float]:
    """Median of the faster half of some rounds of each page, and of what is always the same work
    between them, in ms: what else the machine does is left aside.
    """
    times: dict[str, list[float]] = {page: [] for page in pages}
    beside = []
    for turn in range(WARM_UP + ROUNDS):
        for page in pages:
            begun = time.perf_counter()
            browser.open(address + page).read()
            if turn >= WARM_UP:
                times[page].append(1e3 * (time.perf_counter() - begun))
                beside.append(_same_work())
    return {page: _of_faster_half(taken) for page, taken in times.items()}, _of_faster_half(beside)


def _same_work() -> float:
    """Milliseconds of an addition repeated in this process."""
    begun, total = time.perf_counter(), 0
    for number in range(SAME_WORK):
        total += number
    return 1e3 * (time.perf_counter() - begun)


def _of_faster_half(taken_ms: list[float]) -> float:
    return statistics.median(sorted(taken_ms)[: (len(taken_ms) + 1) // 2])
