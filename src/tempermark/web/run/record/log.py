"""Writing the log: one entry for each act, never changed afterwards."""

from datetime import datetime
from functools import cache
from typing import Any
from uuid import UUID, uuid4

from django.utils import timezone

from tempermark.web.accounts.models import User
from tempermark.web.kit.records.prepared import Prepared
from tempermark.web.run.models import EntryKind, LogEntry, PressedPiece, Run, TestPress
from tempermark.web.run.record.labels import LONGEST, USUAL_LENGTH, code_of

NAMED = Prepared(
    lambda code: PressedPiece.objects.filter(code=code).values_list("pk")[:1], code=str
)


def append(
    user: User,
    kind: EntryKind,
    detail: dict[str, Any],
    *,
    test_press: TestPress | None = None,
    run: Run | None = None,
    piece: PressedPiece | None = None,
    corrects: LogEntry | None = None,
    at: datetime | None = None,
    key: UUID | None = None,
    clock_shift_s: float = 0.0,
) -> LogEntry:
    """A new entry; call it inside the transaction of the change that it tells of."""
    # By their keys: neither is read for it.
    run_pk, piece_pk = (test_press.run_id, test_press.piece_id) if test_press else (None, None)
    return LogEntry.objects.create(
        run_id=run.pk if run else run_pk,
        piece_id=piece.pk if piece else piece_pk,
        test_press=test_press,
        corrects=corrects,
        kind=kind,
        detail=detail,
        at=at or timezone.now(),
        clock_shift_s=clock_shift_s,
        by=user,
        entry_key=key or uuid4(),
    )


def newest(test_press: TestPress, *kinds: EntryKind) -> LogEntry | None:
    """The newest entry of some kinds about a press."""
    return _newest_of(*kinds).first(press=test_press.pk)


@cache
def _newest_of(*kinds: EntryKind) -> Prepared[LogEntry]:
    found = LogEntry.objects.filter(kind__in=kinds).order_by("-pk")
    return Prepared(lambda press: found.filter(test_press=press)[:1], press=int)


def append_correction(user: User, test_press: TestPress, changed: dict[str, Any]) -> LogEntry:
    """An entry that names the one it corrects: how it was logged, or corrected last."""
    old = newest(test_press, EntryKind.LOGGED, EntryKind.OPENED, EntryKind.CORRECTED)
    return append(user, EntryKind.CORRECTED, changed, test_press=test_press, corrects=old)


def labelled(key: UUID, run: Run | None = None, number: int = 1) -> PressedPiece:
    """A new piece with a code that no other has."""
    for length in range(USUAL_LENGTH, LONGEST):
        code = code_of(key, length)
        if not NAMED.exists(code=code):
            break
    else:
        code = code_of(uuid4(), LONGEST)
    return PressedPiece.objects.create(code=code, run=run, number=number)
