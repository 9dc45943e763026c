"""`POST /live/stream/`: a logger's readings as one long request (format `live/1`).

Django reads a whole body before a view begins, so this one path is answered in front of it:
lines are stored as they come, and each store is confirmed on the answer that has begun
meanwhile. The key in the Authorization header is the only way in; no cookie counts here.
"""

import asyncio
import json
from collections.abc import Awaitable, Callable
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from typing import Any

from django.db import close_old_connections, connections
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.files.live import LONGEST_LINE_BYTES, read_header, read_sample
from tempermark.web.live.stream.ingest import open_recording, store
from tempermark.web.live.stream.keys import key_of

PATH = "/live/stream/"
# Lines are gathered this long, so that ten samples a second are two rows, not ten; where storing
# takes its time, so many times as long as that takes, and never longer than a block is.
GATHER_S, GATHER_TIMES, MOST_GATHER_S = 0.5, 20.0, 1.0
# A stream from which nothing comes for this long is closed; the logger begins again.
SILENCE_S = 60.0
# So long for what the server has gathered already.
AT_HAND_S = 0.02
# More than this at once is a backlog: the server holds no more than four times as much.
BACKLOG_BYTES = 16 * 1024
# A backlog is stored in portions of about this much.
MOST_BUFFERED_BYTES = 256 * 1024

# Two threads write, whatever the number of loggers: each holds one database connection.
_writers = ThreadPoolExecutor(max_workers=2, thread_name_prefix="live")


def with_stream(application: Callable[..., Any]) -> Callable[..., Any]:
    """The application with the stream in front."""

    async def answer(
        scope: dict[str, Any], receive: Callable[..., Any] | None, send: Callable[..., Any]
    ) -> None:
        if scope["type"] == "http" and scope["path"] == PATH:
            await LoggerStream(scope, receive, send).run()
        else:
            await application(scope, receive, send)

    return answer


class Ended(Exception):
    """The logger went away or has sent all."""


class LoggerStream:
    """One request of one logger."""

    def __init__(
        self,
        scope: dict[str, Any],
        receive: Callable[[], Awaitable[dict[str, Any]]],
        send: Callable[..., Any],
    ) -> None:
        self.scope, self.send = scope, send
        self.body = _Body(receive)
        self.recording: Any = None

    async def run(self) -> None:
        """Answer the request; whatever is wrong is told in one line."""
        try:
            if not await self._begin():
                return
            await self._go_on()
        except InputError as error:
            await self._tell(error.as_document(), more=False)
        except Ended:
            await self._close()
        finally:
            await self.body.close()

    async def _begin(self) -> bool:
        if self.scope["method"] != "POST":
            await self._refuse(405, "POST a stream here.")
            return False
        secret = _bearer(self.scope["headers"])
        key = await _written(partial(key_of, secret)) if secret else None
        if key is None:
            await self._refuse(401, "This key is not valid for a logger, or no longer.")
            return False
        try:
            header = read_header(await self.body.line())
            self.recording = await _written(partial(open_recording, key, header))
        except InputError as error:
            await self._refuse(422, str(error))
            return False
        except Ended:
            await self._refuse(422, "The stream ended before its first line.")
            return False
        await self._start(200, b"application/x-ndjson")
        await self._tell({"stored": self.recording.last_number})
        return True

    async def _go_on(self) -> None:
        loop, gather_s = asyncio.get_running_loop(), GATHER_S
        while True:
            lines = await self.body.lines(gather_s)
            samples, problem = _read_samples(lines, self.recording.channels)
            if samples:
                begun = loop.time()
                kept = partial(store, self.recording.pk, samples, timezone.now())
                await self._tell({"stored": await _written(kept)})
                # A busy machine stores less often, so that it is less busy.
                gather_s = min(max(GATHER_TIMES * (loop.time() - begun), GATHER_S), MOST_GATHER_S)
            if problem is not None:
                raise problem
            if self.body.ended:
                raise Ended

    async def _start(self, status: int, kind: bytes) -> None:
        headers = [
            (b"content-type", kind),
            (b"cache-control", b"no-store"),
            (b"x-content-type-options", b"nosniff"),
        ]
        await self.send({"type": "http.response.start", "status": status, "headers": headers})

    async def _tell(self, document: dict[str, Any], more: bool = True) -> None:
        line = json.dumps(document, ensure_ascii=False).encode() + b"\n"
        await self.send({"type": "http.response.body", "body": line, "more_body": more})

    async def _close(self) -> None:
        if self.recording is not None:
            await self.send({"type": "http.response.body", "body": b"", "more_body": False})

    async def _refuse(self, status: int, message: str) -> None:
        await self._start(status, b"application/json")
        await self._tell({"error": {"message": message}}, more=False)


