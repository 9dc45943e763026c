"""Signed in at the running demo without a browser."""

import json
import re
import urllib.parse
import urllib.request
from http.cookiejar import CookieJar
from pathlib import Path

from benchmarks.browser import ROOT

TOKEN = re.compile(r'name="csrfmiddlewaretoken" value="([^"]+)"')


def demo_address() -> str | None:
    """Where the demo runs; None, and a line that says so, where it does not."""
    note = ROOT / ".local" / "running-demo.json"
    if not note.exists():
        print("The demo is not running: start ./tempermark demo first.")
        return None
    return str(json.loads(note.read_text())["url"])


def signed_in(address: str, person: str = "isla") -> urllib.request.OpenerDirector:
    """A browser of a person of the demo; of a technician where none is named."""
    browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))
    fields = {"username": person, "password": "regatta-week-demo"}
    post(browser, address, "/sign-in/", "/sign-in/", fields)
    return browser


def post(
    browser: urllib.request.OpenerDirector,
    address: str,
    page: str,
    path: str,
    fields: dict[str, str],
) -> str:
    """Send fields from a page; the address that is shown in the end."""
    text = browser.open(address + page).read().decode()
    token = TOKEN.search(text)
    given = {**fields, "csrfmiddlewaretoken": token[1] if token else ""}
    body = urllib.parse.urlencode(given).encode()
    request = urllib.request.Request(address + path, body, {"Referer": address + page})
    return str(browser.open(request).geturl())


def largest_mb() -> float:
    """Resident memory of the largest process of the demo's web server."""
    sizes = [0.0]
    for status in Path("/proc").glob("[0-9]*/status"):
        try:
            command = (status.parent / "cmdline").read_bytes()
            text = status.read_text()
        except OSError:
            continue
        size = re.search(r"VmRSS:\s+(\d+) kB", text)
        if b"gunicorn" in command and size:
            sizes.append(int(size[1]) / 1024)
    return max(sizes)
