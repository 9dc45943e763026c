"""Note a backup that the launcher made, or why it could not."""

from datetime import UTC, datetime
from typing import Any

from django.core.management import BaseCommand, CommandError
from django.core.management.base import CommandParser

from tempermark.files.document import parse_json
from tempermark.web.kit.records import backups

FIELDS = ("where", "bytes", "rows", "took_s", "is_archived", "why")


class Command(BaseCommand):
    """One row, as JSON."""

    help = "Note a backup, for the floor page."

    def add_arguments(self, parser: CommandParser) -> None:
        """The row."""
        parser.add_argument(
            "backup", help="JSON: at_s (Unix time), where, bytes, rows, took_s, why"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        """Keep it."""
        given = parse_json(options["backup"])
        if not isinstance(given, dict) or "at_s" not in given:
            raise CommandError("That is no backup.")
        at = datetime.fromtimestamp(float(given["at_s"]), UTC)
        values = {name: given[name] for name in FIELDS if name in given}
        backups.keep({"at": at, **values})
