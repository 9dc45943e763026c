"""The library of materials: shipped as data, each value with its source."""

import tomllib
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from tempermark.core.thermal.stack import Layer

DATA = Path(__file__).with_name("materials.toml")
# Regain is given at this relative humidity, and taken to be proportional to it.
REGAIN_AT = 0.65


@dataclass(frozen=True)
class Material:
    """A material: conductivity W/mK, dry density kg/m³, dry specific heat J/kgK, usual thickness
    in mm, and its water at 65 % relative humidity in kg per kg dry.
    """

    name: str
    conductivity_w_mk: float
    density_kg_m3: float
    specific_heat_j_kgk: float
    thickness_mm: float
    regain: float
    source: str

    def moisture_fraction(self, relative_humidity: float | None) -> float:
        """Water in kg per kg dry at a relative humidity 0–1; none where it is not known."""
        if relative_humidity is None:
            return 0.0
        return self.regain * relative_humidity / REGAIN_AT

    def layer(
        self, relative_humidity: float | None = None, thickness_mm: float | None = None
    ) -> Layer:
        """A layer of it in a room."""
        return Layer(
            thickness_mm or self.thickness_mm,
            self.conductivity_w_mk,
            self.density_kg_m3,
            self.specific_heat_j_kgk,
            self.moisture_fraction(relative_humidity),
            name=self.name,
        )


@lru_cache(maxsize=1)
def materials() -> dict[str, Material]:
    """Every material by its code."""
    data = tomllib.loads(DATA.read_text())
    source = data.pop("source")
    return {name: _material(name, row, source) for name, row in data.items()}


def _material(name: str, row: dict, source: str) -> Material:
    conductivity, density, heat, thickness = (float(v) for v in row["values"])
    source = row.get("source", source)
    return Material(name, conductivity, density, heat, thickness, row["regain"], source)
