"""Presses and their heated elements."""

from django.db import models
from django.db.models import Q
from django.urls import reverse
from django.utils import timezone

from tempermark.core.constants import PLATEN_RANGE_MM


class PressKind(models.TextChoices):
    """The kinds of formats/vocabulary.md."""

    CLAMSHELL = "clamshell", "clamshell"
    SWING_AWAY = "swing_away", "swing-away"
    DRAW = "draw", "draw"
    AUTO = "auto", "automatic"
    CAP = "cap", "cap"
    WRAP = "wrap", "wrap"
    HANDHELD = "handheld", "hand plate"
    IRON = "iron", "iron"


class Mechanism(models.TextChoices):
    """How pressure is made."""

    KNOB = "knob", "knob"
    SCALE = "scale", "1–9 scale"
    PNEUMATIC = "pneumatic", "pneumatic"
    TOGGLE = "toggle", "toggle lever"
    HAND = "hand", "by hand"


class Turning(models.TextChoices):
    """Which way a knob tightens."""

    CLOCKWISE = "clockwise", "clockwise"
    COUNTERCLOCKWISE = "counterclockwise", "counter-clockwise"


class TimerStart(models.TextChoices):
    """What starts the timer."""

    CLOSING = "closing", "closing the press"
    BUTTON = "button", "a button"
    ALARM = "alarm", "reaching temperature"


class PadMaterial(models.TextChoices):
    """What the pad is of."""

    SILICONE = "silicone", "silicone sponge"
    FELT = "felt", "aramid felt"


class Condition(models.TextChoices):
    """How a pad is."""

    SOUND = "sound", "sound"
    HOLLOW = "hollow", "hollow in places"
    HARD = "hard", "hardened"


class CoverCondition(models.TextChoices):
    """How a cover is."""

    SOUND = "sound", "sound"
    GLAZED = "glazed", "glazed or stained"
    TORN = "torn", "creased or torn"


class Cover(models.TextChoices):
    """What is fixed on the upper platen."""

    NONE = "none", "none"
    PTFE = "ptfe", "PTFE sheet"
    OTHER = "other", "other"


class Press(models.Model):
    """A press of the room, with every property of handbook 1 §1."""

    name = models.CharField(max_length=40, unique=True)
    slug = models.SlugField(max_length=40, unique=True)
    kind = models.CharField(max_length=12, choices=PressKind.choices)
    place = models.PositiveSmallIntegerField(default=0, help_text="order on the floor")
    resolution_c = models.FloatField(default=1.0)
    timer_max_s = models.PositiveIntegerField(null=True, blank=True)
    control_low_c = models.FloatField(null=True, blank=True)
    control_high_c = models.FloatField(null=True, blank=True)
    display_unit = models.CharField(
        max_length=1, choices=[("c", "°C"), ("f", "°F")], default="c", help_text="of the controller"
    )
    timer_starts = models.CharField(max_length=8, choices=TimerStart.choices, blank=True)
    mechanism = models.CharField(max_length=10, choices=Mechanism.choices, default=Mechanism.KNOB)
    lift_mm_per_turn = models.FloatField(null=True, blank=True)
    tightens = models.CharField(max_length=16, choices=Turning.choices, blank=True)
    line_kpa = models.FloatField(null=True, blank=True)
    cylinder_mm = models.FloatField(null=True, blank=True)
    cylinders = models.PositiveSmallIntegerField(null=True, blank=True)
    max_line_kpa = models.FloatField(null=True, blank=True, help_text="the press's rating")
    plate_kg = models.FloatField(null=True, blank=True, help_text="of a hand plate, by itself")
    pad = models.CharField(max_length=8, choices=PadMaterial.choices, blank=True)
    pad_mm = models.FloatField(null=True, blank=True)
    pad_condition = models.CharField(max_length=8, choices=Condition.choices, blank=True)
    pad_since = models.DateField(null=True, blank=True)
    cover = models.CharField(max_length=8, choices=Cover.choices, blank=True)
    cover_since = models.DateField(null=True, blank=True)
    pad_life_closings = models.PositiveIntegerField(null=True, blank=True)
    cover_life_closings = models.PositiveIntegerField(null=True, blank=True)
    cover_condition = models.CharField(max_length=8, choices=CoverCondition.choices, blank=True)
    target_c = models.FloatField(default=195.0)
    tolerance_c = models.FloatField(default=5.0)
    survey_every_days = models.PositiveSmallIntegerField(default=30)
    dial_c = models.FloatField(null=True, blank=True)
    dial_since = models.DateTimeField(null=True, blank=True)
    note = models.CharField(max_length=400, blank=True)

    class Meta:
        ordering = ["place", "name"]
        constraints = [
            models.CheckConstraint(condition=Q(kind__in=PressKind.values), name="press_kind_known"),
            models.CheckConstraint(
                condition=Q(resolution_c__gt=0), name="press_resolution_positive"
            ),
            models.CheckConstraint(condition=Q(tolerance_c__gt=0), name="press_tolerance_positive"),
            models.CheckConstraint(
                condition=Q(control_low_c__isnull=True)
                | Q(control_high_c__isnull=True)
                | Q(control_low_c__lt=models.F("control_high_c")),
                name="press_control_range_ordered",
            ),
        ]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        """The press's page."""
        return reverse("overview:press", args=[self.slug])


