"""Fills the demo's logbook with as many presses as a busy shop makes in years, to time it."""

from datetime import timedelta
from typing import Any
from uuid import uuid4

import numpy as np
from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction
from django.utils import timezone

from tempermark.web.measure.models import Reading, Survey
from tempermark.web.run.models import Mark, PressedPiece, TestPress
from tempermark.web.run.record.labels import LONGEST, code_of

BATCH = 5000
SEED = 17
GOOD_SHARE, MARKED_SHARE = 0.93, 0.05
SYMPTOMS = ("ghosting", "edge_fade", "low_density", "scorch")
NOTES = ("", "", "", "second paper", "humid afternoon", "customer waits", "new tape")


def copied(row: Any, **changes: Any) -> Any:
    """A row like another, not kept yet."""
    kept = [field for field in row._meta.concrete_fields if not field.primary_key]
    return type(row)(**({field.name: getattr(row, field.name) for field in kept} | changes))


class Command(BaseCommand):
    """`many_presses --count 200000`."""

    help = "Copy the demo's presses until there are so many; only in a demo room."

    def add_arguments(self, parser: CommandParser) -> None:
        """--count: how many there are to be in the end."""
        parser.add_argument("--count", type=int, default=200_000)
        parser.add_argument("--readings", type=int, default=0)

    def handle(self, *args: Any, count: int = 200_000, readings: int = 0, **options: Any) -> None:
        """Add what is missing, thousands at a time."""
        if not settings.DEMO:
            raise CommandError("Only a demo room is filled with made-up presses.")
        rng = np.random.default_rng(SEED)
        models = list(TestPress.objects.filter(step_number=None).order_by("pk")[:40])
        left = count - TestPress.every.count()
        while left > 0:
            self._add(models, min(left, BATCH), rng)
            left -= BATCH
            self.stdout.write(f"{max(left, 0)} to go")
        self._add_readings(readings - Reading.objects.count(), rng)

    @transaction.atomic
    def _add_readings(self, count: int, rng: np.random.Generator) -> None:
        """Earlier surveys: copies of the finished ones of today, of other days."""
        models = list(Survey.objects.exclude(finished_at=None).order_by("pk")[:40])
        placed = {survey.pk: list(survey.stations.order_by("order")) for survey in models}
        shown = {
            station.pk: list(station.readings.filter(taken_back_at=None))
            for stations in placed.values()
            for station in stations
        }
        of_survey = {pk: sum(len(shown[s.pk]) for s in of) for pk, of in placed.items()}
        surveys, stations, readings = [], [], []
        while count > 0:
            model = models[int(rng.integers(len(models)))]
            earlier = timedelta(minutes=float(rng.uniform(60 * 24, 3 * 365 * 24 * 60)))
            at = model.taken_at - earlier
            survey = copied(model, taken_at=at, finished_at=at + timedelta(minutes=5))
            surveys.append(survey)
            for station in placed[model.pk]:
                stations.append(copied(station, survey=survey))
                readings += [
                    copied(reading, station=stations[-1], entry_key=uuid4())
                    for reading in shown[station.pk]
                ]
            count -= max(of_survey[model.pk], 1)
        for rows in (surveys, stations, readings):
            if rows:
                type(rows[0])._base_manager.bulk_create(rows, batch_size=BATCH)

    @transaction.atomic
    def _add(self, models: list[TestPress], count: int, rng: np.random.Generator) -> None:
        now = timezone.now()
        keys = [uuid4() for _ in range(count)]
        pieces = PressedPiece.objects.bulk_create(
            PressedPiece(code=code_of(key, LONGEST)) for key in keys
        )
        rows = []
        for key, piece in zip(keys, pieces, strict=True):
            model = models[int(rng.integers(len(models)))]
            at = now - timedelta(minutes=float(rng.uniform(60, 3 * 365 * 24 * 60)))
            good = rng.random() < GOOD_SHARE
            values = {
                f.attname: getattr(model, f.attname)
                for f in TestPress._meta.concrete_fields
                if f.name != "id"
            }
            values |= {
                "entry_key": key,
                "piece_id": piece.pk,
                "run_id": None,
                "pressed_at": at,
                "logged_at": at,
                "outcome": "good" if good else "faulty",
                "grade": "" if good else str(rng.choice(["second", "spoiled"])),
                "note": NOTES[int(rng.integers(len(NOTES)))],
                # A roll lasts some days; jobs of years ago are closed.
                "film_lot": f"F-{(now - at).days // 3}",
                "job_id": None,
            }
            rows.append(TestPress(**values))
        presses = TestPress.objects.bulk_create(rows)
        Mark.objects.bulk_create(
            Mark(
                test_press=press,
                entry_key=uuid4(),
                symptom=SYMPTOMS[int(rng.integers(len(SYMPTOMS)))],
                where="centre",
            )
            for press in presses
            if press.outcome == "faulty" or rng.random() < MARKED_SHARE
        )
