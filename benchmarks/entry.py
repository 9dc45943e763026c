"""From Enter to the next station at the browser: 50 entries in an adaptive survey and a grid.

Needs the demo running (`./tempermark demo` in another shell); types into its press Wren.
"""

import time

import numpy as np
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import WebDriverWait

from benchmarks.browser import at_the_demo, say, taken

ENTRIES = 50
BEGUN_WITHIN_S = 20
# Nobody aims a gun twice in less: chart and verdict of the last entry are drawn by then.
PAUSE_S = 0.7
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
    with at_the_demo() as found:
        for grid in ("adaptive", "5x5", "known") if found else ():
            say(grid, _entries(*found, grid))


def _entries(driver, address: str, grid: str) -> list[float]:
    times: list[float] = []
    shown_c = np.random.default_rng()
    while len(times) < ENTRIES:
        driver.get(f"{address}/presses/coot/surveys/new/")
        driver.execute_script("document.querySelector('[name=grid]').value = arguments[0]", grid)
        driver.find_element(By.CSS_SELECTOR, "main form button.go").click()
        WebDriverWait(driver, BEGUN_WITHIN_S).until(lambda d: d.find_elements(By.ID, "typed"))
        while len(times) < ENTRIES and driver.find_elements(By.ID, "typed"):
            # Never the same survey twice: what a worker has computed before costs nothing.
            driver.execute_script(WATCH, f"{shown_c.normal(193.5, 1.0):.1f}")
            times.append(taken(driver))
            time.sleep(PAUSE_S)
    return times
