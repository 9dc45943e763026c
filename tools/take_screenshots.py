"""Pictures of the main views for docs/screenshots, from a demo that runs and was just reset.

./tempermark demo --reset          (in another shell)
.local/venv/bin/python tools/take_screenshots.py [NAME …]
"""

import json
import shutil
import subprocess
import sys
import time
from pathlib import Path

from selenium import webdriver
from selenium.common.exceptions import NoSuchElementException, StaleElementReferenceException
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select, WebDriverWait

ROOT = Path(__file__).resolve().parent.parent
OUT = ROOT / "docs" / "screenshots"
ARGUMENTS = ("--headless=new", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run")
LOGGER_STARTS_S = 6
DESK, PHONE = (1280, 800), (390, 844)
# What is tapped from a run's dial to its main press; a second tap too soon counts as a slip.
TAPS = ("it is set", "Steady", "Closed", "Opened", "Long enough", "Done", "Closed")
BETWEEN_TAPS_S, RUN_LASTS_S = 0.6, 12
# Of one print on two papers.
COMPARED = ("VD8WR8", "BXZ9CT")
READ = ("171", "172.5", "174", "173.5", "172", "170.5")


class Camera:
    """A signed-in browser that keeps pictures."""

    def __init__(self, address: str):
        options = webdriver.ChromeOptions()
        options.binary_location = shutil.which("chromium")
        for argument in (*ARGUMENTS, "--disable-background-networking", "--hide-scrollbars"):
            options.add_argument(argument)
        service = Service(shutil.which("chromedriver"))
        self.driver = webdriver.Chrome(service=service, options=options)
        self.address = address
        self.size(*DESK)
        self.sign_in()

    def size(self, width: int, height: int) -> None:
        size = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
        self.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)

    def sign_in(self, name: str = "isla") -> None:
        self.go("/sign-in/")
        self.find("[name=username]").send_keys(name)
        self.find("[name=password]").send_keys("regatta-week-demo", Keys.ENTER)
        self.wait("header .brand")

    def go(self, path: str) -> None:
        self.driver.get(self.address + path)

    def find(self, selector: str):
        return self.driver.find_element(By.CSS_SELECTOR, selector)

    def wait(self, selector: str):
        return WebDriverWait(self.driver, 10).until(lambda _: self.find(selector))

    def keep(self, name: str, path: str | None = None) -> None:
        if path:
            self.go(path)
        WebDriverWait(self.driver, 10).until(
            lambda d: d.execute_script("return document.fonts.status") == "loaded"
        )
        self.driver.save_screenshot(str(OUT / f"{name}.png"))


def floor(camera):
    camera.keep("floor", "/")


def press(camera):
    camera.keep("platen-chart", "/presses/heron/")


def phone(camera):
    camera.size(*PHONE)
    camera.keep("phone", "/presses/heron/")
    camera.size(*DESK)


def entry(camera):
    """Wren's first survey, six stations in."""
    camera.go("/presses/wren/surveys/new/")
    grid = camera.find("main [name=grid]")
    grid.send_keys("4")
    camera.find("main form button.go").click()
    for figure in READ:
        before = camera.wait("#entry .station-name").text
        camera.find("#typed").send_keys(figure, Keys.ENTER)
        # It may be exchanged between being found and being read.
        exchanged = (StaleElementReferenceException, NoSuchElementException)
        WebDriverWait(camera.driver, 10, ignored_exceptions=exchanged).until(
            lambda _, before=before: camera.find("#entry .station-name").text != before
        )
    camera.keep("survey-entry")


def log(camera):
    camera.go("/presses/heron/test-presses/new/")
    camera.driver.find_element(By.PARTIAL_LINK_TEXT, "polyester vest").click()
    WebDriverWait(camera.driver, 10).until(lambda _: camera.find("#under-art").text)
    camera.keep("test-press-log")


def piece(camera):
    camera.go("/cases/1/")
    camera.driver.find_element(By.PARTIAL_LINK_TEXT, "Crew vest").click()
    camera.wait("#mark")
    camera.keep("test-press")


def trace(camera):
    camera.keep("trace", "/cases/1/")


def recipe(camera):
    camera.keep("recipe", "/recipes/dye-on-a-coated-aluminium-panel/")


def faults(camera):
    camera.keep("faults", "/faults/")


def live(camera):
    """Heron with the simulated logger on it, as after a quarter of an hour."""
    command = [str(ROOT / "tempermark"), "simulate-logger", "--press", "Heron"]
    logger = subprocess.Popen([*command, "--already-min", "14"], stdout=subprocess.DEVNULL)
    try:
        time.sleep(LOGGER_STARTS_S)
        camera.go("/presses/heron/live/")
        camera.wait(".traces")
        time.sleep(LOGGER_STARTS_S)
        camera.keep("live")
    finally:
        logger.terminate()
        logger.wait()


