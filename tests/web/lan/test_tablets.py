"""How a tablet is brought in: the page and its codes, what is handed out, the home screen."""

import threading
import urllib.error
import urllib.request
from http.server import ThreadingHTTPServer

import pytest

from tempermark.web.lan.hand_out import FILE, handler
from tests.support import room

LAN = {
    "room": "https://10.0.0.7:8640/",
    "others": ["https://press-room.local:8640/"],
    "authority": "http://10.0.0.7:8641/",
    "fingerprint": "AB:CD",
    "lasts_until": "2027-12-01",
}


def test_the_page_shows_what_to_scan_and_the_fingerprint(browse, settings):
    settings.LAN = LAN
    text = room.words(browse.get("/tablets/"))
    for words in ("AB:CD", "https://10.0.0.7:8640/", "http://10.0.0.7:8641/", "press-room.local"):
        assert words in text
    for which in ("room", "authority"):
        code = browse.get(f"/tablets/{which}.svg")
        assert code["Content-Type"] == "image/svg+xml"
        assert code.content.startswith(b"<svg")
    assert browse.get("/tablets/others.svg").status_code == 404


def test_a_room_on_this_machine_alone_says_how_it_is_opened(browse):
    assert "./tempermark serve --lan" in room.words(browse.get("/tablets/"))
    assert browse.get("/tablets/room.svg").status_code == 404


def test_the_home_screen_is_told_what_it_needs_before_anybody_signs_in(client, db):
    answer = client.get("/manifest.webmanifest")
    assert answer["Content-Type"] == "application/manifest+json"
    told = answer.json()
    assert told["display"] == "standalone"
    assert {icon["sizes"] for icon in told["icons"]} == {"any", "192x192", "512x512"}


@pytest.fixture
def handed_out():
    answers = handler(b"the authority", 'AB:<"CD">', "https://10.0.0.7:8640/")
    with ThreadingHTTPServer(("127.0.0.1", 0), answers) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield f"http://127.0.0.1:{server.server_address[1]}"
        server.shutdown()


def test_the_authority_is_handed_out_and_nothing_else(handed_out):
    with urllib.request.urlopen(f"{handed_out}/") as page:
        text = page.read().decode()
        assert "AB:&lt;&quot;CD&quot;&gt;" in text
        assert 'href="https://10.0.0.7:8640/"' in text
        assert page.headers["Content-Security-Policy"] == "default-src 'none'"
    with urllib.request.urlopen(f"{handed_out}{FILE}") as file:
        assert file.read() == b"the authority"
        assert file.headers["Content-Type"] == "application/x-x509-ca-cert"
    for path in ("/server.key", "/../server.key", "/authority.key"):
        with pytest.raises(urllib.error.HTTPError, match="404"):
            urllib.request.urlopen(f"{handed_out}{path}")
