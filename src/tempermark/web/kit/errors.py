"""Error pages: what happened and what to do. They ask nothing of the database, which may be what
failed: no frame, no strip of presses, nobody's name.
"""

import sys
from typing import Any

from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string
from psycopg.errors import LockNotAvailable, QueryCanceled

# What is raised where no connection can be had, or one ends in the middle.
AWAY = (OperationalError, InterfaceError)
# What ended at a time-out of settings/base.py: a statement, a wait for a lock.
TOO_LONG = (QueryCanceled, LockNotAvailable)
RETRY_AFTER_S = 10


def _page(request: HttpRequest, status: int, title: str, text: str) -> HttpResponse:
    # Without the request no context processor runs, so that nothing is read.
    page = render_to_string("errors/error.html", {"title": title, "text": text})
    return HttpResponse(page, status=status)


def bad_request(request: HttpRequest, exception: Any = None) -> HttpResponse:
    """400"""
    return _page(request, 400, "That request could not be read.", "Go back and try again.")


def forbidden(request: HttpRequest, exception: Any = None) -> HttpResponse:
    """403"""
    text = str(exception) if exception else "Ask a lead if you need to do this."
    return _page(request, 403, "Your role does not allow this.", text)


def not_found(request: HttpRequest, exception: Any = None) -> HttpResponse:
    """404"""
    return _page(request, 404, "There is no such page.", "It may have been renamed or removed.")


def conflict(request: HttpRequest) -> HttpResponse:
    """409: two people did what only one can do."""
    text = "Somebody else saved the same thing at the same moment. Go back, reload and check first."
    return _page(request, 409, "Nothing was saved.", text)


def server_error(request: HttpRequest) -> HttpResponse:
    """500; 503 where the database does not answer."""
    if isinstance(sys.exc_info()[1], AWAY):
        return _away(request, sys.exc_info()[1])
    text = "Everything saved before is safe. Go back and try again."
    return _page(request, 500, "Something went wrong here.", text)


def _away(request: HttpRequest, error: BaseException | None) -> HttpResponse:
    """503: a page that was looked at is asked for again by itself."""
    is_look = request.method in ("GET", "HEAD")
    title = "The database does not answer."
    if isinstance(getattr(error, "__cause__", None), TOO_LONG):
        title = "The database is too busy for this at the moment."
    text = "Nothing was saved. Go back: what you typed is still there. Send it again."
    page = _page(request, 503, title, "This page tries again by itself." if is_look else text)
    page["Retry-After"] = str(RETRY_AFTER_S)
    if is_look:
        page["Refresh"] = str(RETRY_AFTER_S)
    return page


def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    """A form from an expired page."""
    return _page(request, 403, "This page was open too long.", "Reload it and send the form again.")
