"""What the lots and the cover sheet of a piece tell, for and against."""

from django.utils import timezone

from tempermark.web.run import queries as runs
from tempermark.web.run.lots import is_past, lot_of, uses_before
from tempermark.web.run.models import LotKind, TestPress


def lot_facts(piece: TestPress) -> set[str]:
    """A lot other than that of the last good piece, a coat past its date, a sheet used before."""
    told = set()
    before = runs.worked_before(piece)
    if before is not None:
        pairs = {
            "new_lot_of_blanks": (before.blank_lot, piece.blank_lot),
            "new_lot_of_film": (before.film_lot, piece.film_lot),
        }
        told |= {fact for fact, (was, now) in pairs.items() if was and now and was != now}
    if is_past(lot_of(piece, LotKind.COAT), _day(piece)):
        told.add("coating_expired")
    if uses_before(piece):
        told.add("cover_reused")
    return told


def lot_denials(piece: TestPress) -> set[str]:
    """A coat known to be within its date, a sheet that was used for the first time."""
    told = set()
    coat = lot_of(piece, LotKind.COAT)
    if coat is not None and coat.use_by is not None and not is_past(coat, _day(piece)):
        told.add("coating_expired")
    if uses_before(piece) == 0:
        told.add("cover_reused")
    return told


def _day(piece: TestPress):
    return timezone.localdate(piece.pressed_at)
