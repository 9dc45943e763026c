"""Pressure and peel."""

PRESSURES = (
    "resting",
    "light",
    "medium",
    "firm",
    "unknown",
)

PRESSURE_CLASSES = ("resting", "light", "medium", "firm")

PEELS = (
    "hot",
    "warm",
    "cold",
)
