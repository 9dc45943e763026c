"""Strips on a platen of 400 × 500 mm: where they are pulled, how they behave, what maps tell."""

from dataclasses import replace

import numpy as np

from tempermark.core.pressure.memory.kept import keep_pressure
from tempermark.core.pressure.memory.looks import PressureRates, strips_look
from tempermark.core.pressure.press.spring import SpringPad

SIZE = (400.0, 500.0)
PAD = SpringPad(8.0, 48.0)
SHARE = np.array([0.06, 0.5, 0.94])
STATIONS = np.array([(x * SIZE[0], y * SIZE[1]) for y in SHARE for x in SHARE])
EVEN = ["holds"] * 9
LEFT_OFF = ["free", "drags", "holds"] * 3


def pulls_at(compression_mm):
    """How strips behave at compressions (n,) in mm."""
    names, bounds = ["free", "drags", "holds", "tears"], [2.0, 15.0, 70.0]
    kpa = PAD.pressure_kpa(np.maximum(compression_mm, 0.0))
    return [names[step] for step in np.searchsorted(bounds, kpa, side="right")]


def known(*maps, months=2.0, change=None):
    """What whole maps tell, the newest first, so many months apart."""
    looks = [
        strips_look(STATIONS, pulls, PAD, 30.44 * months * (number + 1))
        for number, pulls in enumerate(maps)
    ]
    looks[0] = replace(looks[0], change=change)
    return keep_pressure(looks, SIZE, PressureRates())
