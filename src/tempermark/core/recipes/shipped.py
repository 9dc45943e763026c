"""Reads the shipped starting recipes."""

import tomllib
from pathlib import Path

FILE = Path(__file__).with_name("shipped.toml")


def shipped_recipes() -> list[dict]:
    """Each recipe as in the file: name, method, blank kind, windows, stack, steps."""
    with FILE.open("rb") as stream:
        return tomllib.load(stream)["recipe"]
