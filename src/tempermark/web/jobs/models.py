"""A job is the thread from preparing to the logged piece; ticks and clocks belong to it."""

from django.db import models
from django.db.models import F, Q
from django.urls import reverse
from django.utils import timezone

from tempermark.web.presses.models import Element, Press
from tempermark.web.printing.models import Art, PrintSettingsVersion
from tempermark.web.recipes.models import Blank, PlacingGuide, RecipeVersion

MOST_PIECES = 100_000


class Order(models.Model):
    """What somebody ordered: its jobs are due together."""

    reference = models.CharField(max_length=40, help_text="the customer's or the shop's")
    customer = models.CharField(max_length=120, blank=True)
    due_at = models.DateTimeField(null=True, blank=True)
    note = models.CharField(max_length=400, blank=True)
    entry_key = models.UUIDField(unique=True)
    created_at = models.DateTimeField(default=timezone.now)
    created_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    closed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["created_at", "pk"]
        indexes = [models.Index(fields=["-closed_at", "-id"], name="order_closed")]
        constraints = [
            models.UniqueConstraint(
                fields=["reference"],
                condition=Q(closed_at__isnull=True),
                name="order_reference_once",
                violation_error_message="An open order has this reference.",
            )
        ]

    def __str__(self) -> str:
        return self.reference

    def get_absolute_url(self) -> str:
        """The order with its jobs."""
        return reverse("planning:order", args=[self.pk])


class Job(models.Model):
    """So many pieces of a blank by a recipe on a press, with their art."""

    recipe = models.ForeignKey(RecipeVersion, on_delete=models.PROTECT, related_name="jobs")
    blank = models.ForeignKey(Blank, on_delete=models.PROTECT, related_name="jobs")
    press = models.ForeignKey(Press, on_delete=models.PROTECT, related_name="jobs")
    order = models.ForeignKey(
        Order, on_delete=models.PROTECT, null=True, blank=True, related_name="jobs"
    )
    quantity = models.PositiveIntegerField(default=1)
    per_load = models.PositiveSmallIntegerField(default=1, help_text="pieces under the platen")
    blank_lot = models.CharField(max_length=40, blank=True, help_text="that its blanks are from")
    art_width_mm = models.FloatField()
    art_height_mm = models.FloatField()
    art = models.ForeignKey(
        Art, on_delete=models.PROTECT, null=True, blank=True, related_name="jobs"
    )
    # Where the blank's outline lies on the art; without them in its middle.
    outline_left_mm = models.FloatField(null=True, blank=True, help_text="from the art's left")
    outline_top_mm = models.FloatField(null=True, blank=True, help_text="from the art's top")
    fold_mm = models.FloatField(default=0.0, help_text="of transfer, round each edge to the back")
    guide = models.ForeignKey(
        PlacingGuide, on_delete=models.PROTECT, null=True, blank=True, related_name="jobs"
    )
    guide_size = models.CharField(max_length=20, blank=True)
    print_settings = models.ForeignKey(
        PrintSettingsVersion, on_delete=models.PROTECT, null=True, blank=True, related_name="jobs"
    )
    relative_humidity = models.FloatField(null=True, blank=True, help_text="0 to 1")
    charge = models.DecimalField(
        max_digits=10, decimal_places=2, null=True, blank=True, help_text="for one piece"
    )
    minutes = models.FloatField(null=True, blank=True, help_text="of work for one piece")
    note = models.CharField(max_length=400, blank=True)
    entry_key = models.UUIDField(unique=True)
    created_at = models.DateTimeField(default=timezone.now)
    created_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    closed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-created_at", "-pk"]
        constraints = [
            models.CheckConstraint(
                condition=Q(quantity__range=(1, MOST_PIECES)), name="job_quantity_in_range"
            ),
            models.CheckConstraint(condition=Q(per_load__gte=1), name="job_per_load_some"),
            models.CheckConstraint(
                condition=Q(art_width_mm__gt=0) & Q(art_height_mm__gt=0), name="job_art_positive"
            ),
            models.CheckConstraint(condition=Q(fold_mm__gte=0), name="job_fold_some_length"),
            models.CheckConstraint(
                condition=Q(relative_humidity__isnull=True) | Q(relative_humidity__range=(0, 1)),
                name="job_humidity_share",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.quantity} × {self.blank.name}, {self.recipe.recipe.name}"

    def get_absolute_url(self) -> str:
        """Its preparation list."""
        return reverse("prepare:job", args=[self.pk])


class Tick(models.Model):
    """A line of a job's preparation that was done; undone, it stays on record."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="ticks")
    line = models.CharField(max_length=20)
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    undone_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["at", "pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["job", "line"], condition=Q(undone_at__isnull=True), name="tick_once"
            )
        ]

    def __str__(self) -> str:
        return f"{self.line} of {self.job_id}"


class PlatenChange(models.Model):
    """A change of a platen's setting: true temperatures, when it was set and when it was there.

    One that was given up says nothing of the platen's rates.
    """

    element = models.ForeignKey(Element, on_delete=models.PROTECT, related_name="setting_changes")
    from_c = models.FloatField()
    to_c = models.FloatField()
    started_at = models.DateTimeField(default=timezone.now)
    there_at = models.DateTimeField(null=True, blank=True)
    given_up_at = models.DateTimeField(null=True, blank=True)
    by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    entry_key = models.UUIDField(unique=True)

    class Meta:
        ordering = ["-started_at", "-pk"]
        constraints = [
            models.CheckConstraint(condition=~Q(from_c=F("to_c")), name="setting_change_is_one"),
            models.CheckConstraint(
                condition=Q(there_at__isnull=True) | Q(there_at__gt=F("started_at")),
                name="setting_change_ends_later",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.element}: {self.from_c:.0f} to {self.to_c:.0f} °C"

    @property
    def seconds(self) -> float | None:
        """How long it took; None while it is under way or given up."""
        if self.there_at is None or self.given_up_at is not None:
            return None
        return (self.there_at - self.started_at).total_seconds()


class Clock(models.Model):
    """A named wait: a row with an end time, so that it outlives pages, tablets and the server."""

    name = models.CharField(max_length=60)
    job = models.ForeignKey(Job, on_delete=models.CASCADE, null=True, related_name="clocks")
    line = models.CharField(max_length=20, blank=True)
    started_at = models.DateTimeField(default=timezone.now)
    ends_at = models.DateTimeField()
    by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    entry_key = models.UUIDField(unique=True)
    repeat_s = models.FloatField(null=True, blank=True, help_text="rings again after this long")
    rung_at = models.DateTimeField(null=True, blank=True, help_text="somebody heard it")
    stopped_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["ends_at", "pk"]
        constraints = [
            models.CheckConstraint(
                condition=Q(ends_at__gt=F("started_at")), name="clock_ends_later"
            )
        ]
        indexes = [
            models.Index(
                fields=["ends_at"],
                condition=Q(stopped_at__isnull=True, rung_at__isnull=True),
                name="clock_running",
            )
        ]

    @property
    def left_s(self) -> float:
        """Seconds until it rings; less than none once it has."""
        return (self.ends_at - timezone.now()).total_seconds()

    def __str__(self) -> str:
        return f"{self.name} until {self.ends_at:%H:%M:%S}"
