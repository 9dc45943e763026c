"""Lots in use, in a sentence for who prepares a piece."""

from django.utils import timezone

from tempermark.web.run.lots.lots import day_text, is_past, overview
from tempermark.web.run.models import REUSED, Lot, LotKind


def coats_text() -> str:
    """Coats in use and until when they keep; that all are past their date; empty without any."""
    today = timezone.localdate()
    coats = list(Lot.objects.filter(kind=LotKind.COAT, retired_on=None))
    if not coats:
        return ""
    good = [lot for lot in coats if not is_past(lot, today)]
    if not good:
        names = ", ".join(lot.code for lot in coats)
        return f"Past their date: {names}. Mix afresh."
    return f"In use: {', '.join(_until(lot) for lot in good)}."


def _until(lot: Lot) -> str:
    return lot.code if lot.use_by is None else f"{lot.code}, until {day_text(lot.use_by)}"


def worn_sheets_text() -> str:
    """Sheets and pillows in use that are to be retired; empty without any."""
    worn = [
        row.code
        for row in overview(wanted=REUSED)
        if row.kind in REUSED
        and row.lot is not None
        and row.lot.retired_on is None
        and row.wear is not None
        and row.wear.is_over
    ]
    return f"To be retired: {', '.join(worn)}." if worn else ""
