"""Ends with an error where this version must not serve the database."""

from typing import Any

from django.core.management import BaseCommand

from tempermark.web.kit.records.versions import must_fit


class Command(BaseCommand):
    """Silent where all is well."""

    help = "Refuse a database of another version."

    def handle(self, *args: Any, **options: Any) -> None:
        """Look, and end."""
        must_fit()
