"""Physical constants and the trade's limits, each with its source."""

# CODATA 2018, exact by definition of the SI.
PLANCK_J_S = 6.62607015e-34
LIGHT_SPEED_M_S = 299_792_458.0
BOLTZMANN_J_K = 1.380649e-23
GAS_CONSTANT_J_MOL_K = 8.31446261815324
ZERO_CELSIUS_K = 273.15

# The band of ordinary infrared guns (handbook 3, "Radiation thermometry").
INFRARED_BAND_M = (8e-6, 14e-6)

# What a document may say (formats/commands.md, "Errors").
TEMPERATURE_RANGE_C = (-50.0, 600.0)
EMISSIVITY_RANGE = (0.01, 1.0)
PLATEN_RANGE_MM = (20.0, 5000.0)
DWELL_LIMIT_S = 7200.0

# k = 2, about 95 % coverage (JCGM 100).
COVERAGE_FACTOR = 2.0

# A technician's two readings of one place on a pad differ by about this much.
DEFAULT_REPEATABILITY_C = 0.8

# Dye uptake: k(T) = (3/45) 1/s at 200 °C, 120 kJ/mol (handbook 3, "Dye").
DYE_RATE_PER_S = 3.0 / 45.0
DYE_REFERENCE_K = 473.15
DYE_ACTIVATION_J_MOL = 120_000.0

# A room is humid from this relative humidity: above the standard atmosphere of textiles (ISO 139,
# 65 %) cloth and paper hold more than their regain.
HUMID_FROM = 0.65

# A strip or a knob tells two thicknesses apart from this, mm (handbook 2, pressure_not_reset).
OTHER_THICKNESS_MM = 0.5

# Linear expansion, 1/K (handbook 3, "Size").
EXPANSION_PER_K = {
    "aluminium": 23.1e-6,
    "stainless": 17.3e-6,
    "glass": 8.5e-6,
    "ceramic": 6.5e-6,
    "hardboard": 8e-6,
    "acrylic": 70e-6,
    "petg": 60e-6,
    "copper": 16.5e-6,
    "brass": 19e-6,
}
# Codes of the library of materials (core/thermal/library/materials.toml) for the same solids.
EXPANDS_LIKE = {
    "aluminium_panel": "aluminium",
    "steel_wall": "stainless",
    "ceramic_tile": "ceramic",
    "stoneware_wall": "ceramic",
    "glass": "glass",
    "hardboard": "hardboard",
    "acrylic": "acrylic",
    "petg": "petg",
}


def expansion_per_k(material: str) -> float | None:
    """Linear expansion of a material in 1/K, by its name in the table or its library code; None for
    one that is not in it.
    """
    return EXPANSION_PER_K.get(EXPANDS_LIKE.get(material, material))
