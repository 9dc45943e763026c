"""A pad or pillow as a spring: compression and pressure.

An open sponge yields, then stiffens as its cells close: p = K · ε / (1 − ε) with ε the
compression over the free thickness, K three times the pressure that compresses it by a quarter.
Makers grade sponge by that pressure (ASTM D1056: 34–62 kPa for grade 2).

Equation: p = K·ε/(1 − ε), K three times the pressure at a quarter of compression.
Range: ε up to 0.6.
Source: grades of ASTM D1056; starting value ± 25 %.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np

# Pressure at a quarter of compression, kPa, and its relative standard uncertainty: a starting
# value until a reading of this press replaces it. Silicone sponge: middle of grade 2.
QUARTER_KPA = {"silicone": (48.0, 0.25), "felt": (110.0, 0.4), "pillow": (12.0, 0.4)}
# Beyond this share the cells are closed and the law no longer holds.
VALID_COMPRESSION = 0.6
# What a pad of a kind measures where nobody noted it, mm (handbook 3, table).
USUAL_MM = {"silicone": 8.0, "felt": 6.0, "pillow": 10.0}


@dataclass(frozen=True)
class SpringPad:
    """A pad: free thickness in mm, kPa at a quarter of compression, and how well that is known."""

    thickness_mm: float
    quarter_kpa: float
    quarter_sd_share: float = 0.25

    @property
    def modulus_kpa(self) -> float:
        """K of the law."""
        return 3.0 * self.quarter_kpa

    def pressure_kpa(self, compression_mm: Any) -> Any:
        """Pressure in kPa at a compression in mm (scalar or array); none without contact."""
        share = np.clip(np.asarray(compression_mm, float) / self.thickness_mm, 0.0, 0.98)
        return self.modulus_kpa * share / (1.0 - share)

    def compression_mm(self, pressure_kpa: Any) -> Any:
        """Compression in mm at a pressure in kPa (scalar or array), the inverse."""
        pressure = np.maximum(np.asarray(pressure_kpa, float), 0.0)
        return self.thickness_mm * pressure / (self.modulus_kpa + pressure)

    def is_valid(self, compression_mm: float) -> bool:
        """Whether the law holds at a compression in mm."""
        return compression_mm <= VALID_COMPRESSION * self.thickness_mm


def usual_pad(kind: str, thickness_mm: float | None = None) -> SpringPad:
    """The starting pad of a kind, its thickness in mm: silicone, felt or pillow."""
    quarter, share = QUARTER_KPA[kind]
    return SpringPad(thickness_mm or USUAL_MM[kind], quarter, share)


def learned_pad(
    pad: SpringPad, compression_mm: np.ndarray, pressure_kpa: np.ndarray, share: float
) -> SpringPad:
    """The pad once pressures (n,) in kPa were measured at compressions (n,) in mm.

    Each measurement is known to `share` (relative, standard). Log-normal conjugate update of the
    stiffness: precisions add.
    """
    ratio = np.log(pressure_kpa / pad.pressure_kpa(compression_mm))
    before, each = pad.quarter_sd_share**-2, share**-2
    precision = before + each * len(ratio)
    moved = float(np.exp(each * ratio.sum() / precision))
    return SpringPad(pad.thickness_mm, pad.quarter_kpa * moved, precision**-0.5)
