"""Say in the audit record that the room's data came back from elsewhere."""

from typing import Any

from django.core.management import BaseCommand
from django.utils import timezone

from tempermark.web.kit.records.audit import record
from tempermark.web.kit.records.backups import Backup, last_good


class Command(BaseCommand):
    """One entry, by nobody who is signed in."""

    help = "Record that data were brought back."

    def handle(self, *args: Any, **options: Any) -> None:
        """What the data know of their own age is the last backup in them."""
        last = last_good() or Backup(at=timezone.now())
        held = last.at.isoformat() if last.pk else "none"
        record(None, "brought data back", last, last_backup_in_them=held)
