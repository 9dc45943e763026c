"""A press's state by its surveys in words."""

from datetime import date

from tempermark.core.metrology.press.drift import RULES
from tempermark.core.metrology.press.state import ElementState
from tempermark.web.kit.figures import difference_text
from tempermark.web.kit.units import Units


def display_words(state: ElementState, units: Units) -> str:
    """`reads true`, `reads 6 K high`, `never surveyed`."""
    if state.reads_high_c is None:
        return "never surveyed"
    if state.is_true:
        return "reads true"
    off = difference_text(state.reads_high_c, units, sign=False)
    return f"reads {off} {'high' if state.reads_high_c > 0 else 'low'}"


def due_words(state: ElementState, today: date) -> str:
    """`due 3 Dec`, `5 days overdue`, `survey it first`."""
    if state.due_on is None:
        return "survey it first"
    if state.overdue_days:
        return f"survey {state.overdue_days} day{'s' if state.overdue_days > 1 else ''} overdue"
    left = (state.due_on - today).days
    if left == 0:
        return "survey due today"
    why = ", early because it drifts" if state.due_by_trend else ""
    return f"survey due {state.due_on:%a} {state.due_on.day} {state.due_on:%b}{why}"


def drift_words(state: ElementState, units: Units) -> str:
    """`drifting −2 K a month`, or nothing."""
    if not state.drifting:
        return ""
    moves = difference_text(state.drift_c_per_30_days, units, 1)
    return f"drifting by {moves} a month"


def leaving_words(state: ElementState, tolerance_c: float, units: Units) -> str:
    """`will leave ± 5 K in about 4 months`, or nothing."""
    if not state.drifting or state.leaves_in_days is None:
        return ""
    tolerance = difference_text(tolerance_c, units, sign=False)
    return f"will be out of ±\u00a0{tolerance} in about {about(state.leaves_in_days[0])}"


def about(days: float) -> str:
    """A time to come as somebody plans by it: days, weeks, from two months on months."""
    if days < 14:
        whole = max(1, round(days))
        return f"{whole} day{'s' if whole > 1 else ''}"
    if days < 60:
        return f"{round(days / 7)} weeks"
    return f"{round(days / 30.4)} months"


def chart_words(state: ElementState) -> str:
    """What the control chart says of the newest survey."""
    if state.chart is None:
        return "The control chart needs four surveys."
    speaking = [RULES[rule] for rule in dict.fromkeys(state.chart.speaks_now)]
    if not speaking:
        return "The last survey is within its usual limits."
    return f"The last survey is unusual: {'; '.join(speaking)}."


def unusual_words(state: ElementState) -> str:
    """`unusual last survey: one survey beyond 3σ`, or nothing; a drift is said as such instead."""
    if state.chart is None or state.drifting or not state.chart.speaks_now:
        return ""
    return f"unusual last survey: {RULES[state.chart.speaks_now[0]]}"
