"""What was learned: lessons that hold, requests to accept one, traces of thermocouples."""

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import Q
from django.utils import timezone

from tempermark.core.thermal.library.receivers import receivers
from tempermark.web.recipes.models import Blank, RecipeVersion

# What is taught: the uptake of each receiving surface, and the heat's contacts and sheets.
HEAT_SUBJECT = "heat"


def subject_label(subject: str) -> str:
    """A subject as people read it."""
    if subject == HEAT_SUBJECT:
        return "contacts and sheets"
    return f"dye on {receivers()[subject].label}" if subject in receivers() else subject


class Lesson(models.Model):
    """Parameters learned and accepted; the newest of a subject not withdrawn holds.

    `values` and `before` are what holds and what held, by name; `seen` what it rests on.
    """

    subject = models.CharField(max_length=24, help_text="a receiving surface, or heat")
    values = models.JSONField()
    before = models.JSONField()
    pieces = models.PositiveIntegerField()
    seen = models.CharField(max_length=200)
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    withdrawn_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-at", "-pk"]

    def __str__(self) -> str:
        return f"{self.label}, {self.at:%Y-%m-%d}"

    @property
    def label(self) -> str:
        """What it is about, as people read it."""
        return subject_label(self.subject)


class LessonRequest(models.Model):
    """A technician asks a lead to look at what pieces teach; answered by accepting or declining."""

    subject = models.CharField(max_length=24)
    note = models.CharField(max_length=200, blank=True)
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    answered_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-at", "-pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["subject"], condition=Q(answered_at=None), name="lesson_asked_once"
            )
        ]

    def __str__(self) -> str:
        return f"{self.label}, {self.at:%Y-%m-%d}"

    @property
    def label(self) -> str:
        """What it is about, as people read it."""
        return subject_label(self.subject)


class StackTrace(models.Model):
    """A thermocouple's trace under a stack: what was pressed, where it lay, and its readings."""

    recipe = models.ForeignKey(RecipeVersion, on_delete=models.PROTECT, related_name="traces")
    element = models.ForeignKey("presses.Element", on_delete=models.PROTECT, related_name="traces")
    blank = models.ForeignKey(Blank, on_delete=models.PROTECT, related_name="traces")
    set_c = models.FloatField()
    contact_kpa = models.FloatField()
    relative_humidity = models.FloatField()
    under_blank = models.BooleanField(default=False)
    time_s = ArrayField(models.FloatField())
    seen_c = ArrayField(models.FloatField())
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    withdrawn_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-at", "-pk"]

    def __str__(self) -> str:
        return f"{self.recipe.recipe.name}, {self.at:%Y-%m-%d}"
