"""What is computed of a set of places once, for a survey asks for it again with every belief."""

from collections.abc import Callable, Hashable
from functools import lru_cache, wraps

import numpy as np

# A lattice of draws, the nodes of a map or the readings of some surveys; all cells of a map are
# asked for once.
MOST_PLACES, MOST_HELD = 1500, 16


def held(function: Callable[..., np.ndarray]) -> Callable[..., np.ndarray]:
    """A function of something (an element's size in mm, its changes) and of places (n, 2) in mm,
    or of two sets of places, that holds what it last gave of up to `MOST_PLACES` places; nobody may
    write to that.
    """

    @lru_cache(maxsize=MOST_HELD)
    def of_bytes(of: Hashable, *places: bytes) -> np.ndarray:
        found = function(of, *(np.frombuffer(one).reshape(-1, 2) for one in places))
        found.flags.writeable = False
        return found

    @wraps(function)
    def of_places(of: Hashable, *place_mm: np.ndarray) -> np.ndarray:
        if any(len(one) > MOST_PLACES for one in place_mm):
            return function(of, *place_mm)
        return of_bytes(of, *(np.ascontiguousarray(one, float).tobytes() for one in place_mm))

    return of_places
