"""What a request asks for by number, read in one place: never an error, however it was written."""

from math import isfinite

LONGEST_NUMBER = 40
# The widest key the database has: eight bytes, signed.
BIGGEST_KEY = 2**63 - 1
MOST_DIGITS = len(str(BIGGEST_KEY))


def whole(text: object) -> int | None:
    """The whole number a text writes in plain digits, from 0 to the biggest key; None for any
    other text, and for what is no text.
    """
    if not isinstance(text, str) or len(text) > MOST_DIGITS:
        return None
    if not (text.isascii() and text.isdecimal()):
        return None
    number = int(text)
    return number if number <= BIGGEST_KEY else None


def number(text: object) -> float | None:
    """The finite number a text writes; None for any other, and for what is no text."""
    if not isinstance(text, str) or len(text) > LONGEST_NUMBER:
        return None
    try:
        found = float(text)
    except ValueError:
        return None
    return found if isfinite(found) else None


def row_key(text: object) -> int:
    """The key a text names; 0, which no row has, for what names none."""
    return whole(text) or 0
