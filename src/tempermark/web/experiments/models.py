"""Experiments with their planned presses; wash trials with their arms, rounds and scores."""

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import F, Q
from django.urls import reverse
from django.utils import timezone

from tempermark.core.constants import DWELL_LIMIT_S
from tempermark.web.jobs.models import Job
from tempermark.web.presses.models import Element
from tempermark.web.recipes.models import Blank, RecipeVersion
from tempermark.web.run.models import PressedPiece, Run, TestPress


class ExperimentKind(models.TextChoices):
    """What is varied, and how."""

    TIME = "time", "ladder of dwells"
    TEMPERATURE = "temperature", "ladder of temperatures"
    PRESSURE = "pressure", "ladder of pressures"
    COMPARISON = "comparison", "comparison"
    FACTORIAL = "factorial", "factorial"
    SEARCH = "search", "search"


class Experiment(models.Model):
    """Test presses that answer one question about a recipe on a press.

    The window is of dials in °C and dwells in s: what the sheet is drawn over.
    """

    kind = models.CharField(max_length=12, choices=ExperimentKind.choices)
    question = models.CharField(max_length=200, blank=True)
    recipe = models.ForeignKey(RecipeVersion, on_delete=models.PROTECT, related_name="experiments")
    blank = models.ForeignKey(Blank, on_delete=models.PROTECT, related_name="experiments")
    element = models.ForeignKey(Element, on_delete=models.PROTECT, related_name="experiments")
    job = models.OneToOneField(
        Job, on_delete=models.PROTECT, null=True, blank=True, related_name="experiment"
    )
    low_c = models.FloatField()
    high_c = models.FloatField()
    low_s = models.FloatField()
    high_s = models.FloatField()
    pressure = models.CharField(max_length=8, default="medium")
    factor = models.CharField(max_length=60, blank=True, help_text="what the arms are of")
    started_at = models.DateTimeField(default=timezone.now)
    started_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    ended_at = models.DateTimeField(null=True, blank=True)
    entry_key = models.UUIDField(unique=True)

    class Meta:
        ordering = ["-started_at", "-pk"]
        indexes = [models.Index(fields=["-ended_at", "-id"], name="experiment_ended")]
        constraints = [
            models.CheckConstraint(
                condition=Q(low_c__lte=F("high_c")) & Q(low_s__lte=F("high_s")) & Q(low_s__gt=0),
                name="experiment_window_ordered",
            ),
            models.CheckConstraint(
                condition=Q(kind__in=ExperimentKind.values), name="experiment_kind_known"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.get_kind_display()}, {self.recipe.recipe.name}"

    def get_absolute_url(self) -> str:
        """Its ladder sheet."""
        return reverse("experiments:sheet", args=[self.pk])

    @property
    def window(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """Dials in °C and dwells in s, each from and to."""
        return (self.low_c, self.high_c), (self.low_s, self.high_s)


class PlannedPress(models.Model):
    """A press of an experiment: what it is set to, in which block, on which scrap; the piece that
    was pressed for it, or the run in which it is being pressed.
    """

    experiment = models.ForeignKey(
        Experiment, on_delete=models.CASCADE, related_name="planned_presses"
    )
    order = models.PositiveSmallIntegerField()
    block = models.PositiveSmallIntegerField(default=1)
    scrap = models.PositiveSmallIntegerField(default=1)
    arm = models.CharField(max_length=80, blank=True)
    element = models.ForeignKey(Element, on_delete=models.PROTECT, related_name="+")
    set_c = models.FloatField()
    dwell_s = models.FloatField()
    pressure = models.CharField(max_length=8)
    because = models.CharField(max_length=300, blank=True)
    run = models.OneToOneField(
        Run, on_delete=models.PROTECT, null=True, blank=True, related_name="planned_press"
    )
    test_press = models.OneToOneField(
        TestPress, on_delete=models.PROTECT, null=True, blank=True, related_name="planned_press"
    )
    skipped_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["order", "pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["experiment", "order"], name="planned_press_order_once"
            ),
            models.CheckConstraint(
                condition=Q(dwell_s__gt=0) & Q(dwell_s__lte=DWELL_LIMIT_S),
                name="planned_press_dwell_in_range",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.order} of {self.experiment_id}"

    @property
    def pressed(self) -> TestPress | None:
        """What was pressed for it: linked, or the last main press of its run."""
        if self.test_press is not None and self.test_press.withdrawn_at is None:
            return self.test_press
        if self.run is None:
            return None
        done = [p for p in self.run.test_presses.all() if p.step_number is None]
        return max(done, key=lambda p: p.pressed_at, default=None)


class WashTrial(models.Model):
    """Pieces that are washed and looked at in rounds, in arms that are compared.

    `rounds` are numbers of washes; the first wash comes `rest_h` hours after the start.
    """

    title = models.CharField(max_length=80)
    rounds = ArrayField(models.PositiveSmallIntegerField())
    rest_h = models.FloatField(default=24.0)
    machine = models.CharField(max_length=60, blank=True)
    wash_c = models.FloatField(null=True, blank=True)
    drying = models.CharField(max_length=60, blank=True)
    note = models.CharField(max_length=400, blank=True)
    started_at = models.DateTimeField(default=timezone.now)
    started_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    ended_at = models.DateTimeField(null=True, blank=True)
    entry_key = models.UUIDField(unique=True)

    class Meta:
        ordering = ["-started_at", "-pk"]
        indexes = [models.Index(fields=["-ended_at", "-id"], name="wash_trial_ended")]
        constraints = [
            models.CheckConstraint(condition=Q(rest_h__range=(0, 720)), name="wash_rest_in_range")
        ]

    def __str__(self) -> str:
        return self.title

    def get_absolute_url(self) -> str:
        """Its page."""
        return reverse("experiments:wash-trial", args=[self.pk])


class WashedPress(models.Model):
    """A piece in a trial, in one of its arms."""

    trial = models.ForeignKey(WashTrial, on_delete=models.CASCADE, related_name="washed")
    piece = models.ForeignKey(PressedPiece, on_delete=models.PROTECT, related_name="washed")
    arm = models.CharField(max_length=60)

    class Meta:
        ordering = ["arm", "pk"]
        constraints = [
            models.UniqueConstraint(fields=["trial", "piece"], name="washed_once_in_a_trial")
        ]

    def __str__(self) -> str:
        return f"{self.piece} in {self.trial}"


class WashScore(models.Model):
    """How a piece looks after so many washes; a later score of the same round counts instead of an
    earlier one, which stays.
    """

    washed = models.ForeignKey(WashedPress, on_delete=models.CASCADE, related_name="scored_rounds")
    washes = models.PositiveSmallIntegerField()
    scores = models.JSONField(default=dict)
    density = models.FloatField(null=True, blank=True, help_text="of black; 1 is the proof's")
    failed = models.BooleanField(default=False)
    note = models.CharField(max_length=300, blank=True)
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    entry_key = models.UUIDField(unique=True)

    class Meta:
        ordering = ["washes", "pk"]
        constraints = [
            models.CheckConstraint(
                condition=Q(density__isnull=True) | Q(density__range=(0, 1.2)),
                name="wash_density_in_range",
            )
        ]

    def __str__(self) -> str:
        return f"{self.washed} after {self.washes}"
