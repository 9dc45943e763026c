"""Surfaces a gun is held at, with their emissivity in the 8–14 µm band.

Values with standard uncertainties are what such surfaces usually have: the pad's range and bare
metal's are handbook 1 §2's, the others tables of thermography for non-metals (0.85–0.95) with a
spread wide enough for make and age. A comparison with a contact probe learns the one at hand.
"""

from dataclasses import dataclass


@dataclass(frozen=True)
class Surface:
    """A surface by name; emissivity and its standard uncertainty."""

    label: str
    emissivity: float
    uncertainty: float


SURFACES = {
    "silicone_sponge": Surface("silicone sponge pad", 0.92, 0.02),
    "aramid_felt": Surface("aramid felt pad", 0.90, 0.03),
    "black_tape": Surface("matte black tape", 0.95, 0.01),
    "matte_paint": Surface("matte heat-proof paint", 0.94, 0.02),
    "ptfe_cloth": Surface("PTFE-coated cloth", 0.88, 0.03),
    "cotton": Surface("cotton or paper", 0.93, 0.02),
    "oxidised_aluminium": Surface("dull cast aluminium", 0.25, 0.10),
    "bare_aluminium": Surface("bright bare aluminium", 0.10, 0.05),
}
