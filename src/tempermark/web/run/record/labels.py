"""The code on a piece's label: short, without letters that are taken for one another."""

from uuid import UUID

ALPHABET = "23456789ABCDEFGHJKLMNPQRSTUVWXYZ"
USUAL_LENGTH, LONGEST = 6, 12


def code_of(key: UUID, length: int = USUAL_LENGTH) -> str:
    """The code that an entry's key gives: always the same, of so many signs."""
    number, signs = key.int, ""
    for _ in range(length):
        number, place = divmod(number, len(ALPHABET))
        signs += ALPHABET[place]
    return signs
