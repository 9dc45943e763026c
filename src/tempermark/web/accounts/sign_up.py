"""Sign-up by a link that works once."""

import hashlib
import secrets
from typing import Any

from django.contrib.auth.hashers import UNUSABLE_PASSWORD_PREFIX
from django.db import transaction
from django.utils import timezone

from tempermark.web.accounts.models import Role, SignUpLink, User
from tempermark.web.kit.records.audit import record


def has_lead() -> bool:
    """Whether somebody who may sign in leads the room."""
    leads = User.objects.filter(role=Role.LEAD, is_active=True)
    # Those that an archive brought have no password until they choose one.
    return leads.exclude(password__startswith=UNUSABLE_PASSWORD_PREFIX).exists()


@transaction.atomic
def first_lead_token() -> str | None:
    """The token of a fresh link for the first lead; None where the room has one. Links made for
    the same before, and not used, no longer work.
    """
    if has_lead():
        return None
    SignUpLink.objects.filter(used_at=None, for_person=None).delete()
    token = secrets.token_urlsafe(24)
    SignUpLink.objects.create(digest=digest(token), role=Role.LEAD)
    return token


def open_link(token: str) -> SignUpLink | None:
    """The link of a token while it can be used, else None."""
    link = SignUpLink.objects.filter(digest=digest(token)).first()
    return link if link is not None and link.is_open else None


@transaction.atomic
def sign_up(link: SignUpLink, name: str, password: str, units: dict[str, str]) -> User | None:
    """The person who signs up with a link, once; None where somebody else was quicker."""
    held = SignUpLink.objects.select_for_update().get(pk=link.pk)
    if not held.is_open:
        return None
    chosen: dict[str, Any] = {f"{quantity}_unit": unit for quantity, unit in units.items()}
    user = User.objects.create_user(name, password=password, role=held.role, **chosen)
    held.used_at, held.used_by = timezone.now(), user
    held.save(update_fields=["used_at", "used_by"])
    record(user, "signed up", user, role=held.role)
    return user


def digest(token: str) -> str:
    """How a token is kept (SHA-256)."""
    return hashlib.sha256(token.encode()).hexdigest()