def pressure(camera):
    """The hooded sweatshirt after the bag, on Grebe."""
    camera.go("/presses/grebe/pressure/")
    Select(camera.find("#load select[name=blank]")).select_by_visible_text(
        "Coxswain's hooded sweatshirt"
    )
    WebDriverWait(camera.driver, 10).until(lambda d: "3" in camera.find("#summary h1").text)
    camera.keep("pressure")


def heat(camera):
    """A vest on Heron: the stack, the course and, further down, the outcome over the platen."""
    camera.go("/recipes/dye-on-a-polyester-vest/heat/")
    camera.wait("#heat-platen svg")
    camera.keep("heat")


def run(camera):
    """The third number board on Coot, some seconds after it was closed on its transfer."""
    camera.go("/runs/")
    camera.driver.find_element(By.PARTIAL_LINK_TEXT, "Dye on a large coated aluminium").click()
    for words in TAPS:
        button = f"//*[contains(@class, 'run-buttons')]//button[contains(., '{words}')]"
        WebDriverWait(camera.driver, 10).until(
            lambda d, button=button: d.find_element(By.XPATH, button)
        ).click()
        time.sleep(BETWEEN_TAPS_S)
    time.sleep(RUN_LASTS_S)
    camera.keep("run-strip")


def sheet(camera):
    """A ladder of temperatures, three of its five presses scored."""
    camera.keep("ladder-sheet", "/experiments/1/")


def compared(camera):
    """Two vests that differ in their paper, wash by wash."""
    camera.go("/logbook/")
    for number in COMPARED:
        camera.find(f"[aria-label='Compare {number}']").click()
    camera.driver.find_element(By.XPATH, "//button[.='Compare those ticked']").click()
    camera.wait("main img")
    shown = "return [...document.querySelectorAll('main img')].every((i) => i.naturalWidth)"
    WebDriverWait(camera.driver, 10).until(lambda d: d.execute_script(shown))
    camera.keep("compared")


def day_band(camera):
    """The plan in force; soon after the demo was built the day is still ahead."""
    camera.keep("day-band", "/plans/")


def job(camera):
    """A panel being prepared: two lines done, its print drying."""
    camera.go("/jobs/1/")
    camera.find("form.waits button").click()
    camera.wait("#clocks .clock")
    camera.driver.execute_script("scrollTo(0, 0)")
    camera.keep("job")


def art(camera):
    """The panel's outline and bleed on its art."""
    camera.keep("art", "/jobs/1/art/")


def known(camera):
    """A press that was surveyed again by a few readings."""
    camera.go("/surveys/")
    camera.driver.find_element(By.XPATH, "//main//table//a[.='Grebe']").click()
    camera.wait("#map svg")
    camera.keep("known")


def line(camera):
    camera.keep("calibration-line", "/presses/grebe/calibration/")


def certificate(camera):
    """Signed by the demo's lead."""
    camera.driver.delete_all_cookies()
    camera.sign_in("maren")
    camera.go("/surveys/")
    camera.driver.find_element(By.XPATH, "//main//table//a[.='Heron']").click()
    camera.wait("form[action$='/sign/'] button").click()
    WebDriverWait(camera.driver, 10).until(lambda d: "/certificates/" in d.current_url)
    camera.keep("certificate")


def new_press(camera):
    """Three fields, the platen drawn as its size is typed; after the certificate, as a lead."""
    camera.go("/presses/new/")
    for name, typed in (("name", "Merlin"), ("width_mm", "15 3/4 in"), ("height_mm", "20 in")):
        camera.find(f"main [name={name}]").send_keys(typed)
    camera.keep("new-press")


TAKEN = (
    floor,
    press,
    phone,
    entry,
    log,
    piece,
    trace,
    recipe,
    faults,
    pressure,
    art,
    known,
    heat,
    day_band,
    job,
    line,
    run,
    sheet,
    compared,
    live,
    certificate,
    new_press,
)
VIEWS = {view.__name__: view for view in TAKEN}


def main(names: list[str]) -> None:
    address = json.loads((ROOT / ".local" / "running-demo.json").read_text())["url"]
    OUT.mkdir(parents=True, exist_ok=True)
    camera = Camera(address)
    try:
        for name in names or VIEWS:
            VIEWS[name](camera)
    finally:
        camera.driver.quit()


if __name__ == "__main__":
    main(sys.argv[1:])
