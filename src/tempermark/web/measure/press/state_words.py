"""A press's state by its surveys in words."""

from datetime import date

from tempermark.core.metrology.press.drift import RULES
from tempermark.core.metrology.press.state import ElementState
from tempermark.web.kit.templatetags.figures import difference_text


def display_words(state: ElementState, unit: str) -> str:
    """`true`, `reads 6 K high`, `never measured`."""
    if state.reads_high_c is None:
        return "never measured"
    if state.is_true:
        return "true"
    off = difference_text(state.reads_high_c, unit, sign=False)
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
    why = ", sooner for its drift" if state.due_by_trend else ""
    return f"survey due {state.due_on:%a} {state.due_on.day} {state.due_on:%b}{why}"


def drift_words(state: ElementState, unit: str) -> str:
    """`drifting −2 K a month`, or nothing."""
    if not state.drifting:
        return ""
    moves = difference_text(state.drift_c_per_30_days, unit, 1)
    return f"true temperature drifts {moves} a month"


def leaving_words(state: ElementState, tolerance_c: float, unit: str) -> str:
    """`will leave ± 5 K in about 16 weeks, interval 11–29`, or nothing."""
    if not state.drifting or state.leaves_in_days is None:
        return ""
    likely, earliest, latest = state.leaves_in_days
    span = f"{_weeks(earliest)}–{_weeks(latest)}" if latest else f"{_weeks(earliest)} or later"
    tolerance = difference_text(tolerance_c, unit, sign=False)
    return f"will leave ±\u00a0{tolerance} in about {_weeks(likely)} weeks, interval {span}"


def _weeks(days: float) -> int:
    return max(1, round(days / 7))


def chart_words(state: ElementState) -> str:
    """What the control chart says of the newest survey."""
    if state.chart is None:
        return "Fewer than four surveys: no control chart yet."
    speaking = [RULES[rule] for rule in dict.fromkeys(state.chart.speaks_now)]
    if not speaking:
        return "The newest survey is as usual: no run rule speaks."
    return f"Not as usual: {'; '.join(speaking)}."


def unusual_words(state: ElementState) -> str:
    """`not as usual: one survey beyond 3σ`, or nothing; a drift is said as such instead."""
    if state.chart is None or state.drifting or not state.chart.speaks_now:
        return ""
    return f"not as usual: {RULES[state.chart.speaks_now[0]]}"
