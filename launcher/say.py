"""What the launcher tells the person at the terminal."""

import sys


class Stop(Exception):
    """The launcher cannot go on; the text says what to do."""


def say(text: str) -> None:
    """One line, at once."""
    print(text, flush=True)


def warn(text: str) -> None:
    """One line on stderr."""
    print(text, file=sys.stderr, flush=True)
