"""What a request asks for by number, read in one place: never an error, however it was written."""

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


def row_key(text: object) -> int:
    """The key a text names; 0, which no row has, for what names none."""
    return whole(text) or 0
