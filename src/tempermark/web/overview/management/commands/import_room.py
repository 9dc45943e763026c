"""Bring a whole room's archive into an empty room."""

from pathlib import Path
from typing import Any

from django.core.management import BaseCommand, CommandError
from django.core.management.base import CommandParser

from tempermark.core.errors import InputError
from tempermark.web.overview.archive.reading import bring_in


class Command(BaseCommand):
    """`import_room room.zip`."""

    help = "Fill an empty room from the archive of another; people choose new passwords."

    def add_arguments(self, parser: CommandParser) -> None:
        """The archive."""
        parser.add_argument("archive", type=Path)

    def handle(self, *args: Any, archive: Path, **options: Any) -> None:
        """All of it or nothing."""
        try:
            rows = bring_in(archive)
        except InputError as error:
            raise CommandError(str(error)) from None
        self.stdout.write(
            f"{rows:,} rows came in. Nobody has a password yet: the next start of the room prints "
            f"a link for a lead, who makes links for the others."
        )
