"""A press's state in words."""

from datetime import date

from tempermark.web.floor.queries import PressState
from tempermark.web.kit.templatetags.figures import difference_text


def display_words(state, unit: str) -> str:
    """`true`, `reads 6 K high`, `never measured`."""
    if state.reads_high_c is None:
        return "never measured"
    if state.is_true:
        return "true"
    off = difference_text(state.reads_high_c, unit, sign=False)
    return f"reads {off} {'high' if state.reads_high_c > 0 else 'low'}"


def due_words(state, today: date) -> str:
    """`due 3 Dec`, `5 days overdue`, `survey it first`."""
    if state.due_on is None:
        return "survey it first"
    if state.overdue_days:
        return f"survey {state.overdue_days} day{'s' if state.overdue_days > 1 else ''} overdue"
    left = (state.due_on - today).days
    if left == 0:
        return "survey due today"
    return f"survey due {state.due_on:%a} {state.due_on.day} {state.due_on:%b}"


def drift_words(state, unit: str) -> str:
    """`drifting −2 K a month`, or nothing."""
    if not state.drifting:
        return ""
    return f"true temperature drifts {difference_text(state.drift_c_per_30_days, unit, 1)} a month"


def short_state(entry: PressState, unit: str) -> str:
    """The few words of the strip under the navigation."""
    words = display_words(entry.state, unit)
    if entry.state.drifting:
        words += ", drifting"
    if entry.state.overdue_days:
        words += ", overdue"
    if entry.open_cases:
        words += ", open fault"
    return words


def needs_attention(entry: PressState) -> bool:
    """Whether the strip should point at this press."""
    return bool(entry.state.overdue_days or entry.state.drifting or entry.open_cases)


def floor_sentence(entries: list[PressState]) -> str:
    """The floor's verdict: what to see to first."""
    if not entries:
        return "No presses yet. A lead adds the first one."
    parts = []
    never = [e.press.name for e in entries if e.state.reads_high_c is None]
    overdue = [e.press.name for e in entries if e.state.overdue_days]
    drifting = [e.press.name for e in entries if e.state.drifting]
    faults = [e.press.name for e in entries if e.open_cases]
    if faults:
        parts.append(f"{_names(faults)} {_has(faults, 'has', 'have')} an open fault.")
    if drifting:
        parts.append(f"{_names(drifting)} {_has(drifting, 'is', 'are')} drifting.")
    if overdue:
        parts.append(f"{_names(overdue)} {_has(overdue, 'is', 'are')} overdue for a survey.")
    if never:
        parts.append(f"{_names(never)} {_has(never, 'has', 'have')} never been measured.")
    return " ".join(parts) or "Every press is measured and none is due."


def _names(names: list[str]) -> str:
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)


def _has(names: list[str], one: str, many: str) -> str:
    return one if len(names) == 1 else many
