"""Add a press with its element to your own room."""

from typing import Any

from django.core.management import BaseCommand, CommandError
from django.core.management.base import CommandParser
from django.db import IntegrityError, transaction
from django.utils.text import slugify

from tempermark.web.presses.models import Element, Press, PressKind


class Command(BaseCommand):
    """`add_press NAME KIND WIDTH_MM HEIGHT_MM`."""

    help = "Add a press."

    def add_arguments(self, parser: CommandParser) -> None:
        """What a press cannot do without."""
        parser.add_argument("name")
        parser.add_argument("kind", choices=PressKind.values)
        parser.add_argument("width_mm", type=float)
        parser.add_argument("height_mm", type=float)

    def handle(self, *args: Any, **options: Any) -> None:
        """Make the press, or say what is wrong."""
        name = options["name"]
        try:
            with transaction.atomic():
                press = Press.objects.create(name=name, slug=slugify(name), kind=options["kind"])
                Element.objects.create(
                    press=press, width_mm=options["width_mm"], height_mm=options["height_mm"]
                )
        except IntegrityError:
            raise CommandError(
                f"{name} is there already, or its platen is not within 20 to 5000 mm."
            ) from None
        self.stdout.write(f"{name} is on the floor. Survey it first.")
