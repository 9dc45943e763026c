"""A browser signed in to the running demo."""

import json
import shutil
import statistics
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from selenium import webdriver
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

ROOT = Path(__file__).resolve().parent.parent
ARGUMENTS = ("--headless=new", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run")


@contextmanager
def at_the_demo() -> Iterator[tuple[webdriver.Chrome, str] | None]:
    """A driver signed in as isla and the demo's address; None where no demo runs."""
    note = ROOT / ".local" / "running-demo.json"
    if not note.exists():
        print("The demo is not running: start ./tempermark demo first.")
        yield None
        return
    options = webdriver.ChromeOptions()
    options.binary_location = shutil.which("chromium")
    for argument in ARGUMENTS:
        options.add_argument(argument)
    driver = webdriver.Chrome(service=Service(shutil.which("chromedriver")), options=options)
    try:
        address = json.loads(note.read_text())["url"]
        driver.get(address + "/sign-in/")
        driver.find_element(By.NAME, "username").send_keys("isla")
        driver.find_element(By.NAME, "password").send_keys("regatta-week-demo", Keys.ENTER)
        time.sleep(1)
        yield driver, address
    finally:
        driver.quit()


def say(what: str, times: list[float]) -> None:
    """Median and 95th percentile of milliseconds."""
    high = sorted(times)[int(0.95 * len(times))]
    print(f"{what}: median {statistics.median(times):.0f} ms, 95th percentile {high:.0f} ms")


def taken(driver) -> float:
    """The milliseconds that a script put into `window.taken`."""
    while (found := driver.execute_script("return window.taken")) is None:
        time.sleep(0.01)
    return found
