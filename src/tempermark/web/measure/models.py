"""Surveys: what was read, where, by whom. Readings are only ever added or taken back."""

from datetime import date

from django.db import models
from django.db.models import F, Q
from django.urls import reverse
from django.utils import timezone

from tempermark.core.constants import COVERAGE_FACTOR, EMISSIVITY_RANGE, TEMPERATURE_RANGE_C
from tempermark.core.days import later
from tempermark.web.kit.records.withdrawals import LONGEST_REASON, Withdrawable
from tempermark.web.presses.models import Element, Press


class Method(models.TextChoices):
    """How the temperature was read."""

    PAD = "pad", "infrared on the pad"
    PATCH = "patch", "infrared on a matte patch"
    CONTACT = "contact", "contact probe"
    STRIP = "strip", "indicator strips"
    CORRECTED = "corrected", "values already corrected"


class InstrumentKind(models.TextChoices):
    """What reads temperatures."""

    INFRARED = "infrared", "infrared gun"
    CONTACT = "contact", "contact probe"
    LOGGER = "logger", "logger"
    STRIP = "strip", "indicator strips"


class Instrument(models.Model):
    """A gun, probe, logger or strips, with its corrections and when it is to be checked."""

    name = models.CharField(max_length=60, unique=True)
    kind = models.CharField(max_length=8, choices=InstrumentKind.choices)
    emissivity_setting = models.FloatField(null=True, blank=True)
    expanded_uncertainty_c = models.FloatField(default=1.5, help_text="k = 2")
    corrections = models.JSONField(default=list, help_text="rows of shown and correction, °C")
    fields_c = models.JSONField(default=list, blank=True, help_text="of strips, ascending, °C")
    low_c = models.FloatField(null=True, blank=True, help_text="its range from, °C")
    high_c = models.FloatField(null=True, blank=True, help_text="its range to, °C")
    checked_on = models.DateField(null=True, blank=True)
    check_every_days = models.PositiveSmallIntegerField(default=180)
    retired = models.BooleanField(default=False)
    note = models.CharField(max_length=400, blank=True)

    class Meta:
        ordering = ["retired", "name"]
        constraints = [
            models.CheckConstraint(
                condition=Q(expanded_uncertainty_c__gte=0), name="instrument_uncertainty_positive"
            ),
            models.CheckConstraint(
                condition=Q(kind__in=InstrumentKind.values), name="instrument_kind_known"
            ),
            models.CheckConstraint(
                condition=Q(low_c=None) | Q(high_c=None) | Q(low_c__lt=F("high_c")),
                name="instrument_range_ordered",
            ),
        ]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        """The instrument's page."""
        return reverse("measure:instrument", args=[self.pk])

    @property
    def due_on(self) -> date | None:
        """When it is to be checked again; None while it never was."""
        return self.checked_on and later(self.checked_on, self.check_every_days)

    def reads(self, value_c: float) -> bool:
        """Whether a figure lies in its range, as far as that is noted."""
        return not (
            (self.low_c is not None and value_c < self.low_c)
            or (self.high_c is not None and value_c > self.high_c)
        )

    def days_overdue(self, day: date) -> int:
        """How long past its check it was on a day; 0 when not, or never checked."""
        return max(0, (day - self.due_on).days) if self.due_on else 0


class InstrumentCheck(Withdrawable):
    """A check of an instrument against fixed points, and the corrections it gave; the newest that
    stands gives the instrument its corrections.
    """

    instrument = models.ForeignKey(Instrument, on_delete=models.PROTECT, related_name="checks")
    on = models.DateField()
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(
        "accounts.User", on_delete=models.PROTECT, related_name="+", null=True, blank=True
    )
    ice_c = models.FloatField(null=True, blank=True)
    boil_c = models.FloatField(null=True, blank=True)
    pressure_kpa = models.FloatField(null=True, blank=True)
    altitude_m = models.FloatField(null=True, blank=True)
    corrections = models.JSONField(default=list, help_text="rows of shown and correction, °C")

    class Meta(Withdrawable.Meta):
        abstract = False
        ordering = ["-on", "-pk"]

    def __str__(self) -> str:
        return f"{self.instrument.name}, {self.on:%Y-%m-%d}"


