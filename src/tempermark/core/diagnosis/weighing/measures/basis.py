"""What every measure is built of: evidence with its reason, weights, the window that counts."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from tempermark.core.diagnosis.case import Case
from tempermark.core.diagnosis.knowledge.base import Curve
from tempermark.core.phrases import Text, duration, durations, phrase, temperature, temperatures

# A setting that worked before holds within these (handbook 2, rule 1).
WORKED_TEMPERATURE_C = 5.0
WORKED_TIME_SHARE = 0.12
# Inside the leaflet's window but off what worked: weaker evidence.
LEAFLET_DOUBT = 0.6

Span = tuple[float, float]
Curves = Mapping[str, Curve]


@dataclass(frozen=True)
class Evidence:
    """A piece of evidence: natural log of its odds factor, its words, and why it counts."""

    log_odds: float
    text: Text
    why: str = ""


Measure = Callable[[Case, Curves], Evidence | None]


@dataclass(frozen=True)
class Reference:
    """The window that counts for a case, in words, and a factor on evidence against it."""

    window: Span
    words: Text
    doubt: float = 1.0


def weigh(curve: Curve, deviation: float, uncertainty: float = 0.0) -> float:
    """Log odds of a deviation, averaged over ± its standard uncertainty; both in the curve's unit.

    Example: on a curve through (0, 0) and (10, 2) a deviation of 5 weighs 1.
    """
    points = deviation + uncertainty * np.array([-1.0, 0.0, 1.0])
    return float(np.mean(np.interp(points, curve.at, curve.log_odds)))


def weighed(curve: Curve, excess: float, uncertainty: float, doubt: float) -> float:
    """Log odds of an excess, doubted only where it speaks against the reference."""
    log_odds = weigh(curve, excess, uncertainty)
    return log_odds * doubt if log_odds > 0 else log_odds


def beyond(value: float, window: Span, low_side: bool) -> float:
    """How far a value lies beyond one end of a window, in the unit of both (K, s or steps);
    negative inside."""
    return window[0] - value if low_side else value - window[1]


def temperature_reference(case: Case) -> Reference | None:
    """What the true temperature should have been, °C: what worked before leads over the recipe."""
    window, worked = case.recipe.temperature_c, case.worked_before.temperature_c
    if worked is None:
        words = phrase("window {span}", span=temperatures(window)) if window else ""
        return Reference(window, words) if window else None
    reach = max(WORKED_TEMPERATURE_C, (window[1] - window[0]) / 2 if window else 0)
    doubt = LEAFLET_DOUBT if window and window[0] <= worked <= window[1] else 1.0
    words = phrase("good at {good} before", good=temperature(worked))
    return Reference((worked - reach, worked + reach), words, doubt)


def time_reference(case: Case) -> Reference | None:
    """What the dwell should have been, s: what worked before leads over the recipe."""
    window, worked = case.recipe.time_s, case.worked_before.time_s
    if worked is None:
        words = phrase("window {span}", span=durations(window)) if window else ""
        return Reference(window, words) if window else None
    reach = (1 - WORKED_TIME_SHARE) * worked, (1 + WORKED_TIME_SHARE) * worked
    return Reference(reach, phrase("good with {good} before", good=duration(worked)))
