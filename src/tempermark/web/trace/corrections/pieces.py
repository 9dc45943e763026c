"""Corrections of pieces and marks: with a reason, keeping what was there, and with what was built
on them computed again.
"""

from typing import Any

from django.db import transaction

from tempermark.core.errors import InputError
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_be_author
from tempermark.web.kit.records.withdrawals import correct, reason
from tempermark.web.kit.units import Units
from tempermark.web.run.models import Mark, TestPress
from tempermark.web.run.pieces.actions import LOGGED_FIELDS, mark_values, piece_values
from tempermark.web.run.record.log import append_correction
from tempermark.web.trace.corrections.consequences import (
    after_piece,
    resting_on,
)

CLOSED = "This piece's case is closed: open it again first, so that nobody misses the change."


@transaction.atomic
def correct_piece(
    user: User, piece: TestPress, data: dict[str, Any], why: str, units: Units
) -> list[str]:
    """Change what was logged of a piece; what was computed again, in sentences."""
    must_be_author(user, piece.pressed_by_id)
    _not_withdrawn(piece)
    before = resting_on(piece)
    values = piece_values(data)
    kept = {name: values[name] for name in (*LOGGED_FIELDS, *values) if name in values}
    kept["pressed_at"] = data.get("pressed_at") or piece.pressed_at
    changed = correct(user, piece, kept, why)
    if not changed:
        return []
    append_correction(user, piece, {"fields": sorted(changed), "why": why.strip()})
    return after_piece(user, piece, before, f"piece {piece.pk} was corrected", units)


@transaction.atomic
def withdraw_piece(user: User, piece: TestPress, why: str, units: Units) -> list[str]:
    """Let a piece count no more; what was computed again, in sentences."""
    must_be_author(user, piece.pressed_by_id)
    before = resting_on(piece)
    if not piece.withdraw(user, why):
        return []
    append_correction(user, piece, {"withdrawn": True, "why": why.strip()})
    return after_piece(user, piece, before, f"piece {piece.pk} was withdrawn", units)


@transaction.atomic
def correct_mark(user: User, mark: Mark, data: dict[str, Any], why: str, units: Units) -> list[str]:
    """Change a mark; what was computed again, in sentences."""
    piece = _piece_of(user, mark)
    before = resting_on(piece)
    if not correct(user, mark, mark_values(piece, data), why):
        return []
    return after_piece(user, piece, before, f"a mark of piece {piece.pk} was corrected", units)


@transaction.atomic
def withdraw_mark(user: User, mark: Mark, why: str, units: Units) -> list[str]:
    """Let a mark count no more; what was computed again, in sentences."""
    piece = _piece_of(user, mark)
    before = resting_on(piece)
    reason(why)
    case = piece.fault_case
    if case is not None and piece.marks.count() == 1 and mark.withdrawn_at is None:
        raise InputError.single(
            "why", "This is the last mark of a case: correct it, or withdraw the whole piece."
        )
    if not mark.withdraw(user, why):
        return []
    return after_piece(user, piece, before, f"a mark of piece {piece.pk} was withdrawn", units)


def _piece_of(user: User, mark: Mark) -> TestPress:
    piece = mark.test_press
    must_be_author(user, mark.marked_by_id or piece.pressed_by_id)
    _not_withdrawn(piece)
    case = piece.fault_case
    if case is not None and case.closed_at is not None:
        raise InputError.single(None, CLOSED)
    return piece


def _not_withdrawn(piece: TestPress) -> None:
    if piece.withdrawn_at is not None:
        raise InputError.single(None, "This piece was withdrawn and can no longer be changed.")
