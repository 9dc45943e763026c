"""A press's state in words."""

from datetime import date

from django.utils import timezone

from tempermark.core.metrology.drift import RULES
from tempermark.web.floor.models import Element, Press
from tempermark.web.floor.queries import PressState
from tempermark.web.kit.places import place_words
from tempermark.web.kit.templatetags.figures import difference_text, temperature_text
from tempermark.web.measure.queries import correction, true_at

# A spot check that moves the level by less is no news.
MOVED_C = 1.0


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
    why = ", sooner for its drift" if state.due_by_trend else ""
    return f"survey due {state.due_on:%a} {state.due_on.day} {state.due_on:%b}{why}"


def drift_words(state, unit: str) -> str:
    """`drifting −2 K a month`, or nothing."""
    if not state.drifting:
        return ""
    moves = difference_text(state.drift_c_per_30_days, unit, 1)
    return f"true temperature drifts {moves} a month"


def leaving_words(state, tolerance_c: float, unit: str) -> str:
    """`will leave ± 5 K in about 16 weeks, interval 11–29`, or nothing."""
    if not state.drifting or state.leaves_in_days is None:
        return ""
    likely, earliest, latest = state.leaves_in_days
    span = f"{_weeks(earliest)}–{_weeks(latest)}" if latest else f"{_weeks(earliest)} or later"
    tolerance = difference_text(tolerance_c, unit, sign=False)
    return f"will leave ±\u00a0{tolerance} in about {_weeks(likely)} weeks, interval {span}"


def _weeks(days: float) -> int:
    return max(1, round(days / 7))


def chart_words(state) -> str:
    """What the control chart says of the newest survey."""
    if state.chart is None:
        return "Fewer than four surveys: no control chart yet."
    speaking = [RULES[rule] for rule in dict.fromkeys(state.chart.speaks_now)]
    if not speaking:
        return "The newest survey is as usual: no run rule speaks."
    return f"Not as usual: {'; '.join(speaking)}."


def unusual_words(state) -> str:
    """`not as usual: one survey beyond 3σ`, or nothing; a drift is said as such instead."""
    if state.chart is None or state.drifting or not state.chart.speaks_now:
        return ""
    return f"not as usual: {RULES[state.chart.speaks_now[0]]}"


def moved_words(moved, unit: str) -> str:
    """What a spot check since the survey has done to the setting, or nothing."""
    if moved is None or abs(moved.shift_c) < MOVED_C:
        return ""
    side = "hotter" if moved.shift_c > 0 else "colder"
    by = difference_text(moved.shift_c, unit, 1, sign=False)
    day = timezone.localtime(moved.spot.taken_at)
    return (
        f"The spot check of {day.day} {day:%b} shows it {by} {side} than its map: the setting "
        "follows, the shape is the survey's. Survey it again."
    )


def short_state(entry: PressState, unit: str) -> str:
    """The few words of the strip under the navigation."""
    words = display_words(entry.state, unit).removeprefix("reads ")
    if entry.state.reads_high_c is None and entry.measured_before:
        words = "needs a new survey"
    if entry.state.drifting:
        words += ", drifting"
    elif unusual_words(entry.state):
        words += ", not as usual"
    if entry.state.overdue_days:
        words += ", overdue"
    if entry.weak_words:
        words += ", uneven"
    if entry.open_cases:
        words += ", open fault"
    return words


def needs_attention(entry: PressState) -> bool:
    """Whether the strip should point at this press."""
    state = entry.state
    unusual = unusual_words(state)
    told = (state.overdue_days, state.drifting, unusual, entry.open_cases, entry.weak_words)
    return any(told)


def floor_sentence(entries: list[PressState]) -> str:
    """The floor's verdict: what to see to first."""
    if not entries:
        return "No presses yet. A lead adds the first one."
    parts = []
    unknown = [e for e in entries if e.state.reads_high_c is None]
    never = [e.press.name for e in unknown if not e.measured_before]
    anew = [e.press.name for e in unknown if e.measured_before]
    overdue = [e.press.name for e in entries if e.state.overdue_days]
    drifting = [e.press.name for e in entries if e.state.drifting]
    faults = [e.press.name for e in entries if e.open_cases]
    if faults:
        parts.append(f"{_names(faults)} {_has(faults, 'has', 'have')} an open fault.")
    if drifting:
        parts.append(f"{_names(drifting)} {_has(drifting, 'is', 'are')} drifting.")
    unusual = [e.press.name for e in entries if unusual_words(e.state)]
    if unusual:
        parts.append(f"{_names(unusual)} {_has(unusual, 'is', 'are')} not as usual.")
    parts += [f"{e.press.name} {e.weak_words}." for e in entries if e.weak_words]
    if overdue:
        parts.append(f"{_names(overdue)} {_has(overdue, 'is', 'are')} overdue for a survey.")
    if anew:
        parts.append(f"{_names(anew)} {_has(anew, 'needs', 'need')} a new survey.")
    if never:
        parts.append(f"{_names(never)} {_has(never, 'has', 'have')} never been measured.")
    return " ".join(parts) or "Every press is measured and none is due."


