"""A simulated nine-channel logger: posts its readings as one long HTTP stream (`live/1`).

It keeps what was not confirmed as stored and, when the connection breaks, begins again from
there, so that nothing is lost while the server restarts. Sampling never waits for the network:
sending and hearing confirmations are threads of their own.
"""

import http.client
import json
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from urllib.parse import urlsplit
from uuid import UUID

INTERVAL_S = 0.1
CHANNELS = 9
AGAIN_AFTER_S = 1.0
ANSWER_WITHIN_S = 15.0
# Samples kept while nobody takes them: an hour.
MOST_KEPT = 36_000


class Refused(Exception):
    """The server answered, and will not take the stream: trying again is no use."""


@dataclass
class Logger:
    """Sends samples to an address with a key; `say` tells what happens."""

    address: str
    key: str
    session: UUID
    say: Callable[[str], None] = print
    clock_ahead_s: float = 0.0
    taken: int = 0
    stored: int = -1
    refused: str | None = None
    confirmed_after_s: list[float] = field(default_factory=list)
    _waiting: dict[int, tuple[float, bytes]] = field(default_factory=dict)
    _news: threading.Condition = field(default_factory=threading.Condition)
    _ending: bool = False
    _broken: bool = False
    _lost: bool = False

    def start(self) -> None:
        """Begin sending; samples may be taken before and after."""
        self._sender = threading.Thread(target=self._send_on, daemon=True)
        self._sender.start()

    def take(self, reading_c: list[float | None], ago_s: float = 0.0) -> None:
        """One sample more, stamped by the logger's own clock; `ago_s` when it was taken before."""
        at = round(time.time() - ago_s + self.clock_ahead_s, 3)
        line = json.dumps({"n": self.taken, "at": at, "c": reading_c}, separators=(",", ":"))
        with self._news:
            self._waiting[self.taken] = (time.monotonic(), line.encode() + b"\n")
            self._waiting.pop(self.taken - MOST_KEPT, None)
            self.taken += 1
            self._news.notify_all()

    def end(self, within_s: float = ANSWER_WITHIN_S) -> bool:
        """Send what is left, end the stream; whether all was confirmed in time."""
        with self._news:
            self._ending = True
            self._news.notify_all()
        self._sender.join(within_s)
        return self.stored == self.taken - 1

    def _done(self) -> bool:
        return self.refused is not None or (self._ending and self.stored == self.taken - 1)

    def _send_on(self) -> None:
        while not self._done():
            try:
                self._one_connection()
            except Refused as error:
                self.refused = str(error)
                self.say(f"Refused: {error}")
            except (OSError, http.client.HTTPException, ValueError) as error:
                if not self._lost:
                    self.say(f"Connection lost ({error}); keeping the figures, trying again.")
                self._lost = True
                time.sleep(AGAIN_AFTER_S)

    def _one_connection(self) -> None:
        parts = urlsplit(self.address)
        connection = http.client.HTTPConnection(
            parts.hostname or "127.0.0.1", parts.port, timeout=ANSWER_WITHIN_S
        )
        try:
            answer = self._open(connection)
            if self._lost:
                self.say(f"Connected again; {self.taken - 1 - self.stored} samples to send.")
            self._broken = self._lost = False
            hearing = threading.Thread(target=self._hear_on, args=(answer,), daemon=True)
            hearing.start()
            self._send_samples(connection)
            connection.send(b"0\r\n\r\n")
            hearing.join(ANSWER_WITHIN_S)
        finally:
            connection.close()

    def _open(self, connection: http.client.HTTPConnection) -> http.client.HTTPResponse:
        """The answer begins while our body goes on; its first line says from where."""
        connection.putrequest("POST", "/live/stream/")
        connection.putheader("Authorization", f"Bearer {self.key}")
        connection.putheader("Content-Type", "application/x-ndjson")
        connection.putheader("Transfer-Encoding", "chunked")
        connection.endheaders()
        header = {
            "format": "live/1",
            "session": str(self.session),
            "channels": CHANNELS,
            "interval_s": INTERVAL_S,
        }
        connection.send(_chunk(json.dumps(header).encode() + b"\n"))
        answer = connection.getresponse()
        if answer.status != 200:
            summary = answer.read(2000).decode(errors="replace")
            kind = Refused if answer.status < 500 else OSError
            raise kind(f"{answer.status} {summary}")
        self._confirmed(answer.readline())
        return answer

    def _send_samples(self, connection: http.client.HTTPConnection) -> None:
        """From the first that is not stored, until the end or a break."""
        following = self.stored + 1
        while True:
            with self._news:
                while following >= self.taken and not (self._ending or self._broken):
                    self._news.wait()
                lines = [self._waiting[n][1] for n in range(following, self.taken)]
                following = self.taken
            if self._broken:
                raise ConnectionError("the server ended the stream")
            if lines:
                connection.send(_chunk(b"".join(lines)))
            elif self._ending:
                return

    def _hear_on(self, answer: http.client.HTTPResponse) -> None:
        try:
            while line := answer.readline():
                self._confirmed(line)
        except Refused as error:
            self.refused = str(error)
        except (OSError, http.client.HTTPException, ValueError, AttributeError):
            pass  # a connection closed under us; the sender goes on from what is stored
        with self._news:
            self._broken = True
            self._news.notify_all()

    def _confirmed(self, line: bytes) -> None:
        summary = json.loads(line)
        if "error" in summary:
            raise Refused(summary["error"]["message"])
        now = time.monotonic()
        with self._news:
            for number in range(self.stored + 1, summary["stored"] + 1):
                taken, _ = self._waiting.pop(number, (None, b""))
                if taken is not None:
                    self.confirmed_after_s.append(now - taken)
            self.stored = max(self.stored, summary["stored"])


def _chunk(data: bytes) -> bytes:
    return f"{len(data):x}\r\n".encode() + data + b"\r\n"
