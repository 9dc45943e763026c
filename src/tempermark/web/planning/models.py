"""Plans: what was to be planned, how the search went, what it found."""

from datetime import datetime, timedelta

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import Q
from django.urls import reverse
from django.utils import timezone


class Objective(models.TextChoices):
    """What a plan serves first."""

    MAKESPAN = "makespan", "done early"
    LATENESS = "lateness", "least late"
    CHANGES = "changes", "fewest minutes of change"
    POWER = "power", "least power"


class PlanState(models.TextChoices):
    """How far a plan is."""

    WAITING = "waiting", "waiting"
    SEARCHING = "searching", "searching"
    READY = "ready", "ready"
    FAILED = "failed", "failed"


# A search that is alive says so twice a second.
STALLED_AFTER = timedelta(seconds=60)


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
    looked_at = models.DateTimeField(null=True, blank=True, help_text="its search was alive then")
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
        indexes = [models.Index(fields=["-created_at", "-id"], name="plan_when")]
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
    def is_stalled(self) -> bool:
        """Whether nobody searches it any more: its worker has ended, or none is there."""
        alive_at = self.looked_at or self.created_at
        return not self.is_done and timezone.now() - alive_at > STALLED_AFTER

    @property
    def is_done(self) -> bool:
        """Whether its search has ended."""
        return self.state in (PlanState.READY, PlanState.FAILED)


WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


class WorkHours(models.Model):
    """When a person tends presses on some days of the week; hours that end before they begin go on
    past midnight.
    """

    person = models.ForeignKey("accounts.User", on_delete=models.CASCADE, related_name="hours")
    weekdays = ArrayField(models.PositiveSmallIntegerField(), help_text="0 is Monday")
    begins = models.TimeField()
    ends = models.TimeField()
    break_begins = models.TimeField(null=True, blank=True)
    break_ends = models.TimeField(null=True, blank=True)
    entry_key = models.UUIDField(unique=True)

    class Meta:
        ordering = ["begins", "person__username", "pk"]
        verbose_name_plural = "work hours"

    def __str__(self) -> str:
        return f"{self.person}, {self.begins:%H:%M} to {self.ends:%H:%M}"

    @property
    def days_text(self) -> str:
        """The days in words."""
        days = sorted(self.weekdays)
        if len(days) > 2 and days == list(range(days[0], days[-1] + 1)):
            return f"{WEEKDAYS[days[0]]} to {WEEKDAYS[days[-1]]}"
        return ", ".join(WEEKDAYS[day] for day in days)


class StockKind(models.TextChoices):
    """What an entry of the stock says."""

    COUNTED = "counted", "counted: so many are there"
    RECEIVED = "received", "received: so many came"


class StockEntry(models.Model):
    """Blanks that came in, or a count of those that are there; never changed: another count sets
    right what was wrong. What is pressed is taken off by itself.
    """

    blank = models.ForeignKey("recipes.Blank", on_delete=models.CASCADE, related_name="stock")
    kind = models.CharField(max_length=8, choices=StockKind.choices)
    pieces = models.PositiveIntegerField()
    lot = models.CharField(max_length=40, blank=True)
    note = models.CharField(max_length=200, blank=True)
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    entry_key = models.UUIDField(unique=True)

    class Meta:
        ordering = ["-at", "-pk"]
        verbose_name_plural = "stock entries"
        indexes = [
            models.Index(fields=["blank", "-at"], name="stock_latest"),
            models.Index(fields=["-at", "-id"], name="stock_when"),
        ]

    def __str__(self) -> str:
        return f"{self.pieces} {self.blank}, {self.kind}"


class OverdueRule(models.TextChoices):
    """What the shop does with a press whose survey is overdue or missing."""

    WARN = "warn", "planned, with a warning"
    BAR = "bar", "left out"


class PlanRules(models.Model):
    """How this shop plans; one row."""

    overdue = models.CharField(max_length=4, choices=OverdueRule.choices, default=OverdueRule.WARN)

    class Meta:
        verbose_name_plural = "plan rules"

    def __str__(self) -> str:
        return f"overdue presses are {self.get_overdue_display()}"


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
