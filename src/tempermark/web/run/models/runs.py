"""Runs at a press, and the log in which every act of the bench is one entry."""

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import Q
from django.utils import timezone

from tempermark.web.jobs.models import Job
from tempermark.web.presses.models import Element
from tempermark.web.run.models.pieces import PressedPiece, TestPress

MOST_PER_LOAD = 12


class Run(models.Model):
    """A job being pressed on an element: load after load, each through the recipe's steps.

    `per_load` pieces lie under the platen together, at `places_mm`: the front left corners of
    their art. A piece printed at several places goes round once for each of `placings`.
    """

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="runs")
    element = models.ForeignKey(Element, on_delete=models.PROTECT, related_name="runs")
    per_load = models.PositiveSmallIntegerField(default=1)
    placings = ArrayField(models.CharField(max_length=40), default=list)
    places_mm = models.JSONField(default=list)
    settings = models.JSONField(default=dict, help_text="what differs from the recipe's main press")
    entry_key = models.UUIDField(unique=True)
    started_at = models.DateTimeField(default=timezone.now)
    started_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    ended_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-started_at", "-pk"]
        constraints = [
            models.CheckConstraint(
                condition=Q(per_load__range=(1, MOST_PER_LOAD)), name="run_per_load_in_range"
            )
        ]
        indexes = [
            models.Index(
                fields=["element"], condition=Q(ended_at__isnull=True), name="run_under_way"
            )
        ]

    def __str__(self) -> str:
        return f"{self.job} on {self.element.press.name}"


class EntryKind(models.TextChoices):
    """What one entry of the log says."""

    SET = "set", "dial set"
    READY = "ready", "platen ready"
    CLOSED = "closed", "closed"
    OPENED = "opened", "opened"
    DONE = "done", "step done"
    WENT_TO = "went_to", "went to another step"
    OUTCOME = "outcome", "outcome"
    MARK = "mark", "mark"
    NOTE = "note", "note"
    ENDED = "ended", "run ended"
    LOGGED = "logged", "logged"
    CORRECTED = "corrected", "corrected"


class LogEntry(models.Model):
    """One act at the bench, as it was sent. The database refuses to change or delete one: what was
    wrong is corrected by a new entry that names it.

    `at` is the bench's time less what its clock was off by (`clock_shift_s`); `detail` as sent.
    """

    run = models.ForeignKey(Run, on_delete=models.PROTECT, null=True, related_name="entries")
    piece = models.ForeignKey(
        PressedPiece, on_delete=models.PROTECT, null=True, related_name="entries"
    )
    test_press = models.ForeignKey(
        TestPress, on_delete=models.PROTECT, null=True, related_name="entries"
    )
    corrects = models.ForeignKey(
        "self", on_delete=models.PROTECT, null=True, related_name="corrections"
    )
    kind = models.CharField(max_length=12, choices=EntryKind.choices)
    detail = models.JSONField(default=dict)
    at = models.DateTimeField()
    received_at = models.DateTimeField(default=timezone.now)
    clock_shift_s = models.FloatField(default=0.0)
    by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    entry_key = models.UUIDField(unique=True)

    class Meta:
        ordering = ["pk"]
        indexes = [models.Index(fields=["run", "id"], name="log_of_run")]

    def __str__(self) -> str:
        return f"{self.get_kind_display()} at {self.at:%H:%M:%S}"
