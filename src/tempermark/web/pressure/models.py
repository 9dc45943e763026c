"""What is known of a press's pressure: lessons, readings, where it stands, maps, and wear."""

from django.db import models
from django.db.models import F, Q
from django.urls import reverse
from django.utils import timezone

from tempermark.core.pressure.map.level import LEVEL_ENOUGH_MM
from tempermark.core.pressure.map.pulls import PULL_STEPS
from tempermark.core.pressure.press.contact import CLASS_KPA
from tempermark.web.kit.records.withdrawals import Withdrawable
from tempermark.web.presses.models import Element, Press, Turning
from tempermark.web.recipes.models import Blank

CLASSES = [(name, name) for name in CLASS_KPA]


class KnobLesson(Withdrawable):
    """A session that taught a press its knob; the newest not withdrawn holds.

    `shims` are [mm, turns clockwise of the mark] as the knob just touched.
    """

    press = models.ForeignKey(Press, on_delete=models.PROTECT, related_name="knob_lessons")
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    shims = models.JSONField()
    lift_mm_per_turn = models.FloatField()
    lift_sd_mm = models.FloatField()
    tightens = models.CharField(max_length=16, choices=Turning.choices)
    zero_clockwise = models.FloatField()
    zero_sd_turns = models.FloatField()

    class Meta(Withdrawable.Meta):
        abstract = False
        ordering = ["-at", "-pk"]
        constraints = [
            models.CheckConstraint(condition=Q(lift_mm_per_turn__gt=0), name="knob_lift_positive")
        ]

    def __str__(self) -> str:
        return f"{self.press.name}, {self.lift_mm_per_turn:.3g} mm a turn"


class Means(models.TextChoices):
    """How a contact pressure was read."""

    LOAD_CELL = "load_cell", "load cell"
    FILM = "film", "pressure film"
    STRIPS = "strips", "paper strips"


class ContactReading(models.Model):
    """A contact pressure read on a press, with where its knob, scale or stack stood."""

    press = models.ForeignKey(Press, on_delete=models.PROTECT, related_name="contact_readings")
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    means = models.CharField(max_length=10, choices=Means.choices)
    contact_kpa = models.FloatField()
    figure = models.FloatField(null=True, blank=True, help_text="on a 1–9 scale")
    position_turns = models.FloatField(null=True, blank=True)
    stack_mm = models.FloatField(null=True, blank=True)
    withdrawn_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-at", "-pk"]
        constraints = [
            models.CheckConstraint(condition=Q(contact_kpa__gt=0), name="contact_positive")
        ]

    def __str__(self) -> str:
        return f"{self.press.name}: {self.contact_kpa:.0f} kPa"


class LeanReading(models.Model):
    """What a scale under a hand plate showed of a person leaning on it, kg; the newest of a person
    and press that is not withdrawn holds.
    """

    press = models.ForeignKey(Press, on_delete=models.PROTECT, related_name="lean_readings")
    by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(default=timezone.now)
    kg = models.FloatField()
    withdrawn_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-at", "-pk"]
        constraints = [models.CheckConstraint(condition=Q(kg__gt=0), name="lean_positive")]

    def __str__(self) -> str:
        return f"{self.press.name}: {self.kg:.1f} kg"


class PressureState(models.Model):
    """Where a press stands since a moment, and for what it was set so."""

    press = models.ForeignKey(Press, on_delete=models.PROTECT, related_name="pressure_states")
    entry_key = models.UUIDField(unique=True)
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    blank = models.ForeignKey(Blank, on_delete=models.PROTECT, null=True, related_name="+")
    layers = models.PositiveSmallIntegerField(default=1)
    pillow_mm = models.FloatField(default=0.0)
    stack_mm = models.FloatField()
    wanted = models.CharField(max_length=8, choices=CLASSES)
    # One of these, by the press's mechanism; all null where it has nothing to set.
    position_turns = models.FloatField(null=True, blank=True)
    line_kpa = models.FloatField(null=True, blank=True)
    figure = models.FloatField(null=True, blank=True)
    taken_back_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-at", "-pk"]
        constraints = [
            models.CheckConstraint(condition=Q(stack_mm__gte=0), name="state_stack_positive"),
            models.CheckConstraint(condition=Q(wanted__in=list(CLASS_KPA)), name="state_class"),
        ]

    def __str__(self) -> str:
        return f"{self.press.name} for {self.stack_mm:g} mm"


class MapKind(models.TextChoices):
    """How the pressure was mapped."""

    STRIPS = "strips", "paper strips"
    PRINT = "print", "carbon print"


