"""Kinds of blank as they are bought, shipped as data: what a shop's own blank is like."""

import tomllib
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

DATA = Path(__file__).with_name("blank_types.toml")


@dataclass(frozen=True)
class RaisedPlace:
    """Something that stands up on a piece as it lies, front at the bottom: kind, front left corner,
    size and height in mm, and whether it is on the layer below.
    """

    kind: str
    x_mm: float
    y_mm: float
    width_mm: float
    depth_mm: float
    rises_mm: float
    on_back: bool = False


@dataclass(frozen=True)
class BlankType:
    """A kind of blank. Thickness of one layer and usual size in mm; limits in °C and kPa,
    None if none is known.

    A minute at `scorch_c` begins to yellow or glaze it, at `softens_c` it gives way under load,
    15 s at `migrates_c` begin to tint a light film over it. `raised` is what stands up on it.
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
    raised: tuple[RaisedPlace, ...] = ()


@lru_cache(maxsize=1)
def blank_types() -> dict[str, BlankType]:
    """Every shipped kind of blank by its code."""
    data = tomllib.loads(DATA.read_text(encoding="utf-8"))
    source = data.pop("source")
    return {code: _type(code, row, source) for code, row in data.items()}


def _type(code: str, row: dict[str, Any], source: str) -> BlankType:
    raised = tuple(RaisedPlace(**part) for part in row.get("raised", ()))
    row = {"source": source, **row, "features": tuple(row.get("features", ())), "raised": raised}
    return BlankType(code, **row)
