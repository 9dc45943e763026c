"""Wakes viewers when readings of their element have come: one listener per process.

A single connection listens to the database for all viewers of this process; it is opened by
the first and closed after the last.
"""

import asyncio
import contextlib
import weakref
from collections import defaultdict
from collections.abc import AsyncIterator
from typing import Any

import psycopg
from django.db import connection

from tempermark.web.live.stream.ingest import CHANNEL

AGAIN_AFTER_S = 1.0
_DJANGO_ONLY = ("cursor_factory", "context", "prepare_threshold")


class Hub:
    """The viewers of one event loop."""

    def __init__(self) -> None:
        self.viewers: dict[int, set[asyncio.Event]] = defaultdict(set)
        self.task: asyncio.Task[None] | None = None

    @contextlib.asynccontextmanager
    async def watching(self, element_pk: int) -> AsyncIterator[asyncio.Event]:
        """An event that is set whenever readings of the element have come."""
        woken = asyncio.Event()
        self.viewers[element_pk].add(woken)
        if self.task is None or self.task.done():
            self.task = asyncio.create_task(self._listen())
        try:
            yield woken
        finally:
            self.viewers[element_pk].discard(woken)
            if not any(self.viewers.values()):
                self.task.cancel()

    async def _listen(self) -> None:
        while True:
            try:
                await self._listen_once()
            except psycopg.Error:
                await asyncio.sleep(AGAIN_AFTER_S)

    async def _listen_once(self) -> None:
        parameters = connection.get_connection_params()
        plain = {k: v for k, v in parameters.items() if k not in _DJANGO_ONLY and k != "pool"}
        listener = await psycopg.AsyncConnection.connect(**plain, autocommit=True)
        async with listener:
            await listener.execute(f"LISTEN {CHANNEL}")
            async for notice in listener.notifies():
                for woken in self.viewers.get(int(notice.payload), ()):
                    woken.set()


_hubs: weakref.WeakKeyDictionary[Any, "Hub"] = weakref.WeakKeyDictionary()


def hub() -> Hub:
    """The hub of the running event loop."""
    return _hubs.setdefault(asyncio.get_running_loop(), Hub())
