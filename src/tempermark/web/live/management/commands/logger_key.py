"""Make a key for the simulated logger on a press; prints the key and nothing else."""

from typing import Any

from django.core.management import BaseCommand, CommandError
from django.core.management.base import CommandParser

from tempermark.web.live.models import LoggerKey
from tempermark.web.live.stream.keys import make_key
from tempermark.web.measure.models import Instrument, InstrumentKind
from tempermark.web.measure.surveys.grids import grid_places
from tempermark.web.presses.models import Press
from tempermark.web.presses.queries import fitted_first

SIMULATED = "simulated logger, nine channels"


class Command(BaseCommand):
    """`logger_key PRESS`."""

    help = "Make a key for the simulated logger on a press."

    def add_arguments(self, parser: CommandParser) -> None:
        """The press by its name."""
        parser.add_argument("press")

    def handle(self, *args: Any, press: Any, **options: Any) -> None:
        """Make the key, unless another logger stands there."""
        found = Press.objects.filter(name__iexact=press).first()
        element = fitted_first().filter(press=found).first() if found else None
        if element is None:
            known = ", ".join(Press.objects.values_list("name", flat=True))
            raise CommandError(f"There is no press {press} with a heated element. Known: {known}")
        instrument, _ = Instrument.objects.get_or_create(
            name=SIMULATED,
            defaults={"kind": InstrumentKind.LOGGER, "expanded_uncertainty_c": 1.0},
        )
        other = LoggerKey.objects.filter(element=element, ended_at=None).exclude(
            instrument=instrument
        )
        if other.exists():
            raise CommandError(f"{other.get()} has a key already; a simulated one would end it.")
        places = grid_places("3x3", element.width_mm, element.height_mm)
        # The simulated probes are numbered row by row from the front left.
        places.sort(key=lambda p: (p.y_mm, p.x_mm))
        self.stdout.write(make_key(None, element, instrument, places))
