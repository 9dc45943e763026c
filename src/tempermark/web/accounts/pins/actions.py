"""Changes: a PIN set or removed, a tablet shared or no more, hands changed."""

import itertools
import secrets
from dataclasses import dataclass

from django.contrib.auth.hashers import check_password, make_password
from django.db import transaction
from django.db.models import F
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.web.accounts.models import BenchPin, SharedTablet, User
from tempermark.web.accounts.permissions import must_lead, must_work
from tempermark.web.accounts.sign_up import digest
from tempermark.web.kit.records.audit import record

# A PIN of four digits is guessed once in 2,000 rows of five; then only the password opens it again.
MOST_WRONG_OF_PERSON = 5
# Somebody who tries everybody's once is stopped by the tablet.
MOST_WRONG_OF_TABLET = 15
SHORTEST, LONGEST = 4, 8


@transaction.atomic
def set_pin(user: User, pin: str) -> None:
    """Another PIN of one's own. Raises InputError for one that is guessed first."""
    must_work(user)
    if not (pin.isascii() and pin.isdigit() and SHORTEST <= len(pin) <= LONGEST):
        raise InputError.single("pin", f"A PIN has {SHORTEST} to {LONGEST} digits.")
    if _is_first_guess(pin):
        raise InputError.single("pin", "Everybody tries this PIN first: take another.")
    values = {"digest": make_password(pin), "set_at": timezone.now(), "failures": 0}
    BenchPin.objects.update_or_create(person=user, defaults=values)
    record(user, "set PIN", user)


def _is_first_guess(pin: str) -> bool:
    """One digit again and again, or digits in a row up or down."""
    steps = {int(b) - int(a) for a, b in itertools.pairwise(pin)}
    return len(steps) == 1 and steps <= {0, 1, -1}


@transaction.atomic
def remove_pin(user: User) -> None:
    """No PIN any more."""
    if BenchPin.objects.filter(person=user).delete()[0]:
        record(user, "removed PIN", user)


@transaction.atomic
def share_tablet(user: User, name: str) -> str:
    """The token by which this device is known as a shared tablet. Raises InputError where the name
    is used.
    """
    must_lead(user)
    if SharedTablet.objects.filter(name=name, ended_at=None).exists():
        raise InputError.single("name", f"There is a shared tablet {name} already.")
    token = secrets.token_urlsafe(24)
    tablet = SharedTablet.objects.create(name=name, digest=digest(token), added_by=user)
    record(user, "shared tablet", tablet, name=name)
    return token


@transaction.atomic
def end_tablet(user: User, tablet: SharedTablet) -> None:
    """PINs open nothing on this tablet any more."""
    must_lead(user)
    if SharedTablet.objects.filter(pk=tablet.pk, ended_at=None).update(ended_at=timezone.now()):
        record(user, "ended shared tablet", tablet)


@dataclass(frozen=True)
class TakeOver:
    """Who takes over, or why nobody does."""

    person: User | None = None
    why: str = ""


@transaction.atomic
def take_over(tablet: SharedTablet, person_id: int, pin: str) -> TakeOver:
    """A person takes over a shared tablet by PIN; wrong ones are counted for both."""
    held = SharedTablet.objects.select_for_update().get(pk=tablet.pk)
    if held.failures >= MOST_WRONG_OF_TABLET:
        return TakeOver(why="Too many wrong PINs on this tablet: sign in with your password.")
    pins = BenchPin.objects.select_for_update(of=("self",)).select_related("person")
    kept = pins.filter(person_id=person_id, person__is_active=True).first()
    if kept is None or not kept.person.may_work:
        return TakeOver(why="This person has no PIN: sign in with your password.")
    name = kept.person.username
    if kept.failures >= MOST_WRONG_OF_PERSON:
        return TakeOver(why=_closed(name))
    if not check_password(pin, kept.digest):
        BenchPin.objects.filter(pk=kept.pk).update(failures=F("failures") + 1)
        SharedTablet.objects.filter(pk=held.pk).update(failures=F("failures") + 1)
        return TakeOver(why=_wrong(kept, held))
    BenchPin.objects.filter(pk=kept.pk).update(failures=0)
    SharedTablet.objects.filter(pk=held.pk).update(failures=0, used_at=timezone.now())
    return TakeOver(person=kept.person)


def _wrong(kept: BenchPin, tablet: SharedTablet) -> str:
    left = MOST_WRONG_OF_PERSON - kept.failures - 1
    name = kept.person.username
    if left > 0:
        return f"This is not {name}’s PIN. {left} {'try' if left == 1 else 'tries'} left."
    record(None, "closed PIN", kept.person, tablet=tablet.name)
    return _closed(name)


def _closed(name: str) -> str:
    return f"{name}’s PIN is closed after {MOST_WRONG_OF_PERSON} wrong tries: use the password."


def open_again(person: User, tablet: SharedTablet | None) -> None:
    """Whoever signs in with the password may use the PIN again, and the tablet too."""
    BenchPin.objects.filter(person=person, failures__gt=0).update(failures=0)
    if tablet is not None and tablet.failures:
        SharedTablet.objects.filter(pk=tablet.pk).update(failures=0)
