"""Reading art and print settings."""

from dataclasses import dataclass

from django.db.models import OuterRef, QuerySet, Subquery

from tempermark.core.phrases import Text, wait_text
from tempermark.web.kit.forms.fields import row_field
from tempermark.web.printing.models import (
    COMPARED,
    Art,
    PrintSettings,
    PrintSettingsVersion,
    shown_value,
)

MOST_SHOWN = 60


def offered_art() -> QuerySet[Art]:
    """Art to choose from, the newest first, without its bytes."""
    return Art.objects.filter(retired_at=None).defer("data", "preview")


def current_settings() -> QuerySet[PrintSettingsVersion]:
    """The newest version of every printer's settings that are offered."""
    newest = PrintSettingsVersion.objects.filter(settings=OuterRef("settings")).order_by("-number")
    rows = PrintSettingsVersion.objects.filter(
        settings__retired_at=None, pk=Subquery(newest.values("pk")[:1])
    )
    return rows.select_related("settings", "created_by").order_by("settings")


def versions_of(settings: PrintSettings) -> QuerySet[PrintSettingsVersion]:
    """All versions, the newest first."""
    return settings.versions.select_related("settings", "created_by")


@dataclass(frozen=True)
class DifferingValue:
    """One thing that differs between two: what, and its value in each."""

    label: str
    before: Text
    now: Text


def differences(
    before: PrintSettingsVersion | None, now: PrintSettingsVersion | None
) -> list[DifferingValue]:
    """What differs between two print settings; which printer, paper and inks first. Nothing where
    one of them is not known.
    """
    if before is None or now is None or before.pk == now.pk:
        return []
    found = [
        DifferingValue(label, getattr(before.settings, name), getattr(now.settings, name))
        for name, label in (("printer", "printer"), ("paper", "paper"), ("inks", "inks"))
        if getattr(before.settings, name) != getattr(now.settings, name)
    ]
    for name in COMPARED:
        if getattr(before, name) != getattr(now, name):
            label = str(row_field(PrintSettingsVersion, name).verbose_name)
            found.append(DifferingValue(label, _text(before, name), _text(now, name)))
    return found


def _text(version: PrintSettingsVersion, name: str) -> Text:
    value = shown_value(version, name)
    if name == "dries_s":
        return wait_text(value)
    if name == "ink_limit" and value is not None:
        return f"{value}\u00a0%"
    return str(value) if value not in (None, "") else "not recorded"
