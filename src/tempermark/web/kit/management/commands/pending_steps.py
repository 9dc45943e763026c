"""How many steps of this version a database lacks: a number, `none yet` for an empty one, or
`newer` where it has steps that this version does not know.
"""

from typing import Any

from django.core.management import BaseCommand

from tempermark.web.kit.records.versions import Fit, fit_of_database


class Command(BaseCommand):
    """One line."""

    help = "Steps that the database lacks."

    def handle(self, *args: Any, **options: Any) -> None:
        """Say it."""
        fit = fit_of_database()
        answers = {Fit.EMPTY: "none yet", Fit.NEWER: "newer"}
        self.stdout.write(answers.get(fit.kind, str(fit.pending)))
