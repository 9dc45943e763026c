"""tempermark.mix/1: volumes of a coating for a bottle, and the day it is to be used by."""

from datetime import date
from typing import Any

from tempermark.core.days import EARLIEST_YEAR
from tempermark.core.preparing.coating.mix import use_by, volumes_ml
from tempermark.files.document import Fields, read_format

FORMAT = "tempermark.mix/1"
MOST_PARTS, MOST_ML, MOST_MONTHS = 1e6, 1e6, 240
LATEST_YEAR = 2200


def answer(data: object) -> dict[str, Any]:
    """The command: document in, document out."""
    fields = read_format(data, FORMAT)
    parts = [fields.number(k, 0, MOST_PARTS) for k in ("concentrate_parts", "water_parts")]
    bottle = fields.number("bottle_ml", 0, MOST_ML, unit=" ml", above=True)
    day = _day(fields, "mixed_on")
    months = fields.number("shelf_months", 0, MOST_MONTHS, unit=" months")
    if months is not None and months != int(months):
        fields.problem("shelf_months", f"is {months:g}; whole months are needed")
    if None not in parts and not sum(parts) > 0:
        fields.problem("concentrate_parts", "and water_parts are both 0; one must be more")
    fields.done()
    concentrate, water = volumes_ml(parts[0], parts[1], bottle)
    return {
        "concentrate_ml": round(concentrate, 4),
        "water_ml": round(water, 4),
        "use_by": use_by(day, int(months)).isoformat(),
    }


def _day(fields: Fields, key: str) -> Any:
    """A day as YYYY-MM-DD; nothing of a shop is older than the trade's tools."""
    text = fields.text(key)
    if text is None:
        return None
    try:
        day = date.fromisoformat(text) if len(text) == len("2026-03-31") else None
    except ValueError:
        day = None
    if day is None:
        fields.problem(key, f"is “{text[:40]}”; a day like 2026-03-31 is needed")
    elif not EARLIEST_YEAR <= day.year <= LATEST_YEAR:
        fields.problem(key, f"is {text}; right is {EARLIEST_YEAR} to {LATEST_YEAR}", "out_of_range")
    return day
