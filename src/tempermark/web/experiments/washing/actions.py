"""Changes to wash trials."""

from collections.abc import Sequence
from typing import Any
from uuid import UUID, uuid5

from django.db import transaction
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.experiments.models import WashedPress, WashScore, WashTrial
from tempermark.web.jobs import actions as jobs
from tempermark.web.kit.records.audit import record
from tempermark.web.run.models import PressedPiece

HOUR_S = 3600.0


@transaction.atomic
def start(
    user: User,
    fields: dict[str, Any],
    arms: Sequence[tuple[str, Sequence[PressedPiece]]],
    key: UUID,
) -> WashTrial:
    """A new trial with its pieces by arm, and the clock of its rest; the same form sent twice is
    one.
    """
    must_work(user)
    trial, fresh = WashTrial.objects.get_or_create(
        entry_key=key, defaults={**fields, "started_by": user}
    )
    if fresh:
        for arm, pieces in arms:
            for piece in pieces:
                WashedPress.objects.create(trial=trial, arm=arm, piece=piece)
        if trial.rest_h > 0:
            name = f"first wash: {trial.title}"
            jobs.start_clock(user, name, trial.rest_h * HOUR_S, uuid5(key, "rest"))
        record(user, "started wash trial", trial)
    return trial


@transaction.atomic
def score(
    user: User, trial: WashTrial, washes: int, rows: Sequence[dict[str, Any]], key: UUID
) -> list[WashScore]:
    """Scores of one round, a row for each piece that was looked at; sent twice they are kept once.
    A round scored again adds new scores: the later ones count. Raises InputError once the trial has
    ended, or where nothing was scored.
    """
    must_work(user)
    held = WashTrial.objects.select_for_update().get(pk=trial.pk)
    if held.ended_at is not None:
        raise InputError.single(None, "This trial has ended: take it up again first.")
    given = [r for r in rows if r["scores"] or r["density"] is not None or r["failed"]]
    if not given:
        raise InputError.single(None, "Score at least one piece, or say that it failed.")
    found = []
    for row in given:
        own = uuid5(key, f"{row['washed'].pk}:{washes}")
        result, fresh = WashScore.objects.get_or_create(
            entry_key=own, defaults={**row, "washes": washes, "by": user}
        )
        if fresh:
            record(user, "scored washed piece", result, washes=washes)
        found.append(result)
    return found


@transaction.atomic
def end(user: User, trial: WashTrial, ended: bool) -> None:
    """Nothing more is washed, or it goes on."""
    must_work(user)
    trial.ended_at = timezone.now() if ended else None
    trial.save(update_fields=["ended_at"])
    record(user, "ended wash trial" if ended else "resumed wash trial", trial)
