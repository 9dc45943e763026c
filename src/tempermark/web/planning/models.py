"""Plans: what was to be planned, how the search went, what it found."""

from datetime import datetime, timedelta

from django.db import models
from django.db.models import Q
from django.urls import reverse
from django.utils import timezone


class Objective(models.TextChoices):
    """What a plan serves first."""

    MAKESPAN = "makespan", "done early"
    LATENESS = "lateness", "least late"
    CHANGES = "changes", "fewest minutes of change"


class PlanState(models.TextChoices):
    """How far a plan is."""

    WAITING = "waiting", "waiting"
    SEARCHING = "searching", "searching"
    READY = "ready", "ready"
    FAILED = "failed", "failed"


class Plan(models.Model):
    """A plan of the open jobs from a moment on. `given` is the day as it stood then and `found` the
    best plan so far, both as core/planning has them; one plan is in force at a time.
    """

    begins_at = models.DateTimeField()
    objective = models.CharField(max_length=10, choices=Objective.choices)
    state = models.CharField(max_length=10, choices=PlanState.choices, default=PlanState.WAITING)
    given = models.JSONField()
    found = models.JSONField(default=dict)
    seconds = models.FloatField(default=0.0)
    is_to_end = models.BooleanField(default=False)
    after = models.ForeignKey(
        "self", on_delete=models.SET_NULL, null=True, blank=True, related_name="followers"
    )
    entry_key = models.UUIDField(unique=True)
    created_at = models.DateTimeField(default=timezone.now)
    created_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    in_force_since = models.DateTimeField(null=True, blank=True)
    replaced_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-created_at", "-pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["state"],
                condition=Q(in_force_since__isnull=False, replaced_at__isnull=True),
                name="plan_in_force_once",
            )
        ]

    def __str__(self) -> str:
        return f"plan from {self.begins_at:%Y-%m-%d %H:%M}"

    def get_absolute_url(self) -> str:
        """The plan on its day band."""
        return reverse("planning:plan", args=[self.pk])

    def begins_at_local(self, minutes: float) -> datetime:
        """A minute of the plan as a moment in the room's zone."""
        return timezone.localtime(self.begins_at + timedelta(minutes=minutes))

    @property
    def is_done(self) -> bool:
        """Whether its search has ended."""
        return self.state in (PlanState.READY, PlanState.FAILED)


class OrderFile(models.Model):
    """A table of orders as it was sent, until its columns are matched and its rows taken."""

    name = models.CharField(max_length=120)
    raw = models.BinaryField()
    entry_key = models.UUIDField(unique=True)
    created_at = models.DateTimeField(default=timezone.now)
    created_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    taken_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-created_at", "-pk"]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        """Where its columns are matched."""
        return reverse("planning:order-file", args=[self.pk])
