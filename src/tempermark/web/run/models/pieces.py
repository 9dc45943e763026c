"""Test presses: what was set and done, how it came out, and the marks seen."""

from typing import Any

from django.contrib.postgres.fields import ArrayField
from django.contrib.postgres.indexes import GinIndex, OpClass
from django.db import models
from django.db.models import Q
from django.db.models.functions import Upper
from django.urls import reverse
from django.utils import timezone

from tempermark.core.constants import DWELL_LIMIT_S, TEMPERATURE_RANGE_C
from tempermark.core.recipes.stack_as_done import as_done
from tempermark.core.vocabulary.settings import PEELS, PRESSURES
from tempermark.core.vocabulary.sightings import PLACES, TIMES
from tempermark.web.kit.records.withdrawals import Withdrawable
from tempermark.web.presses.models import Element
from tempermark.web.recipes.models import Blank, PressedStep, RecipeVersion

SCORES = (
    ("black", "density of black"),
    ("colour", "colour"),
    ("edge", "sharp edge"),
    ("even", "evenness"),
    ("bond", "bond"),
    ("hand", "hand, softness"),
    ("marks", "free of marks"),
)


class PieceOutcome(models.TextChoices):
    """How the piece came out."""

    OPEN = "open", "not scored yet"
    GOOD = "good", "good"
    FAULTY = "faulty", "faulty"


class Grade(models.TextChoices):
    """What a faulty piece is still good for."""

    SECOND = "second", "second"
    SPOILED = "spoiled", "spoiled"


class PressedPiece(models.Model):
    """A thing that is printed, with its label: everything pressed on it belongs to it.

    `number` counts the pieces of its run.
    """

    code = models.CharField(max_length=12, unique=True, help_text="on its label")
    run = models.ForeignKey(
        "run.Run", on_delete=models.PROTECT, null=True, blank=True, related_name="pieces"
    )
    number = models.PositiveIntegerField(default=1)
    created_at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-created_at", "-pk"]
        constraints = [models.UniqueConstraint(fields=["run", "number"], name="piece_of_run_once")]

    def __str__(self) -> str:
        return self.code

    def get_absolute_url(self) -> str:
        """What its label opens."""
        return reverse("logbook:piece", args=[self.code])


def _choices(values: tuple[str, ...]) -> list[tuple[str, str]]:
    return [(value, value) for value in values]


