"""Count the days that changed, as the worker does every minute."""

from typing import Any

from django.core.management import BaseCommand

from tempermark.web.run.counts.keeping import keep


class Command(BaseCommand):
    """`keep_counts`."""

    help = "Count the days again whose pieces changed."

    def handle(self, *args: Any, **options: Any) -> None:
        """All of them."""
        days = keep()
        self.stdout.write(f"{days} day{'' if days == 1 else 's'} counted.")
