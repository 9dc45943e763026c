"""Kinds of blank as they are bought, shipped as data: what a shop's own blank is like."""

import tomllib
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

DATA = Path(__file__).with_name("blank_types.toml")


@dataclass(frozen=True)
class BlankType:
    """A kind of blank. Thickness of one layer and usual size in mm; limits in °C and kPa,
    None if none is known.

    A minute at `scorch_c` begins to yellow or glaze it, at `softens_c` it gives way under load,
    15 s at `migrates_c` begin to tint a light film over it.
    """

    code: str
    label: str
    kind: str
    material: str
    thickness_mm: float
    source: str
    polyester: float | None = None
    colour: str = ""
    coating: str = ""
    features: tuple[str, ...] = ()
    width_mm: float | None = None
    height_mm: float | None = None
    limit_kpa: float | None = None
    scorch_c: float | None = None
    softens_c: float | None = None
    migrates_c: float | None = None


@lru_cache(maxsize=1)
def blank_types() -> dict[str, BlankType]:
    """Every shipped kind of blank by its code."""
    data = tomllib.loads(DATA.read_text(encoding="utf-8"))
    source = data.pop("source")
    return {code: _type(code, row, source) for code, row in data.items()}


def _type(code: str, row: dict, source: str) -> BlankType:
    row = {"source": source, **row, "features": tuple(row.get("features", ()))}
    return BlankType(code, **row)
