"""The whole steps in which the solver counts: 1 ms and 0.001 K."""

import math

TICKS_PER_MIN, TICKS_PER_K = 60_000, 1_000
# A change may be rounded up by a tick, and the run after it as well.
ROUNDING_TICKS = 2


def ticks(minutes: float) -> int:
    """Minutes in the solver's steps, rounded up."""
    return math.ceil(minutes * TICKS_PER_MIN - 1e-6)
