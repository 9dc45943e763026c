"""Hands the authority out over plain HTTP to tablets that do not trust the room yet: one page, one
file, nothing else. Run as a program beside the room.

What it hands out is no secret; that it is the right one is seen by its fingerprint, which the page
of tablets and its printed sheet show.
"""

import html
import sys
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

WAITS_S = 10
FILE = "/tempermark-authority.crt"
PAGE = """<!DOCTYPE html><html lang="en"><meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1"><title>Tempermark</title>
<h1>This tablet and the press room.</h1>
<ol><li><a href="{file}">Fetch the room's authority</a> and let the tablet trust it for web pages.
Its fingerprint is on the sheet; it must be the same: <br><code>{fingerprint}</code></li>
<li><a href="{room}">Open the room</a> and add it to the home screen.</li></ol>
"""


class HandOut(BaseHTTPRequestHandler):
    """Answers GET with the page or the authority."""

    timeout = WAITS_S
    server_version = "Tempermark"
    sys_version = ""
    authority = b""
    page = b""

    def do_GET(self) -> None:
        """The page or the file."""
        if self.path == "/":
            self._answer(200, "text/html; charset=utf-8", self.page)
        elif self.path == FILE:
            self._answer(200, "application/x-x509-ca-cert", self.authority)
        else:
            self._answer(404, "text/plain; charset=utf-8", b"There is nothing here.")

    def _answer(self, status: int, kind: str, body: bytes) -> None:
        self.send_response(status)
        for name, value in (
            ("Content-Type", kind),
            ("Content-Length", str(len(body))),
            ("X-Content-Type-Options", "nosniff"),
            ("Content-Security-Policy", "default-src 'none'"),
            ("Connection", "close"),
        ):
            self.send_header(name, value)
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, format: str, *args: object) -> None:
        """Nothing: who fetched it says nothing."""


def handler(authority: bytes, fingerprint: str, room: str) -> type[HandOut]:
    """What answers for a room."""
    page = PAGE.format(
        file=FILE, fingerprint=html.escape(fingerprint), room=html.escape(room, quote=True)
    )
    return type("OfRoom", (HandOut,), {"authority": authority, "page": page.encode()})


def main(port: int, authority: Path, fingerprint: str, room: str) -> None:
    """Hand out until ended."""
    answers = handler(authority.read_bytes(), fingerprint, room)
    with ThreadingHTTPServer(("", port), answers) as server:
        server.daemon_threads = True
        server.serve_forever()


if __name__ == "__main__":
    main(int(sys.argv[1]), Path(sys.argv[2]), sys.argv[3], sys.argv[4])