class PadComparison(models.Model):
    """A gun read against a contact probe on a press's pad, and what that taught.

    `pairs` holds [gun, probe] as shown, °C. The gun's figures there get `correction_c` added and
    `learned_emissivity`; `covariance` (2 × 2) is of both together. `before_c`, `after_c`: common
    standard uncertainty without and with it.
    """

    press = models.ForeignKey(Press, on_delete=models.PROTECT, related_name="comparisons")
    gun = models.ForeignKey(Instrument, on_delete=models.PROTECT, related_name="compared")
    probe = models.ForeignKey(Instrument, on_delete=models.PROTECT, related_name="+")
    taken_at = models.DateTimeField()
    taken_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    withdrawn_at = models.DateTimeField(null=True, blank=True)
    set_c = models.FloatField()
    ambient_c = models.FloatField()
    emissivity_setting = models.FloatField()
    surface_emissivity = models.FloatField()
    surface_emissivity_uncertainty = models.FloatField()
    repeatability_c = models.FloatField()
    gun_uncertainty_c = models.FloatField()
    probe_uncertainty_c = models.FloatField()
    gun_corrections = models.JSONField(default=list)
    probe_corrections = models.JSONField(default=list)
    pairs = models.JSONField()
    correction_c = models.FloatField()
    learned_emissivity = models.FloatField()
    covariance = models.JSONField()
    before_c = models.FloatField()
    after_c = models.FloatField()
    shift_c = models.FloatField()

    class Meta:
        ordering = ["-taken_at", "-pk"]
        constraints = [
            models.CheckConstraint(
                condition=Q(learned_emissivity__range=EMISSIVITY_RANGE),
                name="comparison_emissivity_in_range",
            )
        ]

    def __str__(self) -> str:
        return f"{self.gun.name} against {self.probe.name} on {self.press.name}"

    @property
    def before_expanded_c(self) -> float:
        """What was shared before, k = 2."""
        return COVERAGE_FACTOR * self.before_c

    @property
    def after_expanded_c(self) -> float:
        """What is still shared, k = 2."""
        return COVERAGE_FACTOR * self.after_c

    def get_absolute_url(self) -> str:
        """The comparison's page."""
        return reverse("measure:comparison", args=[self.pk])


