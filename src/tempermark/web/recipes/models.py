"""Recipes with their versions, and blanks."""

from dataclasses import dataclass

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import F, Q
from django.urls import reverse
from django.utils import timezone
from django.utils.functional import cached_property

from tempermark.core.preparing.size.guide import GuideSize
from tempermark.core.recipes.steps import RecipeStep, Sheet, school_from_dict, step_from_dict
from tempermark.core.thermal.library.materials import GROUPS
from tempermark.core.vocabulary.methods import METHOD_WORDS
from tempermark.core.vocabulary.settings import PEELS, PRESSURE_CLASSES
from tempermark.core.vocabulary.things import (
    BLANK_COATINGS,
    BLANK_COLOURS,
    BLANK_FEATURES,
    BLANK_KINDS,
)


def _choices(values: tuple[str, ...]) -> list[tuple[str, str]]:
    return [(value, value.replace("_", " ")) for value in values]


class Recipe(models.Model):
    """A named way to print one kind of blank."""

    name = models.CharField(max_length=80, unique=True)
    slug = models.SlugField(max_length=80, unique=True)
    method = models.CharField(max_length=20, choices=list(METHOD_WORDS.items()))
    blank_kind = models.CharField(max_length=12, choices=_choices(BLANK_KINDS))
    starting_point = models.BooleanField(default=True, help_text="shipped, not proven here")
    retired_at = models.DateTimeField(null=True, blank=True, help_text="no longer offered")

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        """The recipe's card."""
        return reverse("heat:recipe", args=[self.slug])


@dataclass(frozen=True)
class PressedStep:
    """A heated step of a recipe's version with its window; `number` from 0, None for the main
    press.
    """

    number: int | None
    step: RecipeStep
    version: "RecipeVersion"

    @property
    def name(self) -> str:
        """What it is called."""
        return self.step.name

    @property
    def low_c(self) -> float:
        """True temperature from."""
        return (self.step.temperature_c or (self.version.low_c, self.version.high_c))[0]

    @property
    def high_c(self) -> float:
        """True temperature to."""
        return (self.step.temperature_c or (self.version.low_c, self.version.high_c))[1]

    @property
    def middle_c(self) -> float:
        """What to aim at, true."""
        return (self.low_c + self.high_c) / 2

    @property
    def low_s(self) -> float:
        """Dwell from."""
        return self.step.time_s[0] if self.step.time_s else self.version.low_s

    @property
    def high_s(self) -> float:
        """Dwell to."""
        return self.step.time_s[1] if self.step.time_s else self.version.high_s

    @property
    def pressure(self) -> str:
        """Class of pressure; empty where nothing presses."""
        return self.step.pressure

    @property
    def peel(self) -> str:
        """How it is peeled; of the main press also as the recipe's peel has it."""
        return self.step.peel or (self.version.peel if self.number is None else "")

    @property
    def stack(self) -> tuple[str, ...]:
        """Layers from the platen down."""
        return self.step.stack


class RecipeVersion(models.Model):
    """What a recipe asked at one time; never changed, test presses keep theirs.

    The window, pressure, peel and stack are those of its main press; `steps` and `schools` are all
    of it (core/recipes/steps.py).
    """

    # On one press, where a page asked.
    advised_c: float | None
    guessed: bool

    recipe = models.ForeignKey(Recipe, on_delete=models.PROTECT, related_name="versions")
    number = models.PositiveSmallIntegerField(default=1)
    low_c = models.FloatField()
    high_c = models.FloatField()
    low_s = models.FloatField()
    high_s = models.FloatField()
    pressure = models.CharField(max_length=8, choices=_choices(PRESSURE_CLASSES))
    peel = models.CharField(max_length=6, choices=_choices(PEELS), blank=True)
    steps = models.JSONField(default=list)
    schools = models.JSONField(default=list)
    stack = ArrayField(models.CharField(max_length=60), default=list)
    cautions = ArrayField(models.CharField(max_length=200), default=list)
    normal = ArrayField(models.CharField(max_length=200), default=list)
    faults = ArrayField(models.CharField(max_length=24), default=list)
    note = models.CharField(max_length=300, blank=True)
    blank_like = models.CharField(
        max_length=40, blank=True, help_text="code of the shipped kind of blank it is written for"
    )
    created_at = models.DateTimeField(default=timezone.now)
    created_by = models.ForeignKey(
        "accounts.User", on_delete=models.PROTECT, null=True, related_name="+"
    )
    change = models.CharField(max_length=200, blank=True, help_text="what is different, and why")

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

    def pressed(self, number: int | None) -> "PressedStep":
        """One heated step of it, by its number from 0; the main press where there is none such."""
        steps = self.sheet.steps
        if number is None or not 0 <= number < len(steps) or not steps[number].temperature_c:
            return PressedStep(None, self.sheet.main, self)
        step = steps[number]
        return PressedStep(None if step == self.sheet.main else number, step, self)

    @cached_property
    def heated_steps(self) -> list["PressedStep"]:
        """Every step that a press does, in order."""
        steps = enumerate(self.sheet.steps)
        return [self.pressed(n) for n, step in steps if step.is_heated and step.temperature_c]

    @cached_property
    def sheet(self) -> Sheet:
        """All of the recipe, as the core reads it."""
        return Sheet(
            self.recipe.name,
            self.recipe.method,
            self.recipe.blank_kind,
            tuple(step_from_dict(step) for step in self.steps),
            tuple(school_from_dict(school) for school in self.schools),
            tuple(self.cautions),
            tuple(self.normal),
            tuple(self.faults),
            self.note,
            blank=self.blank_like,
        )


