"""Where a person is signed in, and how that is ended."""

from typing import Any

from django.contrib.auth.signals import user_logged_in
from django.contrib.sessions.models import Session
from django.dispatch import receiver
from django.http import HttpRequest
from django.utils import timezone

from tempermark.web.accounts.models import SignedIn, User

LONGEST_DEVICE = 200


@receiver(user_logged_in, dispatch_uid="note session")
def note(sender: Any, request: HttpRequest, user: User, **_: Any) -> None:
    """Note a session as it begins."""
    if request.session.session_key is None:
        request.session.save()
    SignedIn.objects.update_or_create(
        session_key=request.session.session_key,
        defaults={
            "person": user,
            "device": _device(request.META.get("HTTP_USER_AGENT", "")),
            "address": request.META.get("REMOTE_ADDR") or None,
            "since": timezone.now(),
        },
    )


def _device(agent: str) -> str:
    """What kind of device a browser says that it runs on: the first words in brackets, else all."""
    _, _, inside = agent.partition("(")
    return (inside.partition(")")[0] or agent)[:LONGEST_DEVICE]


def sessions_of(person: User) -> list[SignedIn]:
    """Sessions that still last; what is over is forgotten."""
    alive = set(
        Session.objects.filter(
            session_key__in=person.signed_in.values("session_key"), expire_date__gt=timezone.now()
        ).values_list("session_key", flat=True)
    )
    person.signed_in.exclude(session_key__in=alive).delete()
    return list(person.signed_in.all())


def end_sessions(person: User, but: str | None = None, only: int | None = None) -> int:
    """End a person's sessions, all ``but`` the one with this key, or ``only`` one by its row; how
    many.
    """
    rows = person.signed_in.exclude(session_key=but or "")
    if only is not None:
        rows = rows.filter(pk=only)
    keys = list(rows.values_list("session_key", flat=True))
    Session.objects.filter(session_key__in=keys).delete()
    SignedIn.objects.filter(session_key__in=keys).delete()
    return len(keys)