def _read_samples(lines: list[bytes], channels: int) -> tuple[Any, ...]:
    """Samples up to the first line that is none, and the error of that line."""
    samples = []
    for line in lines:
        try:
            samples.append(read_sample(line, channels))
        except InputError as error:
            return samples, error
    return samples, None


def _bearer(headers: list[tuple[bytes, bytes]]) -> str | None:
    for name, value in headers:
        if name.lower() == b"authorization":
            kind, _, secret = value.decode("latin-1").partition(" ")
            return secret.strip() if kind.lower() == "bearer" else None
    return None


async def _written(work: Callable[..., Any]) -> Any:
    """Run database work on a writer's thread and give its connection back."""

    def worked() -> Any:
        close_old_connections()
        try:
            return work()
        finally:
            connections.close_all()

    return await asyncio.get_running_loop().run_in_executor(_writers, worked)


class _Body:
    """The request's body as lines; one `receive` at a time is under way, never cancelled."""

    def __init__(self, receive: Callable[..., Any]) -> None:
        self._receive = receive
        self._waiting: Any = None
        self._rest = b""
        self._lines: list[bytes] = []
        self._buffered = 0
        self.ended = False

    async def line(self) -> bytes:
        """The first line."""
        while not self._lines:
            if self.ended or not await self._more(SILENCE_S):
                raise Ended
        return self._lines.pop(0)

    async def lines(self, gather_s: float) -> list[bytes]:
        """Whatever comes within a time from the first; Ended after a long silence."""
        if not self._lines and not self.ended and not await self._more(SILENCE_S):
            raise Ended
        loop = asyncio.get_running_loop()
        until = loop.time() + gather_s
        while not self.ended and self._buffered < MOST_BUFFERED_BYTES:
            if (left := until - loop.time()) <= 0:
                break
            if self._buffered < BACKLOG_BYTES:
                # What comes meanwhile is gathered by the server: waking for each line costs more
                # than the line.
                await asyncio.sleep(left)
                left = AT_HAND_S
            await self._more(left)
        lines, self._lines, self._buffered = self._lines, [], 0
        return lines

    async def _more(self, within_s: float) -> bool:
        if self._waiting is None:
            self._waiting = asyncio.ensure_future(self._receive())
        done, _ = await asyncio.wait({self._waiting}, timeout=within_s)
        if not done:
            return False
        event, self._waiting = self._waiting.result(), None
        self._take(event.get("body", b""))
        self.ended = event["type"] == "http.disconnect" or not event.get("more_body", False)
        if self.ended and self._rest.strip():
            self._lines.append(self._rest)
        return True

    def _take(self, data: bytes) -> None:
        *whole, self._rest = (self._rest + data).split(b"\n")
        self._lines += [line for line in whole if line.strip()]
        self._buffered += len(data)
        if max(len(line) for line in [self._rest, *whole]) > LONGEST_LINE_BYTES:
            raise InputError.single(
                None, f"A line is at most {LONGEST_LINE_BYTES} bytes.", "too_large"
            )

    async def close(self) -> None:
        """Leave nothing waiting."""
        if self._waiting is not None:
            self._waiting.cancel()
            await asyncio.gather(self._waiting, return_exceptions=True)
