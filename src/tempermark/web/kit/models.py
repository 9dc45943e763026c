"""Models that Django looks for here."""

from tempermark.web.kit.forms.once import SentForm
from tempermark.web.kit.records.audit import AuditEntry
from tempermark.web.kit.records.backups import Backup

__all__ = ["AuditEntry", "Backup", "SentForm"]
