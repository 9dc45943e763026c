"""Models that Django looks for here."""

from tempermark.web.kit.forms.once import SentForm
from tempermark.web.kit.records.audit import AuditEntry

__all__ = ["AuditEntry", "SentForm"]
