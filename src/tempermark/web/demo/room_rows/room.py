"""Presses, blanks and their hidden truth, from which the demo's readings are drawn."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from typing import Any

import numpy as np

Shape = Callable[[np.ndarray, np.ndarray, float], np.ndarray]


@dataclass(frozen=True)
class DemoPress:
    """A press: its record, its element, and how its platen really behaves.

    `shape` gives the deviation of the true temperature from the dial in K at shares x, y
    of the platen (0–1 from the front left) and `age`, the days before today.
    """

    record: dict[str, Any]
    element: dict[str, Any]
    grid: str
    survey_ages: tuple[int, ...]
    shape: Shape | None
    # True degrees for one on the dial, and further surveys: days ago and dial.
    gain: float = 1.0
    other_settings: tuple[tuple[int, float], ...] = ()


def _margins(x: np.ndarray, y: np.ndarray, depth: float) -> np.ndarray:
    """Elements run cool at their margins."""
    rim = np.minimum(np.minimum(x, 1 - x), np.minimum(y, 1 - y))
    return np.asarray(-depth * np.exp(-rim / 0.08))


def _heron(x: np.ndarray, y: np.ndarray, age: float) -> np.ndarray:
    corner = -7.5 * np.exp(-((x / 0.28) ** 2 + ((1 - y) / 0.24) ** 2))
    grown = 1 - age / 900
    return -4.6 + _margins(x, y, 1.0) + corner * grown + 1.2 * (0.6 - y)


def _grebe(x: np.ndarray, y: np.ndarray, age: float) -> np.ndarray:
    return 0.4 + _margins(x, y, 1.1) + 0.5 * (x - 0.5)


def _coot(x: np.ndarray, y: np.ndarray, age: float) -> np.ndarray:
    return -7.2 + 0.03 * min(age, 200) + _margins(x, y, 1.6) + 0.8 * (y - 0.5)


def _dipper(x: np.ndarray, y: np.ndarray, age: float) -> np.ndarray:
    return -0.9 - 1.4 * np.abs(y - 0.5)


def _plover(x: np.ndarray, y: np.ndarray, age: float) -> np.ndarray:
    return 2.9 + _margins(x, y, 1.0)


MONTHLY = tuple(range(352, 0, -28))

PRESSES = (
    DemoPress(
        {
            "name": "Heron",
            "slug": "heron",
            "kind": "swing_away",
            "place": 1,
            "mechanism": "knob",
            "lift_mm_per_turn": 1.5,
            "tightens": "clockwise",
            "control_low_c": 0.0,
            "control_high_c": 225.0,
            "timer_max_s": 999,
            "timer_starts": "closing",
            "pad": "silicone",
            "pad_mm": 8.0,
            "pad_condition": "sound",
            "pad_since": date(2026, 3, 2),
            "cover": "ptfe",
            "cover_condition": "glazed",
            "target_c": 195.0,
            "tolerance_c": 5.0,
            "dial_c": 195.0,
            "note": "Crew vests and bibs.",
        },
        {"role": "upper", "width_mm": 400.0, "height_mm": 500.0},
        "5x5",
        tuple(age - 3 for age in MONTHLY),
        _heron,
    ),
    DemoPress(
        {
            "name": "Grebe",
            "slug": "grebe",
            "kind": "clamshell",
            "place": 2,
            "mechanism": "knob",
            "pad": "silicone",
            "pad_mm": 8.0,
            "pad_condition": "sound",
            "pad_since": date(2025, 3, 10),
            "target_c": 160.0,
            "tolerance_c": 5.0,
            "dial_c": 160.0,
            "note": "Film on bags.",
        },
        {"role": "upper", "width_mm": 380.0, "height_mm": 380.0},
        "5x5",
        tuple(age - 7 for age in MONTHLY),
        _grebe,
        gain=1.03,
        other_settings=((63, 190.0), (35, 130.0)),
    ),
    DemoPress(
        {
            "name": "Coot",
            "slug": "coot",
            "kind": "draw",
            "place": 3,
            "mechanism": "pneumatic",
            "line_kpa": 480.0,
            "max_line_kpa": 700.0,
            "cylinder_mm": 125.0,
            "cylinders": 1,
            "pad": "felt",
            "pad_mm": 6.0,
            "pad_since": date(2026, 1, 19),
            "target_c": 200.0,
            "tolerance_c": 5.0,
            "dial_c": 200.0,
            "note": "Bow-number boards and door plates. Two-hand start.",
        },
        {"role": "upper", "width_mm": 600.0, "height_mm": 500.0},
        "5x5",
        tuple(age for age in MONTHLY),
        _coot,
    ),
    DemoPress(
        {
            "name": "Dipper",
            "slug": "dipper",
            "kind": "wrap",
            "place": 4,
            "mechanism": "toggle",
            "target_c": 180.0,
            "tolerance_c": 5.0,
            "dial_c": 180.0,
            "timer_max_s": 90,
            "note": "Tapered steel beakers.",
        },
        {
            "role": "sleeve",
            "label": "tapered sleeve",
            "shape": "tapered",
            "top_diameter_mm": 91.0,
            "bottom_diameter_mm": 63.0,
            "closes_by_mm": 6.0,
            "width_mm": 240.0,
            "height_mm": 110.0,
        },
        "3x3",
        tuple(age - 5 for age in MONTHLY[::2]),
        _dipper,
    ),
    DemoPress(
        {
            "name": "Plover",
            "slug": "plover",
            "kind": "cap",
            "place": 5,
            "mechanism": "scale",
            "target_c": 160.0,
            "tolerance_c": 5.0,
            "dial_c": 160.0,
            "note": "Sun hats and caps.",
        },
        {"role": "upper", "width_mm": 150.0, "height_mm": 90.0},
        "3x3",
        tuple(age + 20 for age in MONTHLY[1::2]),
        _plover,
    ),
    DemoPress(
        {
            "name": "Wren",
            "slug": "wren",
            "kind": "handheld",
            "place": 6,
            "mechanism": "hand",
            "plate_kg": 1.4,
            "target_c": 190.0,
            "tolerance_c": 6.0,
            "note": "Oar tags.",
        },
        {"role": "upper", "width_mm": 120.0, "height_mm": 120.0},
        "3x3",
        (),
        None,
    ),
)

# Each with the days since its last check.
INSTRUMENTS = (
    (
        {
            "name": "Gun 1",
            "kind": "infrared",
            "emissivity_setting": 0.95,
            "expanded_uncertainty_c": 1.5,
            "low_c": -30.0,
            "high_c": 350.0,
            "corrections": [[0.3, -0.3], [99.2, 0.8]],
        },
        60,
    ),
    (
        {
            "name": "Probe 2",
            "kind": "contact",
            "expanded_uncertainty_c": 0.8,
            "corrections": [[100.0, 0.2], [200.0, 0.5]],
        },
        205,
    ),
    (
        {
            "name": "Strips, 171 to 204 °C",
            "kind": "strip",
            "expanded_uncertainty_c": 2.0,
            "fields_c": [171.0, 177.0, 182.0, 188.0, 193.0, 199.0, 204.0],
        },
        30,
    ),
    (
        {
            "name": "simulated logger, nine channels",
            "kind": "logger",
            "expanded_uncertainty_c": 1.0,
        },
        40,
    ),
)

BLANKS: tuple[dict[str, Any], ...] = (
    {
        "name": "Crew vest, white",
        "kind": "garment",
        "polyester": 1.0,
        "colour": "white",
        "coating": "none",
        "features": ["stretch"],
        "width_mm": 480.0,
        "height_mm": 560.0,
        "thickness_mm": 0.5,
    },
    {
        "name": "Marshal's bib, yellow",
        "kind": "garment",
        "polyester": 0.65,
        "colour": "light",
        "coating": "none",
        "features": ["hem"],
        "thickness_mm": 0.6,
    },
    {
        "name": "Cotton bag, natural",
        "kind": "bag",
        "polyester": 0.0,
        "colour": "light",
        "coating": "none",
        "features": ["seam"],
        "thickness_mm": 0.9,
    },
    {
        "name": "Boat-house door plate",
        "kind": "hardboard",
        "colour": "white",
        "coating": "factory",
        "width_mm": 200.0,
        "height_mm": 120.0,
        "thickness_mm": 3.2,
        "material": "hardboard",
    },
    {
        "name": "Bow-number board",
        "kind": "panel",
        "colour": "white",
        "coating": "factory",
        "width_mm": 400.0,
        "height_mm": 300.0,
        "thickness_mm": 1.1,
        "material": "aluminium",
    },
    {
        "name": "Tapered steel beaker",
        "kind": "tumbler",
        "colour": "white",
        "coating": "factory",
        "features": ["curved", "tapered", "hollow"],
        "thickness_mm": 0.5,
        "material": "stainless",
        "top_diameter_mm": 88.0,
        "bottom_diameter_mm": 60.0,
        "height_mm": 110.0,
    },
    {
        "name": "Sun hat, five panels",
        "kind": "cap",
        "polyester": 0.35,
        "colour": "mid",
        "coating": "none",
        "features": ["curved", "metal_trim"],
        "thickness_mm": 1.2,
        "panels": 5,
    },
    {
        "name": "Oar tag",
        "kind": "plastic",
        "colour": "white",
        "coating": "none",
        "width_mm": 50.0,
        "height_mm": 80.0,
        "thickness_mm": 2.0,
        "material": "petg",
        "features": ["heat_sensitive"],
    },
)

BLANKS += (
    {
        "name": "Coxswain's hooded sweatshirt",
        "kind": "garment",
        "polyester": 0.5,
        "colour": "mid",
        "coating": "none",
        "features": ["seam", "zip", "hem"],
        "width_mm": 520.0,
        "height_mm": 620.0,
        "thickness_mm": 2.4,
    },
    {
        "name": "Regatta mug, white",
        "kind": "mug",
        "colour": "white",
        "coating": "factory",
        "features": ["curved", "hollow"],
        "height_mm": 95.0,
        "thickness_mm": 4.0,
        "material": "stoneware",
        "top_diameter_mm": 82.0,
        "bottom_diameter_mm": 82.0,
    },
)