class TestPress(Withdrawable):
    """One heated step done to a piece, and how the piece came out of it."""

    __test__ = False  # a model, whatever a test runner makes of its name

    element = models.ForeignKey(Element, on_delete=models.PROTECT, related_name="test_presses")
    recipe = models.ForeignKey(RecipeVersion, on_delete=models.PROTECT, related_name="test_presses")
    blank = models.ForeignKey(Blank, on_delete=models.PROTECT, related_name="test_presses")
    piece = models.ForeignKey(PressedPiece, on_delete=models.PROTECT, related_name="presses")
    run = models.ForeignKey(
        "run.Run", on_delete=models.PROTECT, null=True, blank=True, related_name="test_presses"
    )
    job = models.ForeignKey(
        "jobs.Job", on_delete=models.PROTECT, null=True, blank=True, related_name="pieces"
    )
    step_number = models.PositiveSmallIntegerField(
        null=True, blank=True, help_text="of the recipe's steps, from 0; none is its main press"
    )
    entry_key = models.UUIDField(unique=True)
    pressed_at = models.DateTimeField()
    logged_at = models.DateTimeField(default=timezone.now)
    pressed_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    set_c = models.FloatField()
    dwell_s = models.FloatField(help_text="in all, over the closings")
    closures = models.PositiveSmallIntegerField(default=1)
    open_s = models.FloatField(default=0.0, help_text="it lay open between its closings")
    placing = models.CharField(max_length=40, blank=True, help_text="which of several prints")
    knob = models.CharField(max_length=60, blank=True, help_text="as the pressure was set")
    pressure = models.CharField(max_length=8, choices=_choices(PRESSURES), default="unknown")
    peel = models.CharField(max_length=6, choices=_choices(PEELS), blank=True)
    stack = ArrayField(models.CharField(max_length=60), default=list)
    facts = ArrayField(models.CharField(max_length=40), default=list)
    not_facts = ArrayField(models.CharField(max_length=40), default=list)
    art_x_mm = models.FloatField()
    art_y_mm = models.FloatField()
    art_width_mm = models.FloatField()
    art_height_mm = models.FloatField()
    room_c = models.FloatField(null=True, blank=True)
    relative_humidity = models.FloatField(null=True, blank=True)
    outcome = models.CharField(
        max_length=8, choices=PieceOutcome.choices, default=PieceOutcome.OPEN
    )
    grade = models.CharField(max_length=8, choices=Grade.choices, blank=True)
    scores = models.JSONField(default=dict)
    zone_scores = models.JSONField(default=dict, help_text="by part of the art")
    density = models.FloatField(null=True, blank=True, help_text="of black; 1 is the proof's")
    note = models.CharField(max_length=1000, blank=True)
    blank_lot = models.CharField(max_length=40, blank=True)
    film_lot = models.CharField(max_length=40, blank=True, help_text="of film or paper")
    coat_lot = models.CharField(max_length=40, blank=True, help_text="as its bottle is labelled")
    cover_sheet = models.CharField(max_length=40, blank=True, help_text="as the sheet is marked")

    class Meta(Withdrawable.Meta):
        abstract = False
        ordering = ["-pressed_at", "-pk"]
        indexes = [
            models.Index(fields=["element", "-pressed_at"], name="test_press_latest"),
            models.Index(fields=["-pressed_at", "-id"], name="test_press_when"),
            models.Index(fields=["outcome", "grade", "-pressed_at"], name="test_press_outcome"),
            models.Index(
                fields=["recipe", "-pressed_at", "-id"],
                condition=Q(step_number=None, withdrawn_at=None),
                name="test_press_of_recipe",
            ),
            models.Index(
                fields=["recipe"], condition=Q(withdrawn_at=None), name="test_press_of_version"
            ),
            models.Index(
                fields=["element", "recipe", "-pressed_at", "-id"],
                condition=Q(outcome="good", step_number=None, withdrawn_at=None),
                name="test_press_proven",
            ),
            # As a search without regard to case asks for it.
            GinIndex(OpClass(Upper("note"), name="gin_trgm_ops"), name="test_press_note"),
            *(
                models.Index(fields=[name], condition=~Q(**{name: ""}), name=f"test_press_{name}")
                for name in ("blank_lot", "film_lot", "coat_lot", "cover_sheet")
            ),
        ]
        constraints = [
            models.CheckConstraint(
                condition=Q(set_c__range=TEMPERATURE_RANGE_C), name="test_press_setting_in_range"
            ),
            models.CheckConstraint(
                condition=Q(dwell_s__gt=0) & Q(dwell_s__lte=DWELL_LIMIT_S) & Q(closures__gte=1),
                name="test_press_dwell_in_range",
            ),
            models.CheckConstraint(
                condition=Q(density__isnull=True) | Q(density__range=(0, 1.2)),
                name="test_press_density_in_range",
            ),
            models.CheckConstraint(
                condition=Q(art_width_mm__gt=0) & Q(art_height_mm__gt=0),
                name="test_press_art_sized",
            ),
        ]

    def __str__(self) -> str:
        return f"Test press {self.pk}"

    @property
    def fault_case(self) -> Any:
        """The case that is open for it, else the newest; None without any."""
        cases = self.fault_cases.all()
        return next((c for c in cases if c.closed_at is None), next(iter(cases), None))

    @property
    def pressed_step(self) -> PressedStep:
        """The step of the recipe that was pressed, with its window."""
        return self.recipe.pressed(self.step_number)

    @property
    def pressed_stack(self) -> tuple[str, ...]:
        """The layers that were pressed: as noted, else as the recipe has them, and as was done."""
        noted = tuple(self.stack) or self.pressed_step.stack
        return as_done(noted, frozenset(self.facts))

    def get_absolute_url(self) -> str:
        """The piece's page."""
        return reverse("run:test-press", args=[self.pk])


