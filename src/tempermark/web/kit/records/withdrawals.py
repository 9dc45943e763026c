"""Rows that can be withdrawn: they stay, with who did it, when and why, and count no more."""

from typing import Any

from django import forms
from django.conf import settings
from django.contrib.auth.models import AbstractUser
from django.db import models
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.web.kit.records.audit import AuditEntry, label_of, record

LONGEST_REASON = 300
CORRECTED, WITHDREW = "corrected", "withdrew"


class StandingManager(models.Manager[Any]):
    """The rows that were not withdrawn."""

    def get_queryset(self) -> Any:
        """All that count."""
        return super().get_queryset().filter(withdrawn_at=None)


class Withdrawable(models.Model):
    """A row that counts until it is withdrawn; `every` finds the withdrawn ones too."""

    withdrawn_at = models.DateTimeField(null=True, blank=True)
    withdrawn_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+", null=True, blank=True
    )
    withdrawn_why = models.CharField(max_length=LONGEST_REASON, blank=True)

    objects = StandingManager()
    every = models.Manager()

    class Meta:
        abstract = True
        base_manager_name = "every"

    def withdraw(self, user: Any, why: str) -> bool:
        """Let it count no more; False where somebody did so before. InputError without a reason."""
        why = reason(why)
        if self.withdrawn_at is not None:
            return False
        self.withdrawn_at, self.withdrawn_by, self.withdrawn_why = timezone.now(), user, why
        self.save(update_fields=["withdrawn_at", "withdrawn_by", "withdrawn_why"])
        record(user, WITHDREW, self, why=why)
        return True


class WhyField(forms.CharField):
    """Why something is corrected or withdrawn."""

    def __init__(self) -> None:
        super().__init__(label="Reason", max_length=LONGEST_REASON, help_text="kept on record")


def reason(text: str) -> str:
    """A reason as it is kept; InputError where there is none."""
    text = text.strip()[:LONGEST_REASON]
    if not text:
        raise InputError.single("why", "Give a reason: it is kept with the earlier value.")
    return text


def correct(
    user: AbstractUser, row: models.Model, values: dict[str, Any], why: str
) -> dict[str, list[Any]]:
    """Change a row's fields and keep what was there: name → [before, after] of what changed."""
    why = reason(why)
    changed = {
        name: [getattr(row, name), value]
        for name, value in values.items()
        if getattr(row, name) != value
    }
    for name, (_, after) in changed.items():
        setattr(row, name, after)
    if changed:
        row.save(update_fields=list(changed))
        record_correction(user, row, changed, why)
    return changed


def record_correction(
    user: AbstractUser, row: models.Model, changed: dict[str, list[Any]], why: str
) -> None:
    """Keep what was there before a correction, and why it was made."""
    kept = {name: [_plain(value) for value in pair] for name, pair in changed.items()}
    record(user, CORRECTED, row, why=why, changed=kept)


def corrections_of(row: models.Model) -> list[AuditEntry]:
    """Corrections and the withdrawal of a row, newest first."""
    return list(
        AuditEntry.objects.filter(subject=label_of(row), did__in=(CORRECTED, WITHDREW))
        .select_related("who")
        .order_by("-at", "-pk")
    )


def _plain(value: Any) -> Any:
    """A value as JSON keeps it."""
    if isinstance(value, models.Model):
        return str(value)
    if hasattr(value, "isoformat"):
        return value.isoformat()
    return value