class Survey(models.Model):
    """One survey of one element."""

    element = models.ForeignKey(Element, on_delete=models.PROTECT, related_name="surveys")
    taken_at = models.DateTimeField()
    taken_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    finished_at = models.DateTimeField(null=True, blank=True)
    grid = models.CharField(max_length=8, default="5x5")
    method = models.CharField(max_length=10, choices=Method.choices, default=Method.PAD)
    set_c = models.FloatField()
    target_c = models.FloatField()
    tolerance_c = models.FloatField(default=5.0)
    instrument = models.ForeignKey(
        Instrument, on_delete=models.PROTECT, related_name="surveys", null=True, blank=True
    )
    # The instrument's corrections and delay past its check as they were then.
    corrections = models.JSONField(default=list)
    instrument_overdue_days = models.PositiveIntegerField(default=0)
    correction_c = models.FloatField(default=0.0)
    # A comparison of this gun on this pad: the covariance of its error and the emissivity.
    comparison = models.ForeignKey(
        PadComparison, on_delete=models.PROTECT, related_name="surveys", null=True, blank=True
    )
    common_covariance = models.JSONField(default=list, blank=True)
    instrument_uncertainty_c = models.FloatField(default=1.5, help_text="expanded, k = 2")
    emissivity_setting = models.FloatField(default=0.95)
    surface_emissivity = models.FloatField(default=0.92)
    surface_emissivity_uncertainty = models.FloatField(default=0.02, help_text="standard")
    repeatability_c = models.FloatField(default=0.8, help_text="standard")
    ambient_c = models.FloatField(default=22.0)
    soak_min = models.FloatField(default=15.0)
    delay_s = models.FloatField(default=0.0, help_text="seconds from opening to a reading")
    note = models.CharField(max_length=400, blank=True)
    # What it found to be new since the surveys before it, and which those were; none: first of all.
    memory = models.JSONField(default=dict, blank=True)
    # What the floor page needs without computing the map again; written by actions.
    mean_true_c = models.FloatField(null=True, blank=True)
    mean_uncertainty_c = models.FloatField(null=True, blank=True)
    common_uncertainty_c = models.FloatField(null=True, blank=True, help_text="standard")

    class Meta:
        ordering = ["-taken_at", "-pk"]
        indexes = [
            models.Index(fields=["element", "-taken_at"], name="survey_latest"),
            models.Index(fields=["-taken_at", "-id"], name="survey_when"),
        ]
        constraints = [
            models.CheckConstraint(
                condition=Q(set_c__range=TEMPERATURE_RANGE_C)
                & Q(target_c__range=TEMPERATURE_RANGE_C)
                & Q(ambient_c__range=TEMPERATURE_RANGE_C),
                name="survey_temperatures_in_range",
            ),
            models.CheckConstraint(
                condition=Q(surface_emissivity__range=EMISSIVITY_RANGE)
                & Q(emissivity_setting__range=EMISSIVITY_RANGE),
                name="survey_emissivity_in_range",
            ),
            models.CheckConstraint(
                condition=Q(tolerance_c__gt=0), name="survey_tolerance_positive"
            ),
            models.CheckConstraint(
                condition=Q(method__in=Method.values), name="survey_method_known"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.element.press.name}, {self.taken_at:%Y-%m-%d}"

    def get_absolute_url(self) -> str:
        """The survey's page."""
        return reverse("measure:survey", args=[self.pk])


class SurveyVersion(models.Model):
    """A number that is new whenever a survey of an element is, as a trigger sees it."""

    element = models.OneToOneField(
        Element, on_delete=models.CASCADE, primary_key=True, related_name="+"
    )
    # Of a sequence that never goes back: no number is given twice, even where one was rolled back.
    number = models.BigIntegerField()

    def __str__(self) -> str:
        return f"element {self.element_id}, version {self.number}"


class Station(models.Model):
    """A place to be read."""

    survey = models.ForeignKey(Survey, on_delete=models.CASCADE, related_name="stations")
    label = models.CharField(max_length=8)
    order = models.PositiveIntegerField()
    x_mm = models.FloatField()
    y_mm = models.FloatField()

    class Meta:
        ordering = ["order"]
        constraints = [
            models.UniqueConstraint(fields=["survey", "x_mm", "y_mm"], name="station_place_once"),
            models.UniqueConstraint(fields=["survey", "order"], name="station_order_once"),
            models.CheckConstraint(
                condition=Q(x_mm__gte=0) & Q(y_mm__gte=0), name="station_on_platen"
            ),
        ]

    def __str__(self) -> str:
        return self.label


class Reading(models.Model):
    """One figure as typed; taken back, never changed or deleted."""

    station = models.ForeignKey(Station, on_delete=models.CASCADE, related_name="readings")
    entry_key = models.UUIDField(unique=True)
    typed = models.CharField(max_length=40)
    shown_c = models.FloatField()
    # What a strip says; a side it leaves open is null. `shown_c` is then one of the two.
    at_least_c = models.FloatField(null=True, blank=True)
    below_c = models.FloatField(null=True, blank=True)
    seconds_after_opening = models.FloatField(default=0.0)
    read_at = models.DateTimeField(default=timezone.now)
    read_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    taken_back_at = models.DateTimeField(null=True, blank=True)
    taken_back_by = models.ForeignKey(
        "accounts.User", on_delete=models.PROTECT, related_name="+", null=True, blank=True
    )
    taken_back_why = models.CharField(max_length=LONGEST_REASON, blank=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.CheckConstraint(
                condition=Q(shown_c__range=TEMPERATURE_RANGE_C), name="reading_in_range"
            ),
            models.CheckConstraint(
                condition=Q(at_least_c=None) | Q(below_c=None) | Q(at_least_c__lt=F("below_c")),
                name="reading_bounds_ordered",
            ),
            models.CheckConstraint(
                condition=Q(seconds_after_opening__gte=0), name="reading_after_opening"
            ),
            models.CheckConstraint(
                condition=Q(taken_back_at__isnull=True) | Q(taken_back_at__gte=F("read_at")),
                name="reading_taken_back_later",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.station.label}: {self.typed}"
