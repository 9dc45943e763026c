"""What is computed of a set of places once, for a survey asks for it again with every belief."""

from collections.abc import Callable, Hashable
from functools import lru_cache, wraps
from typing import TypeVar

import numpy as np

# A lattice of draws or the readings of some surveys; the map's many cells are asked for once.
MOST_PLACES, MOST_HELD = 400, 16

Of = TypeVar("Of", bound=Hashable)


def held(
    function: Callable[[Of, np.ndarray], np.ndarray],
) -> Callable[[Of, np.ndarray], np.ndarray]:
    """A function of something (an element's size in mm, its changes) and of places (n, 2) in mm
    that holds what it last gave of up to `MOST_PLACES` places; nobody may write to that.
    """

    @lru_cache(maxsize=MOST_HELD)
    def of_bytes(of: Of, places: bytes) -> np.ndarray:
        found = function(of, np.frombuffer(places).reshape(-1, 2))
        found.flags.writeable = False
        return found

    @wraps(function)
    def of_places(of: Of, place_mm: np.ndarray) -> np.ndarray:
        if len(place_mm) > MOST_PLACES:
            return function(of, place_mm)
        return of_bytes(of, np.ascontiguousarray(place_mm, float).tobytes())

    return of_places
