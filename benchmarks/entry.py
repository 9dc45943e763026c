"""From Enter to the next station at the browser: 50 entries in an adaptive survey and a grid.

Needs the demo running (`./tempermark demo` in another shell); types into its press Wren.
"""

import json
import shutil
import statistics
import time
from pathlib import Path

from selenium import webdriver
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

ROOT = Path(__file__).resolve().parent.parent
ENTRIES = 50
# Nobody aims a gun twice in less: chart and verdict of the last entry are drawn by then.
PAUSE_S = 0.7
ARGUMENTS = ("--headless=new", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run")
# From the press of the key to the first frame that shows another station or message.
WATCH = """
const typed = document.getElementById('typed');
typed.value = arguments[0];
const before = document.querySelector('#entry-box').dataset.stamp = String(Math.random());
const start = performance.now();
window.taken = null;
const look = () => {
  const bench = document.querySelector('#entry-box');
  if (bench && bench.dataset.stamp !== before) { window.taken = performance.now() - start; return; }
  requestAnimationFrame(look);
};
requestAnimationFrame(look);
typed.form.requestSubmit();
"""


def run() -> None:
    """Print median and 95th percentile in milliseconds."""
    note = ROOT / ".local" / "running-demo.json"
    if not note.exists():
        print("The demo is not running: start ./tempermark demo first.")
        return
    options = webdriver.ChromeOptions()
    options.binary_location = shutil.which("chromium")
    for argument in ARGUMENTS:
        options.add_argument(argument)
    driver = webdriver.Chrome(service=Service(shutil.which("chromedriver")), options=options)
    try:
        address = json.loads(note.read_text())["url"]
        _sign_in(driver, address)
        for grid in ("adaptive", "5x5"):
            times = _entries(driver, address, grid)
            high = sorted(times)[int(0.95 * len(times))]
            print(
                f"{grid}: median {statistics.median(times):.0f} ms, 95th percentile {high:.0f} ms"
            )
    finally:
        driver.quit()


def _sign_in(driver, address: str) -> None:
    driver.get(address + "/sign-in/")
    driver.find_element(By.NAME, "username").send_keys("isla")
    driver.find_element(By.NAME, "password").send_keys("regatta-week-demo", Keys.ENTER)
    time.sleep(1)


def _entries(driver, address: str, grid: str) -> list[float]:
    times: list[float] = []
    while len(times) < ENTRIES:
        driver.get(f"{address}/presses/coot/surveys/new/")
        driver.execute_script("document.querySelector('[name=grid]').value = arguments[0]", grid)
        driver.find_element(By.CSS_SELECTOR, "main form button.go").click()
        while len(times) < ENTRIES and driver.find_elements(By.ID, "typed"):
            driver.execute_script(WATCH, f"{192 + len(times) % 5 * 0.7:.1f}")
            while (taken := driver.execute_script("return window.taken")) is None:
                time.sleep(0.02)
            times.append(taken)
            time.sleep(PAUSE_S)
    return times
