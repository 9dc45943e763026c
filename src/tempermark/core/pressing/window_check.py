"""Whether a setting lies inside a recipe's window: temperature, dwell and pressure together."""

from dataclasses import dataclass

from tempermark.core.pressure.press.contact import CLASS_KPA
from tempermark.core.recipes.steps import RecipeStep

# A degree or a second past a range is nothing (handbook 2, rule 1); so is a little pressure.
GRACE_C, GRACE_S, GRACE_TIME_SHARE, GRACE_KPA_SHARE = 1.0, 1.0, 0.03, 0.05


@dataclass(frozen=True)
class Outside:
    """What lies outside: `temperature`, `dwell` or `pressure`, below or above, its value and the
    window's two ends (°C, s or kPa).
    """

    what: str
    is_low: bool
    value: float
    window: tuple[float, float]


def outside_window(
    step: RecipeStep,
    true_c: float | None = None,
    dwell_s: float | None = None,
    kpa: float | None = None,
) -> list[Outside]:
    """What of a setting lies outside a step's window; what is None is not known and not counted."""
    pressure = CLASS_KPA.get(step.pressure)
    longest = step.time_s[1] if step.time_s else 0.0
    rows = (
        ("temperature", true_c, step.temperature_c, GRACE_C),
        ("dwell", dwell_s, step.time_s, max(GRACE_S, GRACE_TIME_SHARE * longest)),
        ("pressure", kpa, pressure, GRACE_KPA_SHARE * pressure[1] if pressure else 0.0),
    )
    found = []
    for what, value, window, grace in rows:
        if value is None or window is None:
            continue
        if value < window[0] - grace or value > window[1] + grace:
            found.append(Outside(what, value < window[0], value, (window[0], window[1])))
    return found
