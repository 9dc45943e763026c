"""Write the whole room as one archive of open formats."""

from pathlib import Path
from typing import Any

from django.core.management import BaseCommand
from django.core.management.base import CommandParser

from tempermark.web.overview.archive.writing import room_archive


class Command(BaseCommand):
    """`export_room room.zip`."""

    help = "Write everything of the room but secrets as a zip of JSON lines and pictures."

    def add_arguments(self, parser: CommandParser) -> None:
        """Where to."""
        parser.add_argument("archive", type=Path)

    def handle(self, *args: Any, archive: Path, **options: Any) -> None:
        """A half one never has the name."""
        half = archive.with_name(f".{archive.name}.part")
        with half.open("wb") as out:
            for part in room_archive():
                out.write(part)
        half.replace(archive)
        self.stdout.write(f"{archive}: {archive.stat().st_size:,} bytes")
