"""What the lots and the cover sheet of a piece tell, for and against."""

from datetime import date

from django.utils import timezone

from tempermark.web.run.lots.lots import is_past, lot_of, uses_before
from tempermark.web.run.models import LotKind, TestPress


def lot_facts(piece: TestPress, before: TestPress | None) -> dict[str, bool]:
    """Whether a lot is another than that of the last good piece `before`, the coat past its date,
    the cover sheet used before; each left out where it is not known.
    """
    found: dict[str, bool] = {}
    if before is not None:
        pairs = {
            "new_lot_of_blanks": (before.blank_lot, piece.blank_lot),
            "new_lot_of_film": (before.film_lot, piece.film_lot),
        }
        found |= {fact: True for fact, (was, now) in pairs.items() if was and now and was != now}
    coat = lot_of(piece, LotKind.COAT)
    if coat is not None and coat.use_by is not None:
        found["coating_expired"] = is_past(coat, _day(piece))
    uses = uses_before(piece)
    if uses is not None:
        found["cover_reused"] = uses > 0
    return found


def _day(piece: TestPress) -> date:
    return timezone.localdate(piece.pressed_at)
