"""Twelve benches that log an entry a second each for five minutes.

Needs the demo running (`./tempermark demo` in another shell); starts runs in it.
"""

import json
import random
import re
import statistics
import threading
import time
import urllib.request
from uuid import uuid4

from benchmarks.browser import say
from benchmarks.demo_room import demo_address, post, signed_in

BENCHES, SECONDS = 12, 300
RECIPE = "/recipes/dye-on-a-polyester-vest/run/?press=heron"
FIELDS = {
    "press": "heron",
    "quantity": "1000",
    "per_load": "1",
    "placings": "",
    "art_width_mm": "150",
    "art_height_mm": "150",
    "humidity": "",
    "note": "bench",
}
FORMAT = "tempermark.run-entries/1"


def run() -> None:
    """Print errors, entries kept, and median and 95th percentile in milliseconds."""
    address = demo_address()
    if address is None:
        return
    found = [Bench(address) for _ in range(BENCHES)]
    threads = [threading.Thread(target=bench.log) for bench in found]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    times = [t for bench in found for t in bench.times]
    wrong = [e for bench in found for e in bench.errors]
    kept = sum(bench.kept for bench in found)
    print(f"{BENCHES} benches, {SECONDS} s: {len(times)} sent, {kept} kept, {len(wrong)} errors")
    for error in wrong[:3]:
        print(f"  {error}")
    first = [bench.times[0] for bench in found]
    ratio = statistics.quantiles(times, n=20)[-1] / statistics.median(first)
    say(f"an entry; 95 % {ratio:.1f} × the first", times)


class Bench:
    """One tablet: a run of its own, presses one after another."""

    def __init__(self, address: str) -> None:
        self.browser = signed_in(address)
        page = self.browser.open(address + RECIPE).read().decode()
        blank = re.search(r'name="blank".*?<option value="(\d+)"', page, re.DOTALL)[1]
        fields = FIELDS | {"blank": blank, "once": str(uuid4())}
        self.run = post(self.browser, address, RECIPE, RECIPE, fields)
        text = self.browser.open(self.run).read().decode()
        self.token = re.search(r'data-token="([^"]+)"', text)[1]
        plan = json.loads(re.search(r'<script id="run-document-\d+"[^>]*>(.*?)</script>', text)[1])
        self.step = next(s["number"] for s in plan["steps"] if s["is_main"])
        self.times: list[float] = []
        # When each was sent, by a clock that only goes forward.
        self.sent_s: list[float] = []
        self.errors: list[str] = []
        self.kept = 0

    def log(self) -> None:
        """Close, open, judge: an entry each second."""
        # Nobody taps in step with the others.
        time.sleep(random.random())
        end, piece, turn, press = time.monotonic() + SECONDS, 1, 0, str(uuid4())
        while time.monotonic() < end:
            begun = time.monotonic()
            place = {"load": piece, "placing": 0, "step": self.step, "press": press}
            entry = (
                {"kind": "closed", **place, "pieces": [piece], "set_c": 205.0},
                {"kind": "opened", **place, "is_last": True},
                {"kind": "outcome", "pieces": [piece], "outcome": "good"},
            )[turn]
            self._send({"key": str(uuid4()), "at_s": time.time(), **entry})
            turn = (turn + 1) % 3
            if turn == 0:
                piece, press = piece + 1, str(uuid4())
            time.sleep(max(0.0, 1.0 - (time.monotonic() - begun)))

    def _send(self, entry: dict) -> None:
        body = json.dumps({"format": FORMAT, "sent_at_s": time.time(), "entries": [entry]}).encode()
        headers = {
            "Content-Type": "application/json",
            "X-CSRFToken": self.token,
            "Referer": self.run,
        }
        begun = time.perf_counter()
        self.sent_s.append(time.monotonic())
        try:
            request = urllib.request.Request(f"{self.run}entries/", body, headers)
            answer = json.loads(self.browser.open(request).read())
            state = answer["receipts"][0]
            self.kept += state["state"] == "kept"
            if state["state"] == "refused":
                self.errors.append(state["why"])
        except OSError as error:
            self.errors.append(str(error))
        self.times.append(1e3 * (time.perf_counter() - begun))
