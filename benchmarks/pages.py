"""How long the server takes for the pages that compute most, against the floor page in one run.

Needs the demo running (`./tempermark demo` in another shell); only reads.
"""

import json
import re
import statistics
import time
import urllib.parse
import urllib.request
from http.cookiejar import CookieJar

from benchmarks.browser import ROOT, say

PAGES = {
    "floor": "/",
    "lessons": "/lessons/",
    "recipe": "/recipes/dye-on-a-polyester-vest/",
    "windows": "/windows/?recipe=dye-on-a-polyester-vest",
    "heat": "/recipes/dye-on-a-polyester-vest/heat/",
    "board": "/cases/1/",
}
ROUNDS, WARM_UP = 15, 3
TOKEN = re.compile(r'name="csrfmiddlewaretoken" value="([^"]+)"')


def run() -> None:
    """Print median and 95th percentile in milliseconds, and medians as shares of the floor's."""
    note = ROOT / ".local" / "running-demo.json"
    if not note.exists():
        print("The demo is not running: start ./tempermark demo first.")
        return
    address = json.loads(note.read_text())["url"]
    browser = _signed_in(address)
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


def _signed_in(address: str) -> urllib.request.OpenerDirector:
    browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))
    page = browser.open(f"{address}/sign-in/").read().decode()
    token = TOKEN.search(page)
    fields = {"username": "isla", "password": "regatta-week-demo"}
    fields["csrfmiddlewaretoken"] = token[1] if token else ""
    body = urllib.parse.urlencode(fields).encode()
    headers = {"Referer": f"{address}/sign-in/"}
    browser.open(urllib.request.Request(f"{address}/sign-in/", body, headers))
    return browser
