"""Kinds of press and blank, and what a blank is like."""

PRESS_KINDS = (
    "clamshell",
    "swing_away",
    "draw",
    "auto",
    "cap",
    "wrap",
    "handheld",
    "iron",
)

BLANK_KINDS = (
    "garment",
    "bag",
    "cap",
    "panel",
    "tile",
    "glass",
    "hardboard",
    "wood",
    "mug",
    "tumbler",
    "plastic",
    "leather",
)

# Blanks that are hollow and go into a sleeve.
VESSEL_KINDS = ("mug", "tumbler")

# Blanks of two layers of cloth, pressed with both under the platen.
TWO_LAYERED = ("garment", "bag")

BLANK_COLOURS = (
    "white",
    "light",
    "mid",
    "dark",
)

BLANK_COATINGS = (
    "none",
    "factory",
    "brushed",
    "sprayed",
    "laminated",
)

BLANK_FEATURES = (
    "seam",
    "button",
    "zip",
    "hem",
    "texture",
    "stretch",
    "curved",
    "tapered",
    "metal_trim",
    "plastic_trim",
    "heat_sensitive",
    "hollow",
)
