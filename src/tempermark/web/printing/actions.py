"""Changes to art and print settings."""

import io
from typing import Any
from uuid import UUID

from django.db import transaction
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.files.art.artwork import drawn, read_artwork
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.kit.records.audit import record
from tempermark.web.printing.models import Art, PrintSettings, PrintSettingsVersion

PREVIEW_SIDE_PX = 1200
SETTING_FIELDS = ("printer", "paper", "inks")


def add_art(user: User, raw: bytes, name: str, page: int, key: UUID) -> Art:
    """Keep art from a file; the same form sent twice is one. Raises InputError where the file is
    not to be read.
    """
    must_work(user)
    found = Art.objects.filter(entry_key=key).defer("data", "preview").first()
    if found is not None:
        return found
    artwork = read_artwork(raw, page)
    ratio = artwork.ratio
    side = PREVIEW_SIDE_PX
    size = (side, side * ratio) if ratio <= 1 else (side / ratio, side)
    size_px = [max(1, round(s)) for s in size]
    out = io.BytesIO()
    drawn(artwork.kind, artwork.data, size_px[0], size_px[1]).save(out, "PNG")
    width_px, height_px = artwork.size_px or (None, None)
    width_mm, height_mm = artwork.size_mm or (None, None)
    with transaction.atomic():
        art, fresh = Art.objects.get_or_create(
            entry_key=key,
            defaults={
                "name": name[:80] or "art",
                "kind": artwork.kind,
                "data": artwork.data,
                "preview": out.getvalue(),
                "width_px": width_px,
                "height_px": height_px,
                "width_mm": width_mm,
                "height_mm": height_mm,
                "page": artwork.page,
                "pages": artwork.pages,
                "inner_dpi": artwork.inner_dpi,
                "notes": [note[:200] for note in artwork.notes],
                "added_by": user,
            },
        )
        if fresh:
            record(user, "added art", art)
    return art


@transaction.atomic
def retire_art(user: User, art: Art, retired: bool) -> None:
    """No longer offered, or offered again; jobs that use it keep it."""
    must_work(user)
    art.retired_at = timezone.now() if retired else None
    art.save(update_fields=["retired_at"])
    record(user, "retired art" if retired else "brought art back", art)


@transaction.atomic
def save_settings(user: User, data: dict[str, Any], held: PrintSettings | None) -> PrintSettings:
    """New print settings, or a new version of those held where something differs.

    Raises InputError where others of that printer, paper and inks exist.
    """
    must_work(user)
    key = {name: data[name].strip() for name in SETTING_FIELDS}
    others = PrintSettings.objects.filter(**key).exclude(pk=held.pk if held else None)
    if others.exists():
        raise InputError.single("printer", "These settings exist already: change those instead.")
    if held is None:
        held = PrintSettings.objects.create(**key)
        record(user, "added print settings", held)
    else:
        held = PrintSettings.objects.select_for_update().get(pk=held.pk)
        for name, value in key.items():
            setattr(held, name, value)
        held.save(update_fields=list(key))
    values = {name: value for name, value in data.items() if name not in SETTING_FIELDS}
    latest = held.versions.first()
    if latest is None or any(getattr(latest, name) != value for name, value in values.items()):
        number = latest.number + 1 if latest else 1
        version = PrintSettingsVersion.objects.create(
            settings=held, number=number, created_by=user, **values
        )
        record(user, "changed print settings", version)
    return held


@transaction.atomic
def retire_settings(user: User, settings: PrintSettings, retired: bool) -> None:
    """No longer offered, or offered again; jobs that use them keep them."""
    must_work(user)
    settings.retired_at = timezone.now() if retired else None
    settings.save(update_fields=["retired_at"])
    record(user, "retired print settings" if retired else "brought print settings back", settings)
