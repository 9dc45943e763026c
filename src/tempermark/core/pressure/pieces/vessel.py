"""Vessels in sleeves: gap from diameters, the sleeve that fits, and the second short press.

Equation: gap = (sleeve − vessel)/2 at each end, closed by the same at both.
Range: rigid vessels that go into the open sleeve.
Source: geometry; handbook 1 §1.
"""

from dataclasses import dataclass

import numpy as np

from tempermark.core.errors import InputError
from tempermark.core.phrases import Phrase, Text, length, phrase

# A sleeve's lining gives way by this before contact is lost, mm. Starting value: half of a
# 2 mm silicone lining pressed to a quarter.
LINING_GIVES_MM = 0.5
# How far a clamped sleeve closes below its open diameter, mm, where nobody measured it.
CLOSES_BY_MM = 6.0
# A piece is turned by hand to about this, degrees.
TURN_STEP_DEG = 15
# A second press for less than this is not worth the handling, K.
LEAST_GAIN_C = 1.0
# A gap below this is none, mm.
LEAST_GAP_MM = 0.05


@dataclass(frozen=True)
class Tube:
    """A straight or tapered tube: diameters at its upper and lower end and height, in mm."""

    top_mm: float
    bottom_mm: float
    height_mm: float

    def diameter_mm(self, above_mm: np.ndarray) -> np.ndarray:
        """Diameter in mm at a height in mm above its lower end (scalar or array)."""
        return self.bottom_mm + (self.top_mm - self.bottom_mm) * above_mm / self.height_mm


@dataclass(frozen=True)
class Seat:
    """A vessel in a closed sleeve: the gap's width in mm at each end, and whether it fits."""

    top_gap_mm: float
    bottom_gap_mm: float
    closed_by_mm: float
    fits: bool
    reason: Text

    @property
    def widest_mm(self) -> float:
        """The wider of both gaps in mm."""
        return max(self.top_gap_mm, self.bottom_gap_mm)


def seat(
    vessel: Tube,
    sleeve: Tube,
    closes_by_mm: float = CLOSES_BY_MM,
    gives_mm: float = LINING_GIVES_MM,
) -> Seat:
    """How a vessel sits in a sleeve whose diameters in mm are those it has while open.

    Ends are laid level at the bottom. Closing makes both diameters smaller by the same until the
    sleeve touches at one end; what is left at the other is half the difference of the tapers over
    their common height. It fits when that is within what the lining gives and the sleeve closes
    that far. Raises InputError for a vessel larger than the open sleeve.
    """
    reach = min(vessel.height_mm, sleeve.height_mm)
    at = np.array([reach, 0.0])
    room = sleeve.diameter_mm(at) - vessel.diameter_mm(at)
    if (room < 0).any():
        end = "top" if room[0] < room[1] else "bottom"
        raise InputError.single(
            "vessel",
            phrase(
                "The vessel is {excess} wider than the open sleeve at its {end}: it does not go "
                "in. Take a wider sleeve; never force it.",
                excess=length(-float(room.min()), 1),
                end=end,
            ),
            "larger_than_sleeve",
        )
    closed = float(room.min())
    left = (room - min(closed, closes_by_mm)) / 2
    if closed > closes_by_mm:
        reason = phrase(
            "the sleeve closes by {closes}, {needed} are needed",
            closes=length(closes_by_mm),
            needed=length(closed, 1),
        )
    elif left.max() > gives_mm:
        end = "top" if left[0] > left[1] else "bottom"
        reason = phrase(
            "a gap of {gap} is left at the {end}; the lining gives {gives}",
            gap=length(float(left.max()), 1),
            end=end,
            gives=length(gives_mm),
        )
    else:
        reason = _held(float(left.max()))
    fits = closed <= closes_by_mm and left.max() <= gives_mm
    return Seat(float(left[0]), float(left[1]), min(closed, closes_by_mm), bool(fits), reason)


def _held(gap_mm: float) -> Phrase:
    if gap_mm < LEAST_GAP_MM:
        return phrase("no gap")
    return phrase("a gap of {gap}, within what the lining gives", gap=length(gap_mm, 1))


@dataclass(frozen=True)
class SecondPress:
    """A second short press: degrees to turn the piece, and what both presses together reach.

    `coolest_c`: the coolest place of the print in the warmer of its two presses; `before_c`
    after the first alone.
    """

    turn_deg: float
    before_c: float
    coolest_c: float

    @property
    def gained_c(self) -> float:
        """What the second press adds at the coolest place, K."""
        return self.coolest_c - self.before_c


def second_press(
    temperature_c: np.ndarray, heated_mm: float, around_mm: float, art_mm: float, unheated_c: float
) -> SecondPress:
    """The turn after which a print's coolest part lies warmest.

    `temperature_c` (columns,) is the sleeve's true temperature around its heated width
    `heated_mm`; what is left of the vessel's circumference `around_mm` lies in the sleeve's
    opening at `unheated_c`. The art of width `art_mm` is centred in the first press. For each turn
    every place counts with the warmer of its two presses; the turn with the warmest coolest place
    wins, the smaller of equals.
    """
    angle = np.arange(0, 360, 1.0)
    course = _around(angle, temperature_c, heated_mm, around_mm, unheated_c)
    half = min(art_mm, around_mm) / around_mm * 180.0
    printed = np.abs((angle + 180) % 360 - 180) <= half + 1e-9
    before = float(course[printed].min())
    best = (before, 0.0)
    for turn in range(TURN_STEP_DEG, 181, TURN_STEP_DEG):
        both = np.maximum(course, np.roll(course, turn))
        coolest = float(both[printed].min())
        if coolest > best[0] + LEAST_GAIN_C:
            best = (coolest, float(turn))
    return SecondPress(best[1], before, best[0])


def _around(
    angle: np.ndarray,
    temperature_c: np.ndarray,
    heated_mm: float,
    around_mm: float,
    unheated_c: float,
) -> np.ndarray:
    """Temperature at each degree from the middle of the sleeve."""
    signed = (angle + 180) % 360 - 180
    place = signed / 360 * around_mm + heated_mm / 2
    centres = (np.arange(len(temperature_c)) + 0.5) * heated_mm / len(temperature_c)
    warm = np.interp(place, centres, temperature_c)
    return np.where((place < 0) | (place > heated_mm), unheated_c, warm)


def rim_zone_mm(temperature_c: np.ndarray, height_mm: float, low_c: float) -> tuple[float, float]:
    """How far from the lower and the upper rim a sleeve stays below a temperature, mm each.

    `temperature_c` (rows,) from the lower rim to the upper, means around the sleeve.
    """
    warm = np.flatnonzero(temperature_c >= low_c)
    if not len(warm):
        return height_mm, height_mm
    each = height_mm / len(temperature_c)
    return float(warm[0] * each), float((len(temperature_c) - 1 - warm[-1]) * each)
