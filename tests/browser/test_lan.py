"""A tablet on the shop's network: over the room's own HTTPS it has what a tablet needs."""

import base64
import shutil
import ssl

import pytest
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from selenium import webdriver
from selenium.webdriver.chrome.service import Service

from launcher import lan, paths, server
from tests.browser.conftest import ARGUMENTS
from tests.browser.person import Person
from tests.support.open_room import open_room

pytestmark = pytest.mark.long
NAME = "press-room.test"
# The server ends and begins again with all of its workers; the launcher gives it no longer.
BEGINS_AGAIN_S = server.STOPS_WITHIN_S + server.STARTS_WITHIN_S + 10
CAN = """
const done = arguments[0];
const can = {
  secure: window.isSecureContext,
  camera: Boolean(navigator.mediaDevices && navigator.mediaDevices.getUserMedia),
  awake: "wakeLock" in navigator,
  locks: Boolean(navigator.locks),
};
navigator.serviceWorker.ready.then(() => { can.worker = true; done(can); });
"""
MANIFEST = """
const done = arguments[0];
const link = document.querySelector("link[rel=manifest]").href;
fetch(link).then((a) => a.json()).then(async (found) => {
  const icons = await Promise.all(found.icons.map((icon) => fetch(icon.src)));
  done({ display: found.display, start: found.start_url, icons: icons.map((i) => i.status) });
});
"""


@pytest.fixture(scope="module")
def room(tmp_path_factory):
    before, paths.AUTHORITY = paths.AUTHORITY, tmp_path_factory.mktemp("authority")
    try:
        with open_room("shared", shared=lan.ready([NAME])) as found:
            yield found
    finally:
        paths.AUTHORITY = before


@pytest.fixture(scope="module")
def tablet(room):
    """A browser of its own that trusts the certificate of this room and no other."""
    served = x509.load_pem_x509_certificate((paths.AUTHORITY / "server.crt").read_bytes())
    key = served.public_key().public_bytes(
        serialization.Encoding.DER, serialization.PublicFormat.SubjectPublicKeyInfo
    )
    digest = hashes.Hash(hashes.SHA256())
    digest.update(key)
    trusted = base64.b64encode(digest.finalize()).decode()
    options = webdriver.ChromeOptions()
    options.binary_location = shutil.which("chromium")
    for argument in (
        *ARGUMENTS,
        f"--host-resolver-rules=MAP {NAME} 127.0.0.1",
        f"--ignore-certificate-errors-spki-list={trusted}",
    ):
        options.add_argument(argument)
    driver = webdriver.Chrome(service=Service(shutil.which("chromedriver")), options=options)
    yield Person(driver, f"https://{NAME}:{room.port}")
    driver.quit()


def test_a_run_is_opened_over_https_with_all_a_tablet_needs(room, tablet):
    tablet.sign_in()
    tablet.go(f"/runs/{room.runs[0]}/")
    tablet.wait(lambda: tablet.find("section[data-run]"))
    can = tablet.driver.execute_async_script(CAN)
    assert can == dict.fromkeys(("secure", "camera", "awake", "locks", "worker"), True)
    cookies = {c["name"]: c for c in tablet.driver.get_cookies()}
    assert cookies
    assert all(c["secure"] for c in cookies.values())


def test_it_can_be_put_on_the_home_screen(room, tablet):
    tablet.go("/")
    found = tablet.driver.execute_async_script(MANIFEST)
    assert found["display"] == "standalone"
    assert found["start"].startswith("/")
    assert found["icons"]
    assert set(found["icons"]) == {200}


def test_a_run_is_there_without_the_network(room, tablet):
    page = f"/runs/{room.runs[0]}/"
    tablet.go(page)
    tablet.wait(lambda: tablet.find("section[data-run]"))
    kept = (
        "caches.open('tempermark-runs-1').then((c) => c.keys())"
        ".then((all) => arguments[0](all.map((r) => new URL(r.url).pathname)))"
    )
    tablet.wait(lambda: page in tablet.driver.execute_async_script(kept))
    tablet.offline()
    try:
        tablet.driver.refresh()
        tablet.wait(lambda: tablet.find("section[data-run] .run-buttons button"))
    finally:
        tablet.online()


def test_a_certificate_that_runs_out_is_renewed_while_the_room_is_open(room, tablet):
    """Tablets go on: the authority that they trust stays the same."""
    first = (paths.AUTHORITY / "server.crt").read_bytes()
    authority = (paths.AUTHORITY / "authority.crt").read_bytes()
    (renewal,) = (c for c in room.supervisor.chores if isinstance(c, lan.Renewal))
    held = renewal.lan
    renewal.lan = lan.Lan(**{**vars(held), "lasts_until": "2026-01-01"})
    # Lost, so that another one is made whatever it says.
    (paths.AUTHORITY / "server.crt").unlink()
    renewal.due = 0.0
    tablet.wait(lambda: _served(room) not in (None, first), within_s=BEGINS_AGAIN_S)
    assert _served(room) == (paths.AUTHORITY / "server.crt").read_bytes()
    assert (paths.AUTHORITY / "authority.crt").read_bytes() == authority


def _served(room):
    """The certificate that the room shows now, as PEM; None while it begins anew."""
    try:
        return ssl.get_server_certificate(("127.0.0.1", room.port), timeout=3).encode()
    except OSError:
        return None
