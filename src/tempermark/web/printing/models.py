"""Art as it is kept, and print settings with every version they had."""

from typing import Any

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import Q
from django.urls import reverse
from django.utils import timezone

from tempermark.files.art.artwork import Artwork

ART_KINDS = [("png", "PNG"), ("jpeg", "JPEG"), ("svg", "SVG"), ("pdf", "PDF")]


class Art(models.Model):
    """A picture, drawing or page to be printed, made again from what was sent; taken out of the
    list, never deleted.
    """

    name = models.CharField(max_length=80)
    kind = models.CharField(max_length=4, choices=ART_KINDS)
    data = models.BinaryField()
    preview = models.BinaryField(help_text="a PNG of some hundred pixels")
    width_px = models.PositiveIntegerField(null=True, blank=True)
    height_px = models.PositiveIntegerField(null=True, blank=True)
    width_mm = models.FloatField(null=True, blank=True, help_text="its own size, if it has one")
    height_mm = models.FloatField(null=True, blank=True)
    page = models.PositiveSmallIntegerField(default=1)
    pages = models.PositiveSmallIntegerField(default=1)
    inner_dpi = models.FloatField(null=True, blank=True, help_text="coarsest picture on the page")
    notes = ArrayField(models.CharField(max_length=200), default=list)
    entry_key = models.UUIDField(unique=True)
    added_at = models.DateTimeField(default=timezone.now)
    added_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    retired_at = models.DateTimeField(null=True, blank=True, help_text="no longer offered")

    class Meta:
        ordering = ["-added_at", "-pk"]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        """Its page."""
        return reverse("printing:art", args=[self.pk])

    @property
    def artwork(self) -> Artwork:
        """As the files know it."""
        pixels = (self.width_px, self.height_px) if self.width_px and self.height_px else None
        own = (self.width_mm, self.height_mm) if self.width_mm and self.height_mm else None
        return Artwork(
            self.kind,
            bytes(self.data),
            pixels,
            own,
            self.page,
            self.pages,
            self.inner_dpi,
            tuple(self.notes),
        )

    @property
    def ratio(self) -> float:
        """Height ÷ width."""
        width = self.width_px or self.width_mm or 1.0
        return (self.height_px or self.height_mm or 1.0) / width


class PrintSettings(models.Model):
    """A printer with a paper or film and a set of inks."""

    printer = models.CharField(max_length=40)
    paper = models.CharField("paper or film", max_length=40)
    inks = models.CharField(max_length=40)
    retired_at = models.DateTimeField(null=True, blank=True, help_text="no longer offered")

    class Meta:
        ordering = ["printer", "paper", "inks"]
        constraints = [
            models.UniqueConstraint(fields=["printer", "paper", "inks"], name="print_settings_once")
        ]

    def __str__(self) -> str:
        return f"{self.printer}, {self.paper}, {self.inks}"

    def get_absolute_url(self) -> str:
        """Its page."""
        return reverse("printing:settings-one", args=[self.pk])


class Mirroring(models.TextChoices):
    """Who mirrors the print: one of them, never both."""

    PROGRAM = "program", "the program"
    DRIVER = "driver", "the printer’s driver"
    NOBODY = "nobody", "nobody: it is printed as it reads"


class PrintQuality(models.TextChoices):
    """What the driver calls the number of passes."""

    DRAFT = "draft", "draft"
    NORMAL = "normal", "normal"
    HIGH = "high", "high"
    BEST = "best", "best"


class ColourHandling(models.TextChoices):
    """Who turns colours into inks."""

    PROFILE = "profile", "the program, by a profile"
    DRIVER = "driver", "the printer’s driver"
    OFF = "off", "nobody"


class PrintSettingsVersion(models.Model):
    """Print settings as they were at one time; never changed, jobs keep theirs."""

    settings = models.ForeignKey(PrintSettings, on_delete=models.PROTECT, related_name="versions")
    number = models.PositiveSmallIntegerField(default=1)
    side = models.CharField("printed side", max_length=40, help_text="like: the brighter one")
    mirrored_by = models.CharField(max_length=8, choices=Mirroring.choices)
    quality = models.CharField(max_length=8, choices=PrintQuality.choices)
    colours = models.CharField("colours handled by", max_length=8, choices=ColourHandling.choices)
    profile = models.CharField(max_length=60, blank=True)
    is_fast = models.BooleanField("fast mode on", default=False)
    is_carried = models.BooleanField("taped onto a carrier sheet", default=False)
    ink_limit = models.PositiveSmallIntegerField("ink limit", null=True, blank=True)
    dries_s = models.FloatField("dries")
    note = models.CharField(max_length=300, blank=True)
    created_at = models.DateTimeField(default=timezone.now)
    created_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["settings", "-number"]
        constraints = [
            models.UniqueConstraint(
                fields=["settings", "number"], name="print_settings_version_once"
            ),
            models.CheckConstraint(
                condition=Q(ink_limit__isnull=True) | Q(ink_limit__range=(1, 400)),
                name="print_ink_limit_in_range",
            ),
            models.CheckConstraint(condition=Q(dries_s__gte=0), name="print_dries_some_time"),
        ]

    def __str__(self) -> str:
        return f"{self.settings}, version {self.number}"


# What may differ between two versions, in the order in which it matters to a print.
COMPARED = (
    "mirrored_by",
    "side",
    "quality",
    "is_fast",
    "colours",
    "profile",
    "ink_limit",
    "is_carried",
    "dries_s",
    "note",
)


def shown_value(version: PrintSettingsVersion, name: str) -> Any:
    """A field's value as it is read: a choice by its label, a switch as yes or no."""
    value = getattr(version, name)
    if isinstance(value, bool):
        return "yes" if value else "no"
    label = getattr(version, f"get_{name}_display", None)
    return label() if label else value
