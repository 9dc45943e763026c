"""What comes in lots and wears: blanks, film, coats, cover sheets, tape, pillows."""

from datetime import date

from dateutil.relativedelta import relativedelta
from django.db import models
from django.db.models import Q


class LotKind(models.TextChoices):
    """What comes in lots and ages or wears: the value names a piece's field by `LOT_FIELDS`."""

    BLANKS = "blanks", "blanks"
    FILM = "film", "film or paper"
    COAT = "coat", "coat"
    SHEET = "sheet", "cover sheet"
    TAPE = "tape", "heat tape"
    PILLOW = "pillow", "pillow"


# Kinds that are used again, and wear.
REUSED = (LotKind.SHEET, LotKind.TAPE, LotKind.PILLOW)
# What they are of: the code of their life and their price.
REUSED_MATERIALS = [
    ("plain_paper", "plain paper"),
    ("parchment", "parchment"),
    ("ptfe_sheet", "PTFE"),
    ("wicking_cloth", "wicking cloth"),
    ("tape", "heat tape"),
    ("foam_pillow", "pillow"),
]
# Kind of lot → field of a test press that names it.
LOT_FIELDS = {
    LotKind.BLANKS: "blank_lot",
    LotKind.FILM: "film_lot",
    LotKind.COAT: "coat_lot",
    LotKind.SHEET: "cover_sheet",
}


class Lot(models.Model):
    """A lot of blanks or film, a coat as mixed, or one marked cover sheet."""

    kind = models.CharField(max_length=8, choices=LotKind.choices)
    code = models.CharField(max_length=40, help_text="as it is written on it")
    since = models.DateField(help_text="received, mixed or first used")
    keeps_months = models.PositiveSmallIntegerField(null=True, blank=True)
    material = models.CharField(max_length=20, choices=REUSED_MATERIALS, blank=True)
    taps = models.PositiveIntegerField(default=0, help_text="uses counted by hand")
    ink_seen_on = models.DateField(null=True, blank=True)
    browning = models.PositiveSmallIntegerField(default=0, help_text="0 none to 3 brown")
    note = models.CharField(max_length=300, blank=True)
    retired_on = models.DateField(null=True, blank=True)

    class Meta:
        ordering = ["kind", "-since", "code"]
        constraints = [
            models.UniqueConstraint(fields=["kind", "code"], name="lot_named_once"),
            models.CheckConstraint(
                condition=Q(keeps_months__isnull=True) | Q(keeps_months__range=(1, 240)),
                name="lot_keeps_some_months",
            ),
            models.CheckConstraint(condition=Q(browning__range=(0, 3)), name="lot_browning_0_to_3"),
        ]

    def __str__(self) -> str:
        return f"{self.get_kind_display()} {self.code}"

    @property
    def use_by(self) -> date | None:
        """Last day that it keeps; None where nobody said how long."""
        if self.keeps_months is None:
            return None
        return self.since + relativedelta(months=self.keeps_months)
