"""Who did what, when: one line per change of state, written with the change itself. The database
refuses to change or delete one (migration 0002).
"""

from typing import Any

from django.db import models
from django.utils import timezone

LONGEST_NAME = 120


class AuditEntry(models.Model):
    """An entry of the record; never changed, never deleted."""

    # The clock's time, not that of the transaction: in the order of the work.
    at = models.DateTimeField(default=timezone.now, editable=False)
    who = models.ForeignKey("accounts.User", on_delete=models.PROTECT, null=True)
    did = models.CharField(max_length=80)
    subject = models.CharField(max_length=120)
    # What the subject was called then; another name later leaves this one.
    name = models.CharField(max_length=LONGEST_NAME, blank=True, default="")
    detail = models.JSONField(default=dict)

    class Meta:
        ordering = ["-at", "-pk"]
        indexes = [
            models.Index(fields=["subject", "-at", "-id"], name="audit_subject"),
            models.Index(fields=["-at", "-id"], name="audit_at"),
            models.Index(fields=["who", "-at", "-id"], name="audit_who"),
        ]

    def __str__(self) -> str:
        return f"{self.did} {self.subject}"


def record(who: Any, did: str, subject: models.Model, **detail: Any) -> AuditEntry:
    """Write an entry; call it inside the transaction of the change."""
    if getattr(who, "by_pin", False):
        detail = {**detail, "by_pin": True}
    return AuditEntry.objects.create(
        who=who,
        did=did,
        subject=label_of(subject),
        name=str(subject)[:LONGEST_NAME],
        detail=detail,
    )


def label_of(subject: models.Model) -> str:
    """How the record names a row: `run.testpress:12`."""
    return f"{subject._meta.label_lower}:{subject.pk}"
