"""Backups as the launcher reports them: for the floor page and its list."""

from datetime import timedelta

from django.db import models
from django.utils import timezone

# A daily backup and a day's grace.
OLD_AFTER = timedelta(hours=49)
KEPT_ROWS = 400


class Backup(models.Model):
    """A backup that was made, read back and found equal; or why there is none."""

    at = models.DateTimeField()
    where = models.CharField(max_length=400)
    bytes = models.PositiveBigIntegerField(default=0)
    rows = models.PositiveBigIntegerField(default=0)
    took_s = models.FloatField(default=0.0)
    is_archived = models.BooleanField(default=False, help_text="the log archive has a new base")
    why = models.CharField(max_length=400, blank=True, help_text="of one that failed")

    class Meta:
        ordering = ["-at", "-pk"]
        indexes = [models.Index(fields=["-at", "-id"], name="backup_at")]

    def __str__(self) -> str:
        return f"backup of {self.at:%Y-%m-%d %H:%M}"

    @property
    def is_good(self) -> bool:
        """Whether it can be brought back."""
        return not self.why

    @property
    def is_old(self) -> bool:
        """Whether there should be a newer one."""
        return timezone.now() - self.at > OLD_AFTER


def last_good() -> Backup | None:
    """The newest backup that can be brought back."""
    return Backup.objects.filter(why="").first()


def keep(values: dict[str, object]) -> Backup:
    """Note one; what is long past is forgotten."""
    backup = Backup.objects.create(**values)
    old = Backup.objects.values_list("pk", flat=True)[KEPT_ROWS:]
    Backup.objects.filter(pk__in=list(old)).delete()
    return backup