class PressureSurvey(models.Model):
    """A map of the pressure on one element. What the lists show is written when it is finished."""

    element = models.ForeignKey(Element, on_delete=models.PROTECT, related_name="pressure_surveys")
    kind = models.CharField(max_length=8, choices=MapKind.choices)
    grid = models.CharField(max_length=8, default="3x3")
    taken_at = models.DateTimeField(default=timezone.now)
    taken_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    finished_at = models.DateTimeField(null=True, blank=True)
    blank = models.ForeignKey(Blank, on_delete=models.PROTECT, null=True, related_name="+")
    stack_mm = models.FloatField(default=0.0)
    pad_mm = models.FloatField()
    quarter_kpa = models.FloatField(help_text="of the pad, at a quarter of compression")
    note = models.CharField(max_length=400, blank=True)
    mean_kpa = models.FloatField(null=True, blank=True)
    right_mm = models.FloatField(null=True, blank=True)
    right_sd_mm = models.FloatField(null=True, blank=True)
    back_mm = models.FloatField(null=True, blank=True)
    back_sd_mm = models.FloatField(null=True, blank=True)
    hollow_mm = models.FloatField(null=True, blank=True)
    # How deep the strips found the middle, whether that is called a hollow or not.
    middle_mm = models.FloatField(null=True, blank=True)
    middle_sd_mm = models.FloatField(null=True, blank=True)
    verdict = models.CharField(max_length=10, blank=True)
    # What it found to be new against the maps before it, and which those are.
    memory = models.JSONField(default=dict, blank=True)

    class Meta:
        ordering = ["-taken_at", "-pk"]
        constraints = [
            models.CheckConstraint(condition=Q(kind__in=MapKind.values), name="map_kind_known"),
            models.CheckConstraint(condition=Q(stack_mm__gte=0), name="map_stack_positive"),
        ]

    def __str__(self) -> str:
        return f"{self.element.press.name}, {self.taken_at:%Y-%m-%d}"

    @property
    def weak_words(self) -> str:
        """`has less pressure on the left`, `has a hollow pad`; nothing when it did not fail."""
        if self.verdict != "fail":
            return ""
        across = (self.right_mm or 0.0, self.right_sd_mm or 0.0, "left", "right")
        along = (self.back_mm or 0.0, self.back_sd_mm or 0.0, "front", "back")
        value, sd, low, high = max(across, along, key=lambda way: abs(way[0]))
        if abs(value) >= max(LEVEL_ENOUGH_MM, 2 * sd):
            return f"has less pressure on the {low if value > 0 else high}"
        return "has a hollow pad" if self.hollow_mm else "does not press everywhere"

    def get_absolute_url(self) -> str:
        """The survey's page."""
        return reverse("pressure:survey", args=[self.pk])


class PullStation(models.Model):
    """A place where a strip is pulled; `held` is the pull that counts, where a query asked."""

    held: "Pull | None"

    survey = models.ForeignKey(PressureSurvey, on_delete=models.CASCADE, related_name="stations")
    label = models.CharField(max_length=8)
    order = models.PositiveIntegerField()
    x_mm = models.FloatField()
    y_mm = models.FloatField()

    class Meta:
        ordering = ["order"]
        constraints = [
            models.UniqueConstraint(fields=["survey", "order"], name="pull_order_once"),
            models.UniqueConstraint(fields=["survey", "x_mm", "y_mm"], name="pull_place_once"),
        ]

    def __str__(self) -> str:
        return self.label


class Pull(models.Model):
    """How a strip behaved; taken back, never changed. The newest of a station holds."""

    station = models.ForeignKey(PullStation, on_delete=models.CASCADE, related_name="pulls")
    entry_key = models.UUIDField(unique=True)
    pull = models.CharField(max_length=6, choices=[(p, p) for p in PULL_STEPS])
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    taken_back_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.CheckConstraint(condition=Q(pull__in=list(PULL_STEPS)), name="pull_known"),
            models.CheckConstraint(
                condition=Q(taken_back_at=None) | Q(taken_back_at__gte=F("at")),
                name="pull_taken_back_later",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.station.label}: {self.pull}"


class CarbonPrint(models.Model):
    """The scanned print of a survey: its picture made anew, and its darkness in cells."""

    survey = models.OneToOneField(PressureSurvey, on_delete=models.CASCADE, related_name="print")
    image = models.BinaryField()
    bar_mm = models.FloatField()
    darkness = models.JSONField(help_text="rows of cells, the front row first")
    mm_per_pixel = models.FloatField()
    turned_deg = models.FloatField()
    unseen = models.JSONField(default=list)
    film_most = models.FloatField()
    film_scale_kpa = models.FloatField()
    film_share = models.FloatField()
    known_mean_kpa = models.FloatField(null=True, blank=True)

    def __str__(self) -> str:
        return f"Print of {self.survey}"


class WearingPart(models.TextChoices):
    """What wears."""

    PAD = "pad", "pad"
    COVER = "cover", "cover"


class WearNote(models.Model):
    """A hardness, closings counted elsewhere, or a word on a pad or cover."""

    press = models.ForeignKey(Press, on_delete=models.PROTECT, related_name="wear_notes")
    part = models.CharField(max_length=6, choices=WearingPart.choices)
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    hardness = models.FloatField(null=True, blank=True, help_text="Shore 00")
    closings = models.PositiveIntegerField(default=0)
    text = models.CharField(max_length=400, blank=True)

    class Meta:
        ordering = ["-at", "-pk"]

    def __str__(self) -> str:
        return f"{self.press.name}, {self.part}"


class RaisedKind(models.TextChoices):
    """What stands up on a piece."""

    SEAM = "seam", "seam"
    HEM = "hem", "hem"
    BUTTON = "button", "button"
    ZIP = "zip", "zip"
    TRIM = "trim", "trim"


class RaisedPart(models.Model):
    """A seam, button, zip or hem of a blank, drawn on the piece as it lies, front at the bottom."""

    blank = models.ForeignKey(Blank, on_delete=models.CASCADE, related_name="raised_parts")
    kind = models.CharField(max_length=6, choices=RaisedKind.choices)
    x_mm = models.FloatField()
    y_mm = models.FloatField()
    width_mm = models.FloatField()
    depth_mm = models.FloatField()
    rises_mm = models.FloatField()
    on_back = models.BooleanField(default=False, help_text="on the layer that lies below")

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.CheckConstraint(
                condition=Q(width_mm__gt=0) & Q(depth_mm__gt=0) & Q(rises_mm__gt=0),
                name="raised_part_has_size",
            )
        ]

    def __str__(self) -> str:
        return f"{self.blank.name}: {self.kind}"
