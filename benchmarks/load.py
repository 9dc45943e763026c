"""A full shop: 30 benches that log an entry a second each beside 20 live loggers (nine channels,
ten times a second) and two people who open a page after another, for ten minutes.

Needs the demo running (`./tempermark demo` in another shell); adds presses and starts runs in it.
TEMPERMARK_BENCH_MINUTES shortens it for a try; TEMPERMARK_BENCH_READERS=0 leaves the two people
out.
"""

import os
import statistics
import subprocess
import threading
import time
from itertools import pairwise
from uuid import uuid4

import numpy as np

from benchmarks import benches, machine
from benchmarks.benches import Bench
from benchmarks.browser import say
from benchmarks.demo_room import demo_address, largest_mb, signed_in
from launcher import paths, server
from launcher.cluster import cluster
from tempermark.stand_ins.heated_platen import HeatedPlaten
from tempermark.stand_ins.logger import INTERVAL_S, Logger

BENCHES, LOGGERS = 30, 20
READERS = int(os.environ.get("TEMPERMARK_BENCH_READERS", "2"))
MINUTES = float(os.environ.get("TEMPERMARK_BENCH_MINUTES", "10"))
PAGES = ("/", "/logbook/", "/plans/", "/jobs/", "/recipes/", "/presses/heron/", "/surveys/")
NEW_PRESS = """
from tempermark.web.live.stream.keys import make_key
from tempermark.web.measure.models import Instrument
from tempermark.web.measure.surveys.grids import grid_places
from tempermark.web.presses.models import Element, Press
logger, _ = Instrument.objects.get_or_create(name="logger of the load", kind="logger")
for n in range({count}):
    press, _ = Press.objects.get_or_create(
        slug=f"load-{{n}}", defaults={{"name": f"Load {{n}}", "kind": "swing_away"}})
    element, _ = Element.objects.get_or_create(press=press, width_mm=400, height_mm=500)
    print(make_key(None, element, logger, grid_places("3x3", 400, 500)))
"""


def run() -> None:
    """Print errors, what was kept, and times in milliseconds; memory of the largest worker."""
    address = demo_address()
    if address is None:
        return
    benches.SECONDS = int(MINUTES * 60)
    keys = _keys()
    loggers = [Logger(address, key, uuid4()) for key in keys]
    found = [Bench(address) for _ in range(BENCHES)]
    readers = [Reader(address) for _ in range(READERS)]
    ended, minutes = threading.Event(), Minutes()
    threads = [threading.Thread(target=bench.log) for bench in found]
    threads += [threading.Thread(target=reader.read, args=(ended,)) for reader in readers]
    threads.append(threading.Thread(target=_sample, args=(loggers, ended, minutes)))
    for logger in loggers:
        logger.start()
    for thread in threads:
        thread.start()
    for thread in threads[:BENCHES]:
        thread.join()
    ended.set()
    for thread in threads[BENCHES:]:
        thread.join()
    whole = all(logger.end() for logger in loggers)
    minutes.say(found)
    _report(found, readers, loggers, whole)


def _keys() -> list[str]:
    database = cluster("demo")
    port, _ = database.start()
    env = server.environment("demo", database.environment(port))
    command = [str(paths.python()), "-m", "django", "shell", "-v", "0", "-c"]
    code = NEW_PRESS.format(count=LOGGERS)
    done = subprocess.run([*command, code], env=env, check=True, capture_output=True, text=True)
    return done.stdout.split()


class Minutes:
    """What others on the same hardware had of its cores, minute by minute."""

    def __init__(self) -> None:
        self._ticks = [machine.ticks()]
        self._at_s = [time.monotonic()]

    def go_on(self) -> None:
        """Begin another minute where one is over."""
        if time.monotonic() - self._at_s[-1] >= 60.0:
            self._ticks.append(machine.ticks())
            self._at_s.append(time.monotonic())

    def say(self, found: list[Bench]) -> None:
        """Print each whole minute's entries, and those of all in which the cores were ours."""
        sent = [pair for bench in found for pair in zip(bench.sent_s, bench.times, strict=True)]
        ours: list[float] = []
        for number, (begun, ended) in enumerate(pairwise(self._at_s)):
            times = [ms for at_s, ms in sent if begun <= at_s < ended]
            if len(times) < 2:
                print(f"  minute {number + 1}: {len(times)} entries")
                continue
            share = machine.taken_share(*self._ticks[number : number + 2])
            ours += times if share < machine.MUCH else []
            print(
                f"  minute {number + 1}: {len(times)} entries, median "
                f"{statistics.median(times):.0f} ms, 95 % {_p95(times):.0f} ms; others on this "
                f"hardware had {share:.0%} of its cores"
            )
        if ours:
            say(f"an entry of the minutes in which others had less than {machine.MUCH:.0%}", ours)


def _sample(loggers: list[Logger], ended: threading.Event, minutes: Minutes) -> None:
    """All loggers take ten samples a second."""
    platens = [HeatedPlaten(200.0, 170.0, np.random.default_rng(i)) for i in range(len(loggers))]
    began, step = time.monotonic(), 0
    while not ended.is_set():
        for logger, platen in zip(loggers, platens, strict=True):
            platen.step(INTERVAL_S)
            logger.take(platen.sample(INTERVAL_S))
        step += 1
        minutes.go_on()
        time.sleep(max(0.0, began + step * INTERVAL_S - time.monotonic()))


class Reader:
    """Somebody who opens a page a second."""

    def __init__(self, address: str) -> None:
        self.address, self.browser = address, signed_in(address)
        self.times: list[float] = []
        self.errors: list[str] = []

    def read(self, ended: threading.Event) -> None:
        """Go from page to page."""
        turn = 0
        while not ended.wait(1.0):
            begun = time.perf_counter()
            try:
                self.browser.open(self.address + PAGES[turn % len(PAGES)]).read()
            except OSError as error:
                self.errors.append(str(error))
            self.times.append(1e3 * (time.perf_counter() - begun))
            turn += 1


def _report(found: list[Bench], readers: list[Reader], loggers: list[Logger], whole: bool) -> None:
    entries = [t for bench in found for t in bench.times]
    pages = [t for reader in readers for t in reader.times]
    wrong = [e for bench in found for e in bench.errors]
    wrong += [e for reader in readers for e in reader.errors]
    kept = sum(bench.kept for bench in found)
    print(
        f"{BENCHES} benches, {LOGGERS} loggers, {READERS} readers, {MINUTES:g} min: {len(entries)} "
        f"entries sent, {kept} kept, {len(pages)} pages, {len(wrong)} errors; samples "
        f"{sum(logger.taken for logger in loggers)}{'' if whole else ', NOT all confirmed'}"
    )
    for error in wrong[:3]:
        print(f"  {error}")
    say(f"an entry; 95 % {_p95(entries) / statistics.median(entries):.1f} × the median", entries)
    if pages:
        say("a page", pages)
    confirmed = [1e3 * t for logger in loggers for t in logger.confirmed_after_s]
    say("a sample confirmed", confirmed)
    print(f"largest worker {largest_mb():.0f} MB")


def _p95(times: list[float]) -> float:
    return statistics.quantiles(times, n=20)[-1]
