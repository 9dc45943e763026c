"""Certificates: surveys as a lead signed them."""

from django.db import models
from django.urls import reverse

from tempermark.web.measure.models import Survey


class Certificate(models.Model):
    """A survey as a lead signed it: frozen, numbered, with the hash of its content.

    Signing a survey again after something changed makes a new version under its number.
    """

    survey = models.ForeignKey(Survey, on_delete=models.PROTECT, related_name="certificates")
    number = models.PositiveIntegerField()
    version = models.PositiveSmallIntegerField(default=1)
    content = models.JSONField()
    sha256 = models.CharField(max_length=64)
    signed_at = models.DateTimeField()
    signed_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-number", "-version"]
        constraints = [
            models.UniqueConstraint(fields=["number", "version"], name="certificate_numbered_once"),
            models.UniqueConstraint(fields=["survey", "sha256"], name="certificate_content_once"),
        ]

    def __str__(self) -> str:
        return self.title

    @property
    def title(self) -> str:
        """`0007`, or `0007, version 2`."""
        later = f", version {self.version}" if self.version > 1 else ""
        return f"{self.number:04d}{later}"

    def get_absolute_url(self) -> str:
        """The certificate's page."""
        return reverse("certificates:certificate", args=[self.number, self.version])
