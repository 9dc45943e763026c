"""Keys that let a logger write: made by a lead, shown once, ended at any time."""

import hashlib
import secrets

from django.db import transaction
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_lead
from tempermark.web.kit.records.audit import record
from tempermark.web.live.models import LoggerKey
from tempermark.web.measure.models import Instrument, InstrumentKind
from tempermark.web.measure.surveys.grids import GridPlace
from tempermark.web.presses.models import Element


def hashed(secret: str) -> str:
    """What is kept of a key; it is long and random, so a plain hash does."""
    return hashlib.sha256(secret.encode()).hexdigest()


@transaction.atomic
def make_key(
    user: User | None, element: Element, instrument: Instrument, places: list[GridPlace]
) -> str:
    """A new key for a logger on an element, ending the one before; the only time it is seen.

    `user` is None for the management command.
    """
    if user is not None:
        must_lead(user)
    if instrument.kind != InstrumentKind.LOGGER:
        raise InputError.single(None, f"{instrument.name} is not a logger.")
    LoggerKey.objects.filter(element=element, ended_at=None).update(ended_at=timezone.now())
    secret = secrets.token_urlsafe(32)
    key = LoggerKey.objects.create(
        element=element,
        instrument=instrument,
        places=[[p.x_mm, p.y_mm] for p in places],
        sha256=hashed(secret),
        created_by=user,
    )
    record(user, "made logger key", key, element=element.pk)
    return secret


@transaction.atomic
def end_key(user: User, key: LoggerKey) -> None:
    """The logger may write no more; what it wrote stays."""
    must_lead(user)
    LoggerKey.objects.filter(pk=key.pk, ended_at=None).update(ended_at=timezone.now())
    record(user, "ended logger key", key)


def key_of(secret: str) -> LoggerKey | None:
    """The key that is good now, if this is one."""
    return (
        LoggerKey.objects.filter(sha256=hashed(secret), ended_at=None)
        .select_related("element__press", "instrument")
        .first()
    )
