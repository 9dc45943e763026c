"""Prices, in the shop's own currency."""

from django.db import models
from django.db.models import Q
from django.utils import timezone

from tempermark.web.recipes.models import Blank

# What is bought by area, volume, length or piece: code → (what it is called, its unit).
PRICED = {
    "paper": ("transfer paper", "m²"),
    "film": ("film", "m²"),
    "ink": ("ink, for what is printed", "m²"),
    "coating": ("coating", "l"),
    "plain_paper": ("plain cover paper", "sheet"),
    "parchment": ("parchment", "sheet"),
    "ptfe_sheet": ("PTFE sheet", "sheet"),
    "wicking_cloth": ("wicking cloth", "sheet"),
    "foam_pillow": ("pillow", "piece"),
    "tape": ("heat tape", "m"),
    "kwh": ("power", "kWh"),
    "hour": ("work", "h"),
}
BLANK = "blank"
CODES = [(BLANK, "blank"), *[(code, name) for code, (name, _) in PRICED.items()]]


class Currency(models.Model):
    """How the shop writes its money; one row."""

    sign = models.CharField(max_length=8, default="€")

    class Meta:
        verbose_name_plural = "currencies"

    def __str__(self) -> str:
        return self.sign


class Price(models.Model):
    """What one unit of something costs, or one of a blank."""

    code = models.CharField(max_length=20, choices=CODES)
    blank = models.ForeignKey(
        Blank, on_delete=models.CASCADE, null=True, blank=True, related_name="prices"
    )
    amount = models.DecimalField(max_digits=12, decimal_places=4)
    changed_at = models.DateTimeField(default=timezone.now, editable=False)

    class Meta:
        ordering = ["code", "blank"]
        constraints = [
            models.UniqueConstraint(
                fields=["code", "blank"], nulls_distinct=False, name="price_named_once"
            ),
            models.CheckConstraint(condition=Q(amount__gte=0), name="price_not_below_nothing"),
        ]

    def __str__(self) -> str:
        return f"{self.blank or self.get_code_display()}: {self.amount}"
