"""Windows of recipes: what they share, by how much they miss, and dwells over a timer's ceiling."""

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

# Closings are not shorter than this; what is left over goes into the closing before.
LEAST_CLOSING_S = 1e-6


@dataclass(frozen=True)
class SettingWindow:
    """A window of a recipe: true temperature in °C and dwell in s, each from and to."""

    temperature_c: tuple[float, float]
    time_s: tuple[float, float]
    name: str = ""


@dataclass(frozen=True)
class Shared:
    """What windows have in common: a span or None, and the gap where they miss each other."""

    temperature_c: tuple[float, float] | None
    time_s: tuple[float, float] | None
    temperature_gap_c: float
    time_gap_s: float

    @property
    def setting(self) -> tuple[float, float] | None:
        """The middle of what is common to all: true °C and s; None where a gap remains."""
        if self.temperature_c is None or self.time_s is None:
            return None
        return float(np.mean(self.temperature_c)), float(np.mean(self.time_s))


def shared(windows: list[SettingWindow]) -> Shared:
    """The common part of windows; touching ones share one value."""
    warm, warm_gap = _common([w.temperature_c for w in windows])
    long, long_gap = _common([w.time_s for w in windows])
    return Shared(warm, long, warm_gap, long_gap)


def _common(spans: list[tuple[float, float]]) -> tuple[tuple[float, float] | None, float]:
    low, high = max(s[0] for s in spans), min(s[1] for s in spans)
    return ((low, high), 0.0) if low <= high else (None, low - high)


def chance_inside(
    window: SettingWindow, at_c: float, sd_c: float, at_s: float, sd_s: float
) -> float:
    """Chance 0–1 that a press set to (at_c, at_s), known to its standards, lands in a window."""

    def between(span: tuple[float, float], mean: float, sd: float) -> float:
        return float(ndtr((span[1] - mean) / sd) - ndtr((span[0] - mean) / sd))

    return between(window.temperature_c, at_c, sd_c) * between(window.time_s, at_s, sd_s)


def closings(dwell_s: float, timer_max_s: float | None) -> list[float]:
    """A dwell over a timer's ceiling: 200 s on a 90 s timer is 90, 90, 20."""
    if timer_max_s is None:
        return [dwell_s]
    full = int(np.floor(dwell_s / timer_max_s + 1e-9))
    rest = dwell_s - full * timer_max_s
    return [timer_max_s] * full + ([rest] if rest > LEAST_CLOSING_S else [])
