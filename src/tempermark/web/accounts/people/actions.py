"""Changes to people: invited, another role, disabled, another password."""

import secrets

from django.db import transaction
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.web.accounts.models import BenchPin, Role, SignUpLink, User
from tempermark.web.accounts.people.sessions import end_sessions
from tempermark.web.accounts.permissions import must_lead
from tempermark.web.accounts.sign_up import digest
from tempermark.web.kit.records.audit import record

LAST_LEAD = "This is the room's only lead: make somebody else one first."


@transaction.atomic
def invite(user: User, role: str) -> str:
    """The token of a link with which one person signs up, once, within a day."""
    must_lead(user)
    return _link(user, role, None)


@transaction.atomic
def reset(user: User, person: User) -> str:
    """The token of a link with which a person chooses another password, once, within a day; links
    made for the same before no longer work.
    """
    must_lead(user)
    SignUpLink.objects.filter(for_person=person, used_at=None).delete()
    record(user, "made reset link", person)
    return _link(user, person.role, person)


def _link(user: User, role: str, person: User | None) -> str:
    token = secrets.token_urlsafe(24)
    link = SignUpLink.objects.create(
        digest=digest(token), role=role, for_person=person, invited_by=user
    )
    if person is None:
        record(user, "invited", link, role=role)
    return token


@transaction.atomic
def withdraw(user: User, link: SignUpLink) -> None:
    """A link that was not used no longer works."""
    must_lead(user)
    if SignUpLink.objects.filter(pk=link.pk, used_at=None).delete()[0]:
        record(user, "withdrew link", link)


@transaction.atomic
def set_role(user: User, person: User, role: str) -> None:
    """Another role. Raises InputError where nobody would lead any more."""
    must_lead(user)
    held = _locked(person)
    if role not in Role.values:
        raise InputError.single("role", f"{role} is no role.")
    if held.role == Role.LEAD and role != Role.LEAD:
        _must_not_be_last(held)
    held.role = role
    held.save(update_fields=["role"])
    record(user, "set role", held, role=role)


@transaction.atomic
def set_active(user: User, person: User, active: bool) -> None:
    """A person may sign in again, or no more, wherever they are signed in. Raises InputError where
    nobody would lead any more.
    """
    must_lead(user)
    held = _locked(person)
    if not active and held.role == Role.LEAD:
        _must_not_be_last(held)
    held.is_active = active
    held.save(update_fields=["is_active"])
    if not active:
        end_sessions(held)
    record(user, "enabled person" if active else "disabled person", held)


def _locked(person: User) -> User:
    # All leads, so that two of them cannot disable each other at once.
    list(User.objects.select_for_update().filter(role=Role.LEAD).order_by("pk"))
    return User.objects.select_for_update().get(pk=person.pk)


def _must_not_be_last(person: User) -> None:
    others = User.objects.filter(role=Role.LEAD, is_active=True).exclude(pk=person.pk)
    if person.is_active and not others.exists():
        raise InputError.single(None, LAST_LEAD)


@transaction.atomic
def choose_password(user: User, password: str, session_key: str | None) -> None:
    """Another password of one's own; every other session ends."""
    user.set_password(password)
    user.save(update_fields=["password"])
    end_sessions(user, but=session_key)
    record(user, "chose password", user)


@transaction.atomic
def choose_by_link(link: SignUpLink, password: str) -> User | None:
    """Another password by a link that a lead made; None where it was used meanwhile. Every session
    ends, and a PIN too.
    """
    held = (
        SignUpLink.objects.select_for_update(of=("self",))
        .select_related("for_person")
        .get(pk=link.pk)
    )
    if not held.is_open or held.for_person is None or not held.for_person.is_active:
        return None
    choose_password(held.for_person, password, None)
    BenchPin.objects.filter(person=held.for_person).delete()
    held.used_at = timezone.now()
    held.save(update_fields=["used_at"])
    return held.for_person
