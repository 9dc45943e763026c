"""Recipes with their versions, and blanks."""

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import F, Q
from django.urls import reverse

from tempermark.core import vocabulary as codes


def _choices(values):
    return [(value, value.replace("_", " ")) for value in values]


METHOD_LABELS = {
    "dye_sublimation": "dye",
    "heat_transfer_film": "cut film",
    "transfer_paper": "transfer paper",
    "powder_film": "powder film",
    "patch": "patch",
    "spray_coating": "dye on a sprayed coat",
    "laminate_coating": "dye on a laminate",
}


class Recipe(models.Model):
    """A named way to print one kind of blank."""

    name = models.CharField(max_length=80, unique=True)
    slug = models.SlugField(max_length=80, unique=True)
    method = models.CharField(max_length=20, choices=list(METHOD_LABELS.items()))
    blank_kind = models.CharField(max_length=12, choices=_choices(codes.BLANK_KINDS))
    starting_point = models.BooleanField(default=True, help_text="shipped, not proven here")

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        """The recipe's card."""
        return reverse("setup:recipe", args=[self.slug])


class RecipeVersion(models.Model):
    """What a recipe asked at one time; test presses keep theirs."""

    recipe = models.ForeignKey(Recipe, on_delete=models.PROTECT, related_name="versions")
    number = models.PositiveSmallIntegerField(default=1)
    low_c = models.FloatField()
    high_c = models.FloatField()
    low_s = models.FloatField()
    high_s = models.FloatField()
    pressure = models.CharField(max_length=8, choices=_choices(codes.PRESSURE_CLASSES))
    peel = models.CharField(max_length=6, choices=_choices(codes.PEELS), blank=True)
    steps = models.JSONField(default=list)
    stack = ArrayField(models.CharField(max_length=60), default=list)
    cautions = ArrayField(models.CharField(max_length=200), default=list)
    normal = ArrayField(models.CharField(max_length=200), default=list)

    class Meta:
        ordering = ["recipe", "-number"]
        constraints = [
            models.UniqueConstraint(fields=["recipe", "number"], name="recipe_version_once"),
            models.CheckConstraint(
                condition=Q(low_c__lte=F("high_c")) & Q(low_s__lte=F("high_s")) & Q(low_s__gte=0),
                name="recipe_window_ordered",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.recipe.name} v{self.number}"

    @property
    def middle_c(self) -> float:
        """The middle of the temperature window: what to aim at, true."""
        return (self.low_c + self.high_c) / 2


class Blank(models.Model):
    """A thing that is printed."""

    name = models.CharField(max_length=80, unique=True)
    kind = models.CharField(max_length=12, choices=_choices(codes.BLANK_KINDS))
    polyester = models.FloatField(null=True, blank=True)
    colour = models.CharField(max_length=8, choices=_choices(codes.BLANK_COLOURS), blank=True)
    coating = models.CharField(max_length=12, choices=_choices(codes.BLANK_COATINGS), blank=True)
    features = ArrayField(
        models.CharField(max_length=20, choices=_choices(codes.BLANK_FEATURES)),
        default=list,
        blank=True,
    )
    width_mm = models.FloatField(null=True, blank=True)
    height_mm = models.FloatField(null=True, blank=True)
    thickness_mm = models.FloatField(null=True, blank=True)
    material = models.CharField(max_length=40, blank=True)
    limit_kpa = models.FloatField(null=True, blank=True, help_text="contact it stands at most")
    top_diameter_mm = models.FloatField(null=True, blank=True, help_text="of a vessel")
    bottom_diameter_mm = models.FloatField(null=True, blank=True, help_text="of a vessel")
    panels = models.PositiveSmallIntegerField(null=True, blank=True, help_text="of a cap")

    class Meta:
        ordering = ["name"]
        constraints = [
            models.CheckConstraint(
                condition=Q(polyester__isnull=True) | Q(polyester__range=(0, 1)),
                name="blank_polyester_share",
            )
        ]

    def __str__(self) -> str:
        return self.name
