"""Counts that are kept day by day, so that no page counts all pieces of years again.

They are made from test presses alone: triggers note which moments to count again (`CountChange`),
the worker does so, and whoever reads them counts the days that wait for it afresh.
"""

from django.db import models

from tempermark.web.run.models.lots import LotKind


class CountChange(models.Model):
    """A piece pressed at this moment was logged, changed or withdrawn: its day is to be counted."""

    pressed_at = models.DateTimeField()

    class Meta:
        indexes = [models.Index(fields=["pressed_at"], name="count_change_when")]

    def __str__(self) -> str:
        return f"{self.pressed_at:%Y-%m-%d %H:%M}"


class DayCount(models.Model):
    """What was counted on a day by the room's clock."""

    day = models.DateField()

    class Meta:
        abstract = True

    def __str__(self) -> str:
        return f"{self._meta.verbose_name}, {self.day}"


class ClosingCount(DayCount):
    """Closings of an element by its logged pieces of a recipe's version, and the last of them."""

    element = models.ForeignKey("presses.Element", on_delete=models.CASCADE, related_name="+")
    recipe = models.ForeignKey("recipes.RecipeVersion", on_delete=models.CASCADE, related_name="+")
    closings = models.PositiveIntegerField()
    last = models.DateTimeField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["element", "recipe", "day"], name="closing_count_once")
        ]
        indexes = [models.Index(fields=["day"], name="closing_count_day")]


class LotCount(DayCount):
    """Pieces that name a lot: each on the day it was first pressed with it, faulty ones on the day
    they were first seen so.
    """

    kind = models.CharField(max_length=8, choices=LotKind.choices)
    code = models.CharField(max_length=40)
    pieces = models.PositiveIntegerField(default=0)
    faulty = models.PositiveIntegerField(default=0)
    uses = models.PositiveIntegerField(help_text="presses, of whichever step")
    last = models.DateTimeField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["kind", "code", "day"], name="lot_count_once")
        ]
        indexes = [models.Index(fields=["day"], name="lot_count_day")]


class BlankCount(DayCount):
    """Blanks that were used up: each piece on the day of its first main press."""

    blank = models.ForeignKey("recipes.Blank", on_delete=models.CASCADE, related_name="+")
    blank_lot = models.CharField(max_length=40, blank=True)
    pieces = models.PositiveIntegerField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["blank", "blank_lot", "day"], name="blank_count_once")
        ]
        indexes = [models.Index(fields=["day"], name="blank_count_day")]


class YieldCount(DayCount):
    """Judged main presses of a recipe's version and a blank, by element and ninth of the platen;
    those of experiments left aside.
    """

    element = models.ForeignKey("presses.Element", on_delete=models.CASCADE, related_name="+")
    recipe = models.ForeignKey("recipes.RecipeVersion", on_delete=models.CASCADE, related_name="+")
    blank = models.ForeignKey("recipes.Blank", on_delete=models.CASCADE, related_name="+")
    ninth = models.PositiveSmallIntegerField(help_text="0 front left to 8 back right")
    judged = models.PositiveIntegerField()
    good = models.PositiveIntegerField()
    second = models.PositiveIntegerField()
    spoiled = models.PositiveIntegerField()

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["element", "recipe", "blank", "ninth", "day"], name="yield_count_once"
            )
        ]
        indexes = [models.Index(fields=["day"], name="yield_count_day")]


# All that is made from test presses alone.
COUNTS = (BlankCount, ClosingCount, CountChange, LotCount, YieldCount)


class CountedIn(models.Model):
    """The time zone that the kept days are of; another one, and all are counted again."""

    zone = models.CharField(max_length=60)

    def __str__(self) -> str:
        return self.zone
