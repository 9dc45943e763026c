"""Sessions by PIN are short: they end after minutes without a tap."""

from collections.abc import Callable
from typing import Any

from asgiref.sync import iscoroutinefunction, markcoroutinefunction, sync_to_async
from django.conf import settings
from django.contrib.auth import BACKEND_SESSION_KEY
from django.http import HttpRequest
from django.utils import timezone

from tempermark.web.accounts.pins.backend import PATH

# Longer than a dwell or a batch of loads, shorter than a break.
IDLE_S = 20 * 60
# A shift; then the PIN is typed again.
LONGEST_S = 10 * 3600
SEEN, SINCE = "pin_seen_s", "pin_since_s"
# The session is written at most so often.
WRITE_EVERY_S = 60


def begin(request: HttpRequest) -> None:
    """A session that a PIN has just begun."""
    now = timezone.now().timestamp()
    request.session[SINCE] = request.session[SEEN] = now
    request.session.set_expiry(IDLE_S)


class ShortSessions:
    """Puts the end of a session by PIN off while somebody taps; sync and async."""

    sync_capable = True
    async_capable = True

    def __init__(self, get_response: Callable[..., Any]) -> None:
        self.get_response = get_response
        self.is_async = iscoroutinefunction(get_response)
        if self.is_async:
            markcoroutinefunction(self)

    def __call__(self, request: HttpRequest) -> Any:
        if self.is_async:
            return self._later(request)
        self._put_off(request)
        return self.get_response(request)

    async def _later(self, request: HttpRequest) -> Any:
        await sync_to_async(self._put_off)(request)
        return await self.get_response(request)

    def _put_off(self, request: HttpRequest) -> None:
        # What a page fetches by itself is no tap.
        is_by_itself = request.method == "GET" and "HX-Request" in request.headers
        if is_by_itself or settings.SESSION_COOKIE_NAME not in request.COOKIES:
            return
        if request.session.get(BACKEND_SESSION_KEY) != PATH:
            return
        now = timezone.now().timestamp()
        if now - request.session.get(SINCE, 0.0) > LONGEST_S:
            request.session.flush()
        elif now - request.session.get(SEEN, 0.0) > WRITE_EVERY_S:
            request.session[SEEN] = now
            request.session.set_expiry(IDLE_S)