class MarkShape(models.TextChoices):
    """What was tapped: one place, a line between two, or the area they span."""

    POINT = "point", "at a point"
    LINE = "line", "along a line"
    AREA = "area", "over an area"


class Mark(Withdrawable):
    """Something seen on the piece, at a place on the art as it lay in the press.

    `x_mm`, `y_mm` are its middle; a line or an area reaches `half_x_mm`, `half_y_mm` to each side.
    """

    test_press = models.ForeignKey(TestPress, on_delete=models.CASCADE, related_name="marks")
    entry_key = models.UUIDField(unique=True)
    symptom = models.CharField(max_length=24)
    where = models.CharField(max_length=24, choices=_choices(PLACES))
    when = models.CharField(max_length=16, choices=_choices(TIMES), default="on_opening")
    severity = models.PositiveSmallIntegerField(default=2)
    x_mm = models.FloatField(null=True, blank=True, help_text="on the platen")
    y_mm = models.FloatField(null=True, blank=True, help_text="on the platen")
    shape = models.CharField(max_length=6, choices=MarkShape.choices, default=MarkShape.POINT)
    half_x_mm = models.FloatField(default=0.0)
    half_y_mm = models.FloatField(default=0.0)
    marked_by = models.ForeignKey(
        "accounts.User", on_delete=models.PROTECT, related_name="+", null=True, blank=True
    )

    class Meta(Withdrawable.Meta):
        abstract = False
        ordering = ["pk"]
        indexes = [models.Index(fields=["symptom", "test_press"], name="mark_of_symptom")]
        constraints = [
            models.CheckConstraint(
                condition=Q(severity__range=(1, 3)), name="mark_severity_1_to_3"
            ),
            models.CheckConstraint(
                condition=Q(x_mm__isnull=True, y_mm__isnull=True)
                | Q(x_mm__isnull=False, y_mm__isnull=False),
                name="mark_place_whole",
            ),
        ]

    def __str__(self) -> str:
        return self.symptom


class PressSetting(Withdrawable):
    """What was chosen for a recipe on one element by test presses: true °C and dwell in s. The
    newest that was not withdrawn holds.
    """

    recipe = models.ForeignKey(
        "recipes.Recipe", on_delete=models.PROTECT, related_name="press_settings"
    )
    element = models.ForeignKey(Element, on_delete=models.PROTECT, related_name="press_settings")
    true_c = models.FloatField()
    dwell_s = models.FloatField()
    pressure = models.CharField(max_length=8, choices=_choices(PRESSURES))
    chance = models.FloatField(help_text="to come out good, as known then")
    presses = models.PositiveSmallIntegerField(help_text="that it rests on")
    because = models.CharField(max_length=300, blank=True)
    chosen_at = models.DateTimeField(default=timezone.now)
    chosen_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    entry_key = models.UUIDField(unique=True)

    class Meta(Withdrawable.Meta):
        abstract = False
        ordering = ["-chosen_at", "-pk"]
        constraints = [
            models.CheckConstraint(
                condition=Q(true_c__range=TEMPERATURE_RANGE_C)
                & Q(dwell_s__gt=0)
                & Q(dwell_s__lte=DWELL_LIMIT_S),
                name="press_setting_in_range",
            )
        ]

    def __str__(self) -> str:
        return f"{self.recipe.name} on {self.element}: {self.true_c:.0f} °C, {self.dwell_s:g} s"
