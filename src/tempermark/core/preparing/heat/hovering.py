"""How long to hover, and when to turn: so that the far end melts, or dries, as well as the near.

Method: bisection on the hover of core/pressing/hover.py, half the time each way round.
Range: as there, 1 to 100 mm and up to 15 min.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

from tempermark.core.pressing.hover import HoverOutcome, hover_outcome
from tempermark.core.pressing.request import PressRequest
from tempermark.core.thermal.library.materials import Material

# No hover is longer, s; found to within a second or two.
LONGEST_S, WITHIN_S = 900.0, 2.0


@dataclass(frozen=True)
class HoverPlan:
    """Shortest time in s as it lies and with one turn half-way, None where even the longest is not
    enough; and what the time asked for does.
    """

    outcome: HoverOutcome
    lying_s: float | None
    turned_s: float | None

    @property
    def turn_s(self) -> float | None:
        """When to turn it, s."""
        return None if self.turned_s is None else self.turned_s / 2


def hover_plan(
    request: PressRequest, press_kind: str, library: Mapping[str, Material] | None = None
) -> HoverPlan:
    """What a hover of the request's dwell in s does, and how long it needs. Raises ValueError as
    `hover_outcome`.
    """

    def tried(seconds: float) -> HoverOutcome:
        return hover_outcome(replace(request, dwell_s=seconds), press_kind, library)

    longest = tried(LONGEST_S)
    lying = _shortest(lambda s: tried(s).is_good) if longest.is_good else None
    turned = _shortest(lambda s: tried(s).is_good_turned) if longest.is_good_turned else None
    return HoverPlan(tried(request.dwell_s), lying, turned)


def _shortest(is_enough: Callable[[float], bool]) -> float:
    """The shortest time that is enough, s, where the longest is."""
    low, high = 0.0, LONGEST_S
    while high - low > WITHIN_S:
        middle = (low + high) / 2
        low, high = (low, middle) if is_enough(middle) else (middle, high)
    return high
