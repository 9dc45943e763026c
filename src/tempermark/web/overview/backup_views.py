"""When the room was last backed up, and how it is brought back."""

from dataclasses import dataclass

from django.conf import settings
from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_GET

from tempermark.web.accounts.permissions import must_lead
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.paging import page_of
from tempermark.web.kit.records.backups import Backup, last_good

PAGE = 40


@dataclass(frozen=True)
class BackupState:
    """What the floor says of backups; ``is_urgent``: somebody should look today."""

    sentence: str
    is_urgent: bool


def backup_state() -> BackupState | None:
    """The state of the room's backups; None in a room of made-up data that has none."""
    newest = Backup.objects.first()
    if newest is None:
        return None if settings.DEMO else BackupState("Not backed up yet.", False)
    good = newest if newest.is_good else last_good()
    if good is None:
        return BackupState(f"No backup has worked yet: {newest.why}", True)
    last = f"Last good backup: {_moment(good)}."
    if not newest.is_good:
        return BackupState(f"The backup of {_moment(newest)} failed: {newest.why} {last}", True)
    return BackupState(last, good.is_old)


def _moment(backup: Backup) -> str:
    at = timezone.localtime(backup.at)
    days = (timezone.localdate() - at.date()).days
    day = {0: "today", 1: "yesterday"}.get(days, f"{at.day} {at:%b}")
    return f"{day}, {at:%H:%M}"


@require_GET
def backups(request: Request) -> HttpResponse:
    """The list of backups, for leads."""
    must_lead(request.user)
    context = {
        "state": backup_state(),
        "page": page_of(Backup.objects.all(), request.GET, "at", PAGE),
    }
    return render(request, "overview/backups.html", context)
