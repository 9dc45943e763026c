"""Reads the shipped starting recipes."""

import tomllib
from functools import lru_cache
from pathlib import Path

from tempermark.core.recipes.steps import Sheet, sheet_from_dict

FOLDER = Path(__file__).with_name("shipped")


@lru_cache(maxsize=1)
def shipped_recipes() -> tuple[Sheet, ...]:
    """Every shipped recipe, in the order of the files and of their names."""
    files = sorted(FOLDER.glob("*.toml"))
    rows = [row for file in files for row in tomllib.loads(file.read_text("utf-8"))["recipe"]]
    return tuple(sheet_from_dict(row) for row in rows)
