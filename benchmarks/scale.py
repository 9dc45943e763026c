"""What a page costs with a year's pieces against what it costs with a week's, side by side.

Needs the demo running (`./tempermark demo` in another shell). Beside it a second demo is built and
served from a database of its own: FEW pieces there, MANY and READINGS readings of earlier surveys
in the running one. Each page is opened in both in turn, so that a machine whose speed wanders slows
both. Throw the demo's data away afterwards (`demo --reset`).
"""

import statistics
import subprocess
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager

import psycopg

from benchmarks.demo_room import demo_address, largest_mb, signed_in
from launcher import paths, server
from launcher.cluster import cluster, free_port

FEW, MANY, READINGS = 2_000, 200_000, 50_000
ROUNDS, WARM_UP = 9, 4
# A page over the limit is opened so often once more, and all rounds count.
MORE_ROUNDS = 18
LIMIT = 1.3
SECOND, FIRST_PORT = "few", 8690
DROPPED = f'DROP DATABASE IF EXISTS "{SECOND}" WITH (FORCE)'
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
    _fill(_environment(), MANY, READINGS)
    with _second_demo() as beside:
        both = (signed_in(beside, "maren"), beside), (signed_in(address, "maren"), address)
        routes = _manage(_environment(), ["shell", "-v", "0", "-c", ROUTES]).split()
        wanted = [*(r for r in routes if r not in NOT_OPENED), *PAGES]
        pages = [page for page in dict.fromkeys(wanted) if all(_is_page(*o, page) for o in both)]
        _open(both, pages, WARM_UP)
        times = _open(both, pages, ROUNDS)
        over = [page for page in pages if _ratio(times[page]) > LIMIT]
        for page, (few, many) in _open(both, over, MORE_ROUNDS).items():
            times[page][0].extend(few)
            times[page][1].extend(many)
    print(f"{len(pages)} pages; largest worker {largest_mb():.0f} MB")
    for page in sorted(pages, key=lambda page: -_ratio(times[page])):
        few_ms, many_ms = map(_of_faster_half, times[page])
        mark = "  over" if many_ms / few_ms > LIMIT else ""
        print(f"{page}: {few_ms:.0f} → {many_ms:.0f} ms, {many_ms / few_ms:.2f} ×{mark}")


@contextmanager
def _second_demo() -> Iterator[str]:
    """The address of a demo with few pieces, there and served until the end."""
    env = _environment() | {"TEMPERMARK_DB_NAME": SECOND}
    _execute(env, DROPPED, f'CREATE DATABASE "{SECOND}"')
    _manage(env, ["prepare_room", "--demo"])
    _fill(env, FEW, 0)
    port = free_port(FIRST_PORT, "Port")
    process = server.start(SECOND, port, env)
    try:
        yield f"http://127.0.0.1:{port}"
    finally:
        server.stop(process)
        server.state_file(SECOND).unlink(missing_ok=True)
        _execute(env, DROPPED)


def _execute(env: dict[str, str], *statements: str) -> None:
    """Run statements that no transaction may hold, beside the demo's own database."""
    found = psycopg.connect(
        host=env["TEMPERMARK_DB_HOST"],
        port=env["TEMPERMARK_DB_PORT"],
        user=env["TEMPERMARK_DB_USER"],
        password=env["TEMPERMARK_DB_PASSWORD"],
        dbname="postgres",
        autocommit=True,
    )
    with found:
        for statement in statements:
            found.execute(statement)


def _is_page(browser: urllib.request.OpenerDirector, address: str, page: str) -> bool:
    """Whether a page is there without anything being chosen first."""
    try:
        answer = browser.open(address + page)
        return "text/html" in answer.headers["Content-Type"] and bool(answer.read())
    except OSError:
        return False


def _fill(env: dict[str, str], pieces: int, readings: int) -> None:
    """Fill a demo, let PostgreSQL look at it once, and let the worker's counts be kept."""
    _manage(env, ["many_presses", "--count", str(pieces), "--readings", str(readings)])
    _manage(env, ["keep_counts"])
    look = "from django.db import connection as c; c.cursor().execute('VACUUM ANALYZE')"
    _manage(env, ["shell", "-v", "0", "-c", look])


def _environment() -> dict[str, str]:
    """That of the running demo."""
    database = cluster("demo")
    port, _ = database.start()
    return server.environment("demo", database.environment(port))


def _manage(env: dict[str, str], arguments: list[str]) -> str:
    command = [str(paths.python()), "-m", "django", *arguments]
    return subprocess.run(command, env=env, check=True, capture_output=True, text=True).stdout


def _open(
    both: tuple[tuple[urllib.request.OpenerDirector, str], ...], pages: list[str], rounds: int
) -> dict[str, tuple[list[float], list[float]]]:
    """Milliseconds of each page in either demo, in turn."""
    times: dict[str, tuple[list[float], list[float]]] = {page: ([], []) for page in pages}
    for turn in range(rounds):
        for page in pages:
            for which in (0, 1) if turn % 2 else (1, 0):
                browser, address = both[which]
                begun = time.perf_counter()
                browser.open(address + page).read()
                times[page][which].append(1e3 * (time.perf_counter() - begun))
    return times


def _ratio(times: tuple[list[float], list[float]]) -> float:
    return _of_faster_half(times[1]) / _of_faster_half(times[0])


def _of_faster_half(taken_ms: list[float]) -> float:
    """Their median: what else the machine does is left aside."""
    return statistics.median(sorted(taken_ms)[: (len(taken_ms) + 1) // 2])
