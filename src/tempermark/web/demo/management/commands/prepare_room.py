"""Bring a room's database, static files and shipped data up to date; quick when they are."""

import hashlib
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management import BaseCommand, CommandError, call_command
from django.core.management.base import CommandParser
from django.db import connection

from tempermark.web.kit.records.versions import Fit, fit_of_database
from tempermark.web.recipes.cards.actions import load_shipped_recipes


def _make_empty() -> None:
    """No table is left."""
    with connection.cursor() as cursor:
        cursor.execute("DROP SCHEMA public CASCADE")
        cursor.execute("CREATE SCHEMA public")


class Command(BaseCommand):
    """Migrate, collect static files, load shipped recipes, and the demo's data if asked."""

    help = "Bring database, static files and shipped data up to date."

    def add_arguments(self, parser: CommandParser) -> None:
        """--demo adds the made-up room; --reset rebuilds it."""
        parser.add_argument("--demo", action="store_true")
        parser.add_argument("--reset", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        """Each step only where it is needed."""
        fit = fit_of_database()
        if fit.kind is Fit.NEWER:
            if not options["demo"]:
                raise CommandError(
                    f"This database belongs to another version of Tempermark, which took the step "
                    f"{fit.unknown[0]}."
                )
            self.stdout.write("The demo's database is of another version: it is made again")
            _make_empty()
            fit = fit_of_database()
        if fit.pending:
            self.stdout.write("Preparing the database")
            call_command("migrate", interactive=False, verbosity=0)
        self._collect()
        load_shipped_recipes()
        if options["demo"]:
            call_command("demo_data", reset=options["reset"], stdout=self.stdout)

    def _collect(self) -> None:
        root = Path(settings.STATIC_ROOT)
        stamp = root / ".made-of"
        digest = _digest(Path(settings.STATICFILES_DIRS[0]))
        if not stamp.exists() or stamp.read_text() != digest:
            call_command("collectstatic", interactive=False, clear=True, verbosity=0)
            stamp.write_text(digest)


def _digest(folder: Path) -> str:
    """Changes when any static file does."""
    result = hashlib.sha256()
    for path in sorted(p for p in folder.rglob("*") if p.is_file()):
        result.update(str(path.relative_to(folder)).encode() + path.read_bytes())
    return result.hexdigest()
