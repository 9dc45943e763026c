"""Whether a request comes from a shared tablet, by its cookie."""

from typing import Any

from django.conf import settings
from django.contrib.auth.signals import user_logged_in
from django.dispatch import receiver
from django.http import HttpRequest, HttpResponse

from tempermark.web.accounts.models import SharedTablet, User
from tempermark.web.accounts.pins.actions import open_again
from tempermark.web.accounts.pins.backend import PATH
from tempermark.web.accounts.sign_up import digest

# A tablet stays shared until a lead ends it; browsers keep no cookie longer.
LASTS_S = 400 * 24 * 3600


@receiver(user_logged_in, dispatch_uid="open PIN again")
def note_password(sender: Any, request: HttpRequest, user: User, **_: Any) -> None:
    """Whoever gives the password may use the PIN again."""
    if getattr(user, "backend", "") != PATH:
        open_again(user, tablet_of(request))


def _cookie_name() -> str:
    # As the session's: rooms on one machine keep theirs apart.
    return str(settings.SESSION_COOKIE_NAME).replace("session", "tablet")


def may_be_shared(request: HttpRequest) -> bool:
    """Whether the device says that it is one, without asking the database."""
    return _cookie_name() in request.COOKIES


def tablet_of(request: HttpRequest) -> SharedTablet | None:
    """The shared tablet that sent a request."""
    token = request.COOKIES.get(_cookie_name(), "")
    if not token:
        return None
    return SharedTablet.objects.filter(digest=digest(token), ended_at=None).first()


def mark(response: HttpResponse, token: str) -> None:
    """Make the device that reads a response a shared tablet."""
    response.set_cookie(
        _cookie_name(),
        token,
        max_age=LASTS_S,
        httponly=True,
        samesite="Lax",
        secure=settings.SESSION_COOKIE_SECURE,
    )


def unmark(response: HttpResponse) -> None:
    """Make it a device like any other."""
    response.delete_cookie(_cookie_name(), samesite="Lax")
