"""From a changed setting to its new outcome at the browser: 50 changes of dial and dwell, and 50 of
the art's place, on a recipe's page of the heat.

Needs the demo running (`./tempermark demo` in another shell). The outcome counts as shown with the
first frame in which the answer (for the art: the outcome over the platen) is another element.
"""

import time

from benchmarks.browser import at_the_demo, say, taken

CHANGES, PAUSE_S = 50, 0.9
PAGE = "/recipes/dye-on-a-polyester-vest/heat/?press=heron"
WATCH = """
const [name, value, shown] = arguments;
const before = document.querySelector(shown);
const field = document.querySelector(`#heat-form [name=${name}]`);
window.taken = null;
const start = performance.now();
field.value = value;
HOW
const look = () => {
  const now = document.querySelector(shown);
  if (now && now !== before) { window.taken = performance.now() - start; return; }
  requestAnimationFrame(look);
};
requestAnimationFrame(look);
"""
# As a typed figure, and as a dropped footprint, tell the page.
CHANGED = "field.dispatchEvent(new Event('change', {bubbles: true}));"
MOVED = "document.body.dispatchEvent(new Event('art-moved'));"


def run() -> None:
    """Print median and 95th percentile in milliseconds."""
    with at_the_demo() as found:
        if found is None:
            return
        driver, address = found
        driver.get(address + PAGE)
        time.sleep(2)
        dials = [("set_c", f"{198 + n % 9}") for n in range(CHANGES // 2)]
        dwells = [("dwell_s", f"{45 + n % 11}") for n in range(CHANGES - len(dials))]
        say("outcome after a changed dial or dwell", _changes(driver, dials + dwells, "#heat h1"))
        places = [("art_x_mm", f"{10 + 7 * n % 150}") for n in range(CHANGES)]
        platen = "#heat-platen svg"
        say("outcome over the platen after moved art", _changes(driver, places, platen, MOVED))
        say("outcome over the platen after a changed dial", _changes(driver, dials, platen))


def _changes(driver, changes: list[tuple[str, str]], shown: str, how: str = CHANGED) -> list[float]:
    times = []
    for name, value in changes:
        driver.execute_script(WATCH.replace("HOW", how), name, value, shown)
        times.append(taken(driver))
        time.sleep(PAUSE_S)
    return times
