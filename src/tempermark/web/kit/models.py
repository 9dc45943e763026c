"""Models that Django looks for here."""

from tempermark.web.kit.audit import AuditEntry
from tempermark.web.kit.once import SentForm

__all__ = ["AuditEntry", "SentForm"]
