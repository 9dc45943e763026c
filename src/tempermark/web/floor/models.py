"""Presses and their heated elements."""

from django.db import models
from django.db.models import Q
from django.urls import reverse

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


class Press(models.Model):
    """A press of the room."""

    name = models.CharField(max_length=40, unique=True)
    slug = models.SlugField(max_length=40, unique=True)
    kind = models.CharField(max_length=12, choices=PressKind.choices)
    place = models.PositiveSmallIntegerField(default=0, help_text="order on the floor")
    resolution_c = models.FloatField(default=1.0)
    timer_max_s = models.PositiveIntegerField(null=True, blank=True)
    mechanism = models.CharField(max_length=10, choices=Mechanism.choices, default=Mechanism.KNOB)
    lift_mm_per_turn = models.FloatField(null=True, blank=True)
    tightens = models.CharField(max_length=16, choices=Turning.choices, blank=True)
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
        ]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        """The press's page."""
        return reverse("floor:press", args=[self.slug])


class ElementRole(models.TextChoices):
    """Which heated part it is."""

    UPPER = "upper", "upper platen"
    LOWER = "lower", "lower platen"
    SLEEVE = "sleeve", "sleeve"


class Element(models.Model):
    """One heated element: its map is its own and ends when it is taken out."""

    press = models.ForeignKey(Press, on_delete=models.PROTECT, related_name="elements")
    role = models.CharField(max_length=8, choices=ElementRole.choices, default=ElementRole.UPPER)
    label = models.CharField(max_length=60, blank=True)
    width_mm = models.FloatField()
    height_mm = models.FloatField()
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
        ]

    def __str__(self) -> str:
        return f"{self.press.name}, {self.get_role_display()}"
