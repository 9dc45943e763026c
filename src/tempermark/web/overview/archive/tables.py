"""Which tables an archive holds, and what of them is secret or made again."""

from collections.abc import Callable
from typing import Any
from uuid import uuid4

from django.apps import apps
from django.contrib.auth.hashers import make_password
from django.db import models

from tempermark.web.accounts.models import BenchPin, SharedTablet, SignedIn, SignUpLink, User
from tempermark.web.kit.forms.once import SentForm
from tempermark.web.kit.records.backups import Backup
from tempermark.web.live.models import LoggerKey
from tempermark.web.measure.models import SurveyVersion
from tempermark.web.run.models import COUNTS, CountedIn

# Who is signed in where, links and PINs, answers of forms, what this machine did: of no other room.
# Counts are made from what they count, numbers of versions by the triggers.
LEFT_OUT: frozenset[type[models.Model]] = frozenset(
    {
        SignedIn,
        SignUpLink,
        BenchPin,
        SharedTablet,
        SentForm,
        Backup,
        CountedIn,
        SurveyVersion,
        *COUNTS,
    }
)
# Secrets stay where they are: people and loggers get new ones where the archive comes in.
SECRETS: dict[tuple[type[models.Model], str], Callable[[], Any]] = {
    (User, "password"): lambda: make_password(None),
    (LoggerKey, "sha256"): lambda: f"none-{uuid4().hex}",
}


def tables() -> list[type[models.Model]]:
    """Our tables, by name."""
    found = [m for m in apps.get_models() if m.__module__.startswith("tempermark")]
    kept = [m for m in found if m not in LEFT_OUT and not m._meta.proxy]
    return sorted(kept, key=name_of)


def name_of(model: type[models.Model]) -> str:
    """How the archive names a table: `measure.survey`."""
    return model._meta.label_lower


def fields_of(model: type[models.Model]) -> list["models.Field[Any, Any]"]:
    """The columns that an archive holds: all but secrets and what the database computes."""
    return [
        field
        for field in model._meta.concrete_fields
        if (model, field.name) not in SECRETS and not getattr(field, "generated", False)
    ]


def secrets_of(model: type[models.Model]) -> dict[str, Any]:
    """New values for the secrets of a row that comes in."""
    return {name: new() for (of, name), new in SECRETS.items() if of is model}
