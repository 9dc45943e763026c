"""Models that Django looks for here."""

from tempermark.web.kit.audit import AuditEntry

__all__ = ["AuditEntry"]
