"""Photographs of pieces."""

from django.db import models
from django.utils import timezone

from tempermark.web.kit.records.withdrawals import Withdrawable
from tempermark.web.run.models.pieces import PressedPiece, TestPress


class PiecePhoto(Withdrawable):
    """A photograph of a piece, encoded here: no place, no camera, nothing but pixels.

    `washes` says after how many washes it was taken.
    """

    piece = models.ForeignKey(PressedPiece, on_delete=models.PROTECT, related_name="photos")
    test_press = models.ForeignKey(
        TestPress, on_delete=models.PROTECT, null=True, blank=True, related_name="photos"
    )
    washes = models.PositiveSmallIntegerField(default=0)
    image = models.BinaryField()
    small = models.BinaryField()
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    caption = models.CharField(max_length=200, blank=True)
    taken_at = models.DateTimeField(default=timezone.now)
    added_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    entry_key = models.UUIDField(unique=True)

    class Meta(Withdrawable.Meta):
        abstract = False
        ordering = ["washes", "taken_at", "pk"]

    def __str__(self) -> str:
        return f"Photograph of {self.piece}"