class Blank(models.Model):
    """A thing that is printed."""

    name = models.CharField(max_length=80, unique=True)
    kind = models.CharField(max_length=12, choices=_choices(BLANK_KINDS))
    polyester = models.FloatField(null=True, blank=True)
    colour = models.CharField(max_length=8, choices=_choices(BLANK_COLOURS), blank=True)
    coating = models.CharField(max_length=12, choices=_choices(BLANK_COATINGS), blank=True)
    features = ArrayField(
        models.CharField(max_length=20, choices=_choices(BLANK_FEATURES)),
        default=list,
        blank=True,
    )
    width_mm = models.FloatField(null=True, blank=True)
    height_mm = models.FloatField(null=True, blank=True)
    thickness_mm = models.FloatField(null=True, blank=True)
    material = models.CharField(max_length=40, blank=True)
    like = models.CharField(max_length=40, blank=True, help_text="code of a shipped kind")
    limit_kpa = models.FloatField(null=True, blank=True, help_text="contact it stands at most")
    scorch_c = models.FloatField(null=True, blank=True, help_text="a minute begins to mark it")
    softens_c = models.FloatField(null=True, blank=True, help_text="it gives way under load")
    migrates_c = models.FloatField(null=True, blank=True, help_text="15 s begin to tint a film")
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


class Anchor(models.TextChoices):
    """Which part of the art a guide places."""

    TOP = "top", "top edge of the art"
    MIDDLE = "middle", "middle of the art"
    BOTTOM = "bottom", "bottom edge of the art"


class PlacingGuide(models.Model):
    """Where art goes on a kind of garment, by sizes: measures that the shop took.

    `rows` are those of a GuideSize (core/preparing/size/guide.py), in mm.
    """

    name = models.CharField(max_length=60, unique=True)
    blank_kind = models.CharField(max_length=12, choices=_choices(BLANK_KINDS))
    anchor = models.CharField(max_length=8, choices=Anchor.choices, default=Anchor.TOP)
    first_edge = models.CharField(max_length=40, help_text="what the distance begins at")
    second_edge = models.CharField(max_length=40, blank=True)
    rows = models.JSONField(default=list)
    note = models.CharField(max_length=300, blank=True)
    retired_at = models.DateTimeField(null=True, blank=True, help_text="no longer offered")
    created_at = models.DateTimeField(default=timezone.now)
    created_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        """Its page."""
        return reverse("prepare:guide", args=[self.pk])

    @property
    def sizes(self) -> list[GuideSize]:
        """Its sizes in the order in which they were entered."""
        return [GuideSize(**row) for row in self.rows]

    def size(self, name: str) -> GuideSize | None:
        """One of its sizes."""
        return next((size for size in self.sizes if size.size == name), None)


class OwnMaterial(models.Model):
    """A shop's own values of a material, or a material of its own; the newest of a code holds.

    What is null is as shipped. Never changed: withdrawn, and the one before holds again.
    """

    code = models.SlugField(max_length=40)
    label = models.CharField(max_length=60, blank=True)
    group = models.CharField(max_length=10, choices=list(GROUPS.items()), blank=True)
    conductivity_w_mk = models.FloatField(null=True, blank=True)
    density_kg_m3 = models.FloatField(null=True, blank=True)
    specific_heat_j_kgk = models.FloatField(null=True, blank=True)
    thickness_mm = models.FloatField(null=True, blank=True)
    regain = models.FloatField(null=True, blank=True)
    scorch_c = models.FloatField(null=True, blank=True)
    softens_c = models.FloatField(null=True, blank=True)
    flows_c = models.FloatField(null=True, blank=True)
    most_c = models.FloatField(null=True, blank=True)
    source = models.CharField(max_length=300)
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    withdrawn_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-at", "-pk"]

    def __str__(self) -> str:
        return self.label or self.code
