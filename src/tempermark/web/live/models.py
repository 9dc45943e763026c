"""Loggers' keys, recordings, and their readings: raw in blocks, thinned to minutes."""

from typing import Any

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import Q
from django.utils import timezone

from tempermark.web.measure.models import Instrument
from tempermark.web.presses.models import Element


class LoggerKey(models.Model):
    """Lets one logger write to one element. Only the key's hash is kept.

    `places` holds one [x, y] in mm per channel, from the element's front left corner.
    """

    instrument = models.ForeignKey(Instrument, on_delete=models.PROTECT, related_name="keys")
    element = models.ForeignKey(Element, on_delete=models.PROTECT, related_name="logger_keys")
    places = models.JSONField()
    sha256 = models.CharField(max_length=64, unique=True)
    created_at = models.DateTimeField(default=timezone.now, editable=False)
    created_by = models.ForeignKey(
        "accounts.User", on_delete=models.PROTECT, related_name="+", null=True
    )
    ended_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-created_at", "-pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["element"], condition=Q(ended_at=None), name="one_logger_per_element"
            )
        ]

    def __str__(self) -> str:
        return f"{self.instrument.name} on {self.element}"


class Recording(models.Model):
    """What one session of a logger brought.

    `clock_shift_s` was taken off the logger's clock; `missing` counts numbers never sent.
    """

    key = models.ForeignKey(LoggerKey, on_delete=models.PROTECT, related_name="recordings")
    session = models.UUIDField()
    channels = models.PositiveSmallIntegerField()
    interval_s = models.FloatField()
    started_at = models.DateTimeField()
    last_at = models.DateTimeField(null=True, blank=True)
    last_number = models.BigIntegerField(default=-1)
    samples = models.BigIntegerField(default=0)
    missing = models.BigIntegerField(default=0)
    clock_shift_s = models.FloatField(default=0.0)

    class Meta:
        ordering = ["-started_at", "-pk"]
        constraints = [
            models.UniqueConstraint(fields=["key", "session"], name="recording_session_once")
        ]

    def __str__(self) -> str:
        return f"{self.key}, {self.started_at:%Y-%m-%d %H:%M}"


def _channels() -> Any:
    return ArrayField(models.FloatField(null=True))


class Block(models.Model):
    """Less than a second of samples as they came: `seconds` after `from_at`, all channels."""

    recording = models.ForeignKey(Recording, on_delete=models.CASCADE, related_name="blocks")
    first_number = models.BigIntegerField()
    from_at = models.DateTimeField()
    seconds = ArrayField(models.FloatField())
    readings_c = ArrayField(_channels())
    # The same as lowest, mean and highest of the block, for looking at longer stretches.
    low_c = _channels()
    mean_c = _channels()
    high_c = _channels()

    class Meta:
        ordering = ["first_number"]
        constraints = [
            models.UniqueConstraint(fields=["recording", "first_number"], name="block_once")
        ]
        indexes = [models.Index(fields=["recording", "from_at"], name="block_when")]

    def __str__(self) -> str:
        return f"{self.recording}: from {self.first_number}"


class Minute(models.Model):
    """A whole minute, thinned; kept when raw blocks have been cleared away."""

    recording = models.ForeignKey(Recording, on_delete=models.CASCADE, related_name="minutes")
    at = models.DateTimeField()
    low_c = _channels()
    mean_c = _channels()
    high_c = _channels()

    class Meta:
        ordering = ["at"]
        constraints = [models.UniqueConstraint(fields=["recording", "at"], name="minute_once")]

    def __str__(self) -> str:
        return f"{self.recording}: {self.at:%H:%M}"
