"""The library of materials: shipped as data, each value with its source."""

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

from tempermark.core.thermal.result.outcome import BONDED_KPA_S, HALVED_KPA_S, Adhesive
from tempermark.core.thermal.solver.stack import Layer

DATA = Path(__file__).with_name("materials.toml")
# Regain is given at this relative humidity, and taken to be proportional to it.
REGAIN_AT = 0.65
# What a material is for in a stack, in the order in which people look for it.
GROUPS = {
    "transfer": "transfers",
    "film": "films and patches",
    "carrier": "carriers",
    "cover": "covers and sheets",
    "coat": "coatings",
    "cloth": "cloth and leather",
    "rigid": "rigid blanks",
    "plastic": "plastics",
    "pillow": "pillows",
    "pad": "pads",
}
LIMITS = ("scorch_c", "softens_c", "flows_c", "most_c")


@dataclass(frozen=True)
class Material:
    """A material: conductivity W/mK, dry density kg/m³, dry specific heat J/kgK, usual thickness
    in mm, and its water at 65 % relative humidity in kg per kg dry.

    Limits in °C, None where it has none: a minute at `scorch_c` begins to mark it, at `softens_c`
    it gives way under load, its adhesive flows from `flows_c`, and never hotter than `most_c`.
    `bonded_kpa_s` and `halved_kpa_s` are its adhesive's (`thermal.result.outcome.Adhesive`); on
    cloth with `relief` it must flow so many times as far as on smooth jersey. Loose powder
    runs together from `melts_c`. The weave of `textured` cloth shows through a thin film.
    """

    name: str
    label: str
    group: str
    conductivity_w_mk: float
    density_kg_m3: float
    specific_heat_j_kgk: float
    thickness_mm: float
    regain: float
    source: str
    scorch_c: float | None = None
    softens_c: float | None = None
    flows_c: float | None = None
    most_c: float | None = None
    limit_source: str = ""
    bonded_kpa_s: float = BONDED_KPA_S
    halved_kpa_s: float = HALVED_KPA_S
    relief: float = 1.0
    melts_c: float | None = None
    textured: bool = False

    @property
    def adhesive(self) -> Adhesive | None:
        """Its hot melt; None where it has none."""
        if self.flows_c is None:
            return None
        return Adhesive(self.flows_c, self.bonded_kpa_s, self.halved_kpa_s)

    def moisture_fraction(self, relative_humidity: float | None) -> float:
        """Water in kg per kg dry at a relative humidity 0–1; none where it is not known."""
        if relative_humidity is None:
            return 0.0
        return self.regain * relative_humidity / REGAIN_AT

    def layer(
        self, relative_humidity: float | None = None, thickness_mm: float | None = None
    ) -> Layer:
        """A layer of it, thickness in mm, in a room of a relative humidity 0–1."""
        return Layer(
            thickness_mm or self.thickness_mm,
            self.conductivity_w_mk,
            self.density_kg_m3,
            self.specific_heat_j_kgk,
            self.moisture_fraction(relative_humidity),
            name=self.name,
        )


# A shop's own materials above the shipped ones, or the shipped ones alone, by code.
Library = Mapping[str, Material]


@lru_cache(maxsize=1)
def materials() -> dict[str, Material]:
    """Every shipped material by its code."""
    data = tomllib.loads(DATA.read_text(encoding="utf-8"))
    source, limit_source = data.pop("source"), data.pop("limit_source")
    return {name: _material(name, row, source, limit_source) for name, row in data.items()}


@lru_cache
def codes_of(*groups: str) -> frozenset[str]:
    """Codes of the materials of some groups."""
    return frozenset(m.name for m in materials().values() if m.group in groups)


def _material(name: str, row: dict[str, Any], source: str, limit_source: str) -> Material:
    conductivity, density, heat, thickness = (float(v) for v in row["values"])
    limits = {key: float(row[key]) for key in LIMITS if key in row}
    return Material(
        name,
        row["label"],
        row["group"],
        conductivity,
        density,
        heat,
        thickness,
        row["regain"],
        row.get("source", source),
        limits.get("scorch_c"),
        limits.get("softens_c"),
        limits.get("flows_c"),
        limits.get("most_c"),
        limit_source if limits else "",
        float(row.get("bonded_kpa_s", BONDED_KPA_S)),
        float(row.get("halved_kpa_s", HALVED_KPA_S)),
        float(row.get("relief", 1.0)),
        row.get("melts_c"),
        row.get("textured", False),
    )
