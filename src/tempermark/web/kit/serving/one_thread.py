"""Django behind ASGI, each request answered whole in one thread of a few.

Django's own handler goes into a thread and back for every middleware, every view that is not async
and every signal, some twenty times a request, and begins a thread and a connection's wrapper for
each (docs/decisions/0042-one-thread-a-request.md). Streams are sent by the loop as before.
"""

import asyncio
from collections.abc import Awaitable, Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from typing import IO, Any

from asgiref.sync import sync_to_async
from django.core import signals
from django.core.exceptions import RequestAborted
from django.core.handlers.asgi import ASGIHandler, get_script_prefix
from django.core.handlers.base import BaseHandler
from django.db import close_old_connections
from django.http import FileResponse
from django.http.response import HttpResponseBase
from django.urls import set_script_prefix

# Fewer than the pool has connections: loggers' writers and streams need some beside them.
THREADS = 8
Receive = Callable[[], Awaitable[Mapping[str, Any]]]
Send = Callable[[Mapping[str, Any]], Awaitable[None]]


class OneThreadHandler(ASGIHandler):
    """An ASGI application whose middleware and views are called one after another in a thread."""

    def __init__(self) -> None:
        BaseHandler.__init__(self)
        self.load_middleware(is_async=False)
        threads = ThreadPoolExecutor(THREADS, thread_name_prefix="request")
        self._answer = sync_to_async(self._answered, thread_sensitive=False, executor=threads)

    async def handle(self, scope: dict[str, Any], receive: Receive, send: Send) -> None:
        """Read a request, answer it, send the answer."""
        try:
            body = await self.read_body(receive)
        except RequestAborted:
            return
        response = await self._answer(scope, body)
        if response.streaming:
            try:
                await self._stream(response, receive, send)
            finally:
                await sync_to_async(response.close)()
        else:
            await self.send_response(response, send)

    def _answered(self, scope: dict[str, Any], body: IO[bytes]) -> HttpResponseBase:
        """The answer; all that it held is given back, unless it is a stream."""
        set_script_prefix(get_script_prefix(scope))
        signals.request_started.send(sender=self.__class__, scope=scope)
        request, response = self.create_request(scope, body)
        if request is not None:
            response = self.get_response(request)
        if isinstance(response, FileResponse):
            response.block_size = self.chunk_size
        if response.streaming:
            # Whoever sends it has a thread and a connection of its own.
            close_old_connections()
        else:
            response.close()
            body.close()
        return response

    async def _stream(self, response: HttpResponseBase, receive: Receive, send: Send) -> None:
        """Send a stream until it ends or nobody listens any more."""
        tasks = [
            asyncio.create_task(self.listen_for_disconnect(receive)),
            asyncio.create_task(self.send_response(response, send)),
        ]
        try:
            await asyncio.wait(tasks, return_when=asyncio.FIRST_COMPLETED)
        finally:
            # Also where the server ends and this is what is cancelled.
            for task in tasks:
                task.cancel()
        for result in await asyncio.gather(*tasks, return_exceptions=True):
            ended = (asyncio.CancelledError, RequestAborted)
            if isinstance(result, BaseException) and not isinstance(result, ended):
                raise result
