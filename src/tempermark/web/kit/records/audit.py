"""Who did what, when: one line per change of state, written with the change itself."""

from typing import Any

from django.db import models


class AuditEntry(models.Model):
    """An entry of the record; never changed, never deleted by the application."""

    at = models.DateTimeField(auto_now_add=True)
    who = models.ForeignKey("accounts.User", on_delete=models.PROTECT, null=True)
    did = models.CharField(max_length=80)
    subject = models.CharField(max_length=120)
    detail = models.JSONField(default=dict)

    class Meta:
        ordering = ["-at", "-pk"]
        indexes = [models.Index(fields=["subject"], name="audit_subject")]

    def __str__(self) -> str:
        return f"{self.did} {self.subject}"


def record(who: Any, did: str, subject: models.Model, **detail: Any) -> AuditEntry:
    """Write an entry; call it inside the transaction of the change."""
    return AuditEntry.objects.create(who=who, did=did, subject=label_of(subject), detail=detail)


def label_of(subject: models.Model) -> str:
    """How the record names a row: `run.testpress:12`."""
    return f"{subject._meta.label_lower}:{subject.pk}"