class ElementRole(models.TextChoices):
    """Which heated part it is."""

    UPPER = "upper", "upper platen"
    LOWER = "lower", "lower platen"
    SLEEVE = "sleeve", "sleeve"


class ElementShape(models.TextChoices):
    """The form of the heated face."""

    FLAT = "flat", "flat"
    STRAIGHT = "straight", "straight sleeve"
    TAPERED = "tapered", "tapered sleeve"


class Element(models.Model):
    """One heated element: its map is its own and ends when it is taken out.

    Surveys before `map_since` are history: the element was exchanged, its pad changed or
    the press repaired since.
    """

    press = models.ForeignKey(Press, on_delete=models.PROTECT, related_name="elements")
    role = models.CharField(max_length=8, choices=ElementRole.choices, default=ElementRole.UPPER)
    label = models.CharField(max_length=60, blank=True)
    width_mm = models.FloatField()
    height_mm = models.FloatField()
    shape = models.CharField(max_length=8, choices=ElementShape.choices, default=ElementShape.FLAT)
    top_diameter_mm = models.FloatField(null=True, blank=True)
    bottom_diameter_mm = models.FloatField(null=True, blank=True)
    closes_by_mm = models.FloatField(null=True, blank=True, help_text="a sleeve, below open")
    own_setting = models.BooleanField(default=False, help_text="has a dial of its own")
    map_since = models.DateTimeField(null=True, blank=True)
    fitted_on = models.DateField(null=True, blank=True)
    taken_out_on = models.DateField(null=True, blank=True)

    class Meta:
        ordering = ["press", "pk"]
        constraints = [
            models.CheckConstraint(
                condition=Q(width_mm__range=PLATEN_RANGE_MM) & Q(height_mm__range=PLATEN_RANGE_MM),
                name="element_size_in_range",
            ),
            models.CheckConstraint(
                condition=Q(role__in=ElementRole.values), name="element_role_known"
            ),
            models.UniqueConstraint(
                fields=["press", "role"],
                condition=Q(taken_out_on__isnull=True),
                name="element_fitted_once",
                violation_error_message="Another one is in that place: take it out first.",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.press.name}, {self.get_role_display()}"

    @property
    def name(self) -> str:
        """Its label, else what it is."""
        return self.label or self.get_role_display()

    @property
    def called(self) -> str:
        """In a sentence: the press, or its lower platen."""
        lower = self.role == ElementRole.LOWER
        return f"{self.press.name}'s {self.name}" if lower else self.press.name


class EventKind(models.TextChoices):
    """What happened to a press that makes its map history."""

    ELEMENT = "element", "element exchanged"
    PAD = "pad", "pad changed"
    REPAIR = "repair", "repaired"
    MOVED = "moved", "moved"
    NEW_MAP = "new_map", "map begun anew"


class PressEvent(models.Model):
    """Something done to a press; never changed afterwards."""

    press = models.ForeignKey(Press, on_delete=models.PROTECT, related_name="events")
    kind = models.CharField(max_length=8, choices=EventKind.choices)
    at = models.DateTimeField()
    by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    note = models.CharField(max_length=400, blank=True)

    class Meta:
        ordering = ["-at", "-pk"]

    def __str__(self) -> str:
        return f"{self.press.name}: {self.get_kind_display()}"


class PressPhoto(models.Model):
    """A photograph of a press, made anew from what was sent; taken away, never deleted."""

    press = models.ForeignKey(Press, on_delete=models.PROTECT, related_name="photos")
    image = models.BinaryField()
    small = models.BinaryField()
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    caption = models.CharField(max_length=120, blank=True)
    added_at = models.DateTimeField(default=timezone.now, editable=False)
    added_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    taken_away_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-added_at", "-pk"]

    def __str__(self) -> str:
        return self.caption or f"{self.press.name}, {self.added_at:%Y-%m-%d}"
