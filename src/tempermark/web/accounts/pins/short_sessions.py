"""Sessions by PIN are short: they end after minutes without a tap."""

from typing import Any

from django.conf import settings
from django.contrib.auth import BACKEND_SESSION_KEY
from django.http import HttpRequest
from django.utils import timezone

from tempermark.web.accounts.pins.backend import PATH
from tempermark.web.kit.middleware import BeforeViews

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


class ShortSessions(BeforeViews):
    """Puts the end of a session by PIN off while somebody taps. It stands before all that asks who
    somebody is.
    """

    def process_view(self, request: HttpRequest, *_: Any) -> None:
        """Later by a tap; at once where the shift is over."""
        # What a page fetches by itself is no tap.
        is_by_itself = request.method == "GET" and "HX-Request" in request.headers
        if is_by_itself or settings.SESSION_COOKIE_NAME not in request.COOKIES:
            return
        if request.session.get(BACKEND_SESSION_KEY) != PATH:
            return
        now = timezone.now().timestamp()
        since_s, seen_s = (now - request.session.get(name, 0.0) for name in (SINCE, SEEN))
        # Begun or seen in time to come: the clock was set back, and nobody knows how long it is.
        if since_s > LONGEST_S or min(since_s, seen_s) < -WRITE_EVERY_S:
            request.session.flush()
        elif seen_s > WRITE_EVERY_S:
            request.session[SEEN] = now
            request.session.set_expiry(IDLE_S)
