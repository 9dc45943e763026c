"""Headless Chromium against the running application."""

import shutil
import subprocess
import time
from pathlib import Path

import pytest
from django.db import connection
from selenium import webdriver
from selenium.webdriver.chrome.service import Service

from tests.browser.person import Person
from tests.support import room

ARGUMENTS = (
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
)
BUSY = """
SELECT pid FROM pg_stat_activity
WHERE datname = current_database() AND pid <> pg_backend_pid() AND state <> 'idle'
"""
DESK = {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False}


# The program itself: a browser that Debian's wrapper starts outlives the driver that ends it.
SHELL = Path("/usr/lib/chromium/chromium-headless-shell")


def quickest_browser():
    """Chromium without a window's parts where it is of the driver's version, else all of it."""
    if SHELL.exists() and _version(SHELL) == _version(shutil.which("chromedriver")):
        return str(SHELL)
    return shutil.which("chromium")


def _version(program):
    """The digits of its version: `Chromium 156.0.8078.108`, `ChromeDriver 156.0.8078.108 (…)`."""
    said = subprocess.run([program, "--version"], capture_output=True, text=True, check=True)
    return said.stdout.split()[1]


@pytest.fixture(scope="session")
def chromium(tmp_path_factory):
    options = webdriver.ChromeOptions()
    options.binary_location = quickest_browser()
    for argument in ARGUMENTS:
        options.add_argument(argument)
    downloads = tmp_path_factory.mktemp("downloads")
    options.add_experimental_option("prefs", {"download.default_directory": str(downloads)})
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    driver = webdriver.Chrome(service=Service(shutil.which("chromedriver")), options=options)
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", DESK)
    # In the browser without a window's parts the preference holds from the second window on, and
    # what is set here for the first.
    behaviour = {"behavior": "allow", "downloadPath": str(downloads)}
    driver.execute_cdp_cmd("Browser.setDownloadBehavior", behaviour)
    driver.downloads = downloads
    yield driver
    driver.quit()


@pytest.fixture
def isla(chromium, live_server, transactional_db):
    """A technician at the desk, not signed in yet, in a room with one press."""
    room.person("isla", "technician")
    room.element("Heron")
    chromium.delete_all_cookies()
    chromium.get_log("browser")
    person = Person(chromium, live_server.url)
    yield person
    refused = [
        line["message"]
        for line in chromium.get_log("browser")
        if "Content Security Policy" in line["message"] or "Uncaught" in line["message"]
    ]
    assert not refused
    person.online()
    chromium.get("about:blank")
    wait_for_answers()


def wait_for_answers(most_s=10.0):
    """Until no answer that nobody waits for any more is being worked on: it would hold a lock when
    the tables are emptied.
    """
    until = time.monotonic() + most_s
    while time.monotonic() < until:
        with connection.cursor() as cursor:
            cursor.execute(BUSY)
            if cursor.fetchone() is None:
                return
        time.sleep(0.05)


@pytest.fixture
def signed_in(isla):
    isla.sign_in()
    return isla