def _names(names: list[str]) -> str:
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)


def _has(names: list[str], one: str, many: str) -> str:
    return one if len(names) == 1 else many


def place_words_for(element, place_mm, when, unit: str) -> str:
    """`Back left corner, 20, 480 mm: 187 °C ± 2 K true, dial at 200 °C. For 195 °C …`."""
    x, y = place_mm[0]
    press = element.press
    if x > element.width_mm or y > element.height_mm:
        return f"{x:g}, {y:g} mm is off the platen of {press.name}."
    known = correction(element, when)
    if known is None:
        return f"{press.name} has no map: what that place has is not known."
    target_c = known.survey.target_c if element.own_setting else press.target_c
    dial = known.setting_for(target_c)
    there = true_at(element, place_mm, dial, when)
    step = press.resolution_c
    setting = dial + (target_c - float(there.value_c[0])) / there.gain
    setting = round(setting / step) * step
    reach = difference_text(2 * float(there.standard_uncertainty_c[0]), unit, 1, sign=False)
    name = place_words(x / element.width_mm, y / element.height_mm)
    true, shown = (temperature_text(v, unit) for v in (float(there.value_c[0]), dial))
    target = temperature_text(target_c, unit)
    text = f"{name.capitalize()}, {x:.0f}, {y:.0f} mm: {true} ± {reach} true, dial at {shown}. "
    if abs(setting - dial) < step / 2:
        return text + f"That is {target} as near as the dial goes."
    return text + f"For {target} true just there set {temperature_text(setting, unit)}."


def register_rows(press: Press, elements: list[Element], unit: str, today: date) -> list:
    """Everything noted of a press, label and words; what is not noted is left out."""
    rows = [("Kind", press.get_kind_display())]
    rows += [(e.get_role_display().capitalize(), _element_words(e)) for e in elements]
    rows += [
        ("Controller", _controller_words(press, unit)),
        ("Timer", _timer_words(press)),
        ("Pressure", _pressure_words(press)),
        ("Pad", _worn(press.get_pad_display(), press.pad_mm, "pad", press, today)),
        ("Cover", _worn(press.get_cover_display(), None, "cover", press, today)),
        ("Survey", f"every {press.survey_every_days} days"),
        ("Note", press.note),
    ]
    return [(label, text) for label, text in rows if text]


def _element_words(element: Element) -> str:
    parts = [element.label] if element.label else []
    parts.append(f"{element.get_shape_display()}, {element.width_mm:g} × {element.height_mm:g} mm")
    across = (element.top_diameter_mm, element.bottom_diameter_mm)
    if any(across):
        parts.append("across " + " to ".join(f"{d:g}" for d in across if d) + " mm")
    if element.own_setting:
        parts.append("has a dial of its own")
    return ", ".join(parts)


def _controller_words(press: Press, unit: str) -> str:
    low, high = press.control_low_c, press.control_high_c
    span = ""
    if low is not None or high is not None:
        span = f"{temperature_text(low, unit)} to {temperature_text(high, unit)}, "
    step = difference_text(press.resolution_c, unit, 1, sign=False).replace(".0", "")
    return f"{span}steps of {step}, shows {press.get_display_unit_display()}"


def _timer_words(press: Press) -> str:
    ends = f"stops at {press.timer_max_s} s" if press.timer_max_s else ""
    starts = f"starts by {press.get_timer_starts_display()}" if press.timer_starts else ""
    return ", ".join(t for t in (ends, starts) if t)


def _pressure_words(press: Press) -> str:
    parts = [press.get_mechanism_display()]
    if press.tightens:
        parts.append(f"{press.get_tightens_display()} tightens")
    if press.lift_mm_per_turn:
        parts.append(f"{press.lift_mm_per_turn:g} mm a turn")
    if press.line_kpa:
        parts.append(f"line at {press.line_kpa:g} kPa")
    if press.cylinders or press.cylinder_mm:
        across = f" of {press.cylinder_mm:g} mm" if press.cylinder_mm else ""
        parts.append(f"{press.cylinders or 1} cylinder{'s' * ((press.cylinders or 1) > 1)}{across}")
    if press.plate_kg:
        parts.append(f"plate of {press.plate_kg:g} kg")
    if press.max_line_kpa:
        parts.append(f"rated for {press.max_line_kpa:g} kPa")
    return ", ".join(parts)


def _worn(what: str, thick_mm: float | None, name: str, press: Press, today: date) -> str:
    """What it is, how thick, how it is, and for how long it has been there."""
    if not what:
        return ""
    since = getattr(press, f"{name}_since")
    condition = getattr(press, f"get_{name}_condition_display")()
    age = f"there for {_age((today - since).days)}" if since else ""
    thick = f"{thick_mm:g} mm" if thick_mm else ""
    return ", ".join(t for t in (what, thick, condition, age) if t)


def _age(days: int) -> str:
    if days < 60:
        return f"{max(0, days)} days"
    return f"{days // 30} months" if days < 720 else f"{days // 365} years"
