"""When a response names the cookie of a session: where one began or ended in its request, alone."""

from typing import Any

from django.conf import settings
from django.contrib.sessions.middleware import SessionMiddleware
from django.http import HttpRequest, HttpResponse


class SessionCookie(SessionMiddleware):
    """Django's middleware, with responses that may be late.

    A page sends by itself what was logged, and keeps itself in the browser. Such a request may
    carry the session before a change of hands and be answered after it: if its response deleted
    the cookie, or set it as it was, the person who has just taken over would be signed out.
    """

    def process_response(self, request: HttpRequest, response: Any) -> HttpResponse:
        """Django's response, without a cookie that says nothing new."""
        answered: HttpResponse = super().process_response(request, response)
        cookie = answered.cookies.get(settings.SESSION_COOKIE_NAME)
        if cookie is None:
            return answered
        brought = request.COOKIES.get(settings.SESSION_COOKIE_NAME)
        # A session that was over before the request came is empty too, but nobody ended it here.
        has_ended = not cookie.value and request.session.modified
        if has_ended or cookie.value not in ("", brought):
            self._let_last(request, answered)
        else:
            del answered.cookies[settings.SESSION_COOKIE_NAME]
        return answered

    @staticmethod
    def _let_last(request: HttpRequest, response: HttpResponse) -> None:
        """The room ends a session, not the browser: a cookie is not set anew as it is put off."""
        cookie = response.cookies[settings.SESSION_COOKIE_NAME]
        if cookie.value and not request.session.get_expire_at_browser_close():
            cookie["expires"], cookie["max-age"] = "", settings.SESSION_COOKIE_AGE
