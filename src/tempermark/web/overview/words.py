"""A press's state in words."""

from datetime import datetime

import numpy as np
from django.utils import timezone

from tempermark.web.kit.drawing.places import place_words
from tempermark.web.kit.figures import difference_text, place_text, temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import in_words
from tempermark.web.measure.press.history import LevelShift
from tempermark.web.measure.press.press_temperature import press_temperature, true_temperature
from tempermark.web.measure.press.state_words import display_words, unusual_words
from tempermark.web.overview.queries import PressState
from tempermark.web.presses.models import Element

# A spot check that moves the level by less is no news.
MOVED_C = 1.0

# A verdict names no more presses than these.
MOST_NAMED = 5


def moved_words(moved: LevelShift | None, units: Units) -> str:
    """What a spot check since the survey has done to the setting, or nothing."""
    if moved is None or abs(moved.shift_c) < MOVED_C:
        return ""
    side = "hotter" if moved.shift_c > 0 else "colder"
    by = difference_text(moved.shift_c, units, 1, sign=False)
    day = timezone.localtime(moved.spot.taken_at)
    return (
        f"The spot check of {day.day} {day:%b} was {by} {side} than the map: the setting above "
        "allows for that. Survey the platen again soon."
    )


# Shortened, it would be no more than “true”.
TRUE_WORDS = "reads true"


def short_state(entry: PressState, units: Units) -> str:
    """The few words of the strip under the navigation."""
    display = display_words(entry.state, units)
    words = display if display == TRUE_WORDS else display.removeprefix("reads ")
    if entry.state.reads_high_c is None and entry.measured_before:
        words = "needs a new survey"
    if entry.state.drifting:
        words += ", drifting"
    elif unusual_words(entry.state):
        words += ", unusual"
    if entry.state.overdue_days:
        words += ", overdue"
    if entry.weak_words:
        words += ", uneven"
    if entry.open_cases:
        words += ", open fault"
    return words


# A drift that takes longer to leave the tolerance is a note, no task for today.
SOON_DAYS = 60


def drifts_out_soon(entry: PressState) -> bool:
    """Whether a steady drift takes the press out of its tolerance within weeks."""
    leaves = entry.state.leaves_in_days if entry.state.drifting else None
    return leaves is not None and leaves[0] <= SOON_DAYS


def sign_of(entry: PressState) -> str:
    """What stands out most about a press, for a sign that is seen without colour: an open `fault`,
    a survey that is `due`, one that is `missing`, something to look at (`watch`), or nothing.
    """
    state = entry.state
    if entry.open_cases:
        return "fault"
    if state.reads_high_c is None:
        return "missing"
    if state.overdue_days:
        return "due"
    return "watch" if unusual_words(state) or entry.weak_words or drifts_out_soon(entry) else ""


def floor_sentence(entries: list[PressState]) -> str:
    """The floor's verdict: what to see to first."""
    if not entries:
        return "No presses yet."
    parts = []
    unknown = [e for e in entries if e.state.reads_high_c is None]
    never = [e.press.name for e in unknown if not e.measured_before]
    again = [e.press.name for e in unknown if e.measured_before]
    overdue = [e.press.name for e in entries if e.state.overdue_days]
    faults = [e.press.name for e in entries if e.open_cases]
    if faults:
        parts.append(f"{_named(faults)} {_has(faults, 'has', 'have')} an open fault.")
    if overdue:
        parts.append(f"{_named(overdue)} {_has(overdue, 'is', 'are')} overdue for a survey.")
    if again:
        parts.append(f"{_named(again)} {_has(again, 'needs', 'need')} a new survey.")
    if never:
        parts.append(f"{_named(never)} {_has(never, 'has', 'have')} never been surveyed.")
    return " ".join(parts) or "Every press is surveyed and nothing is due."


def floor_notes(entries: list[PressState]) -> str:
    """What else to keep an eye on: odd surveys, uneven pressure, drifts; "" without any."""
    parts = []
    unusual = [e.press.name for e in entries if unusual_words(e.state)]
    if unusual:
        parts.append(f"{_named(unusual)} {_has(unusual, 'has', 'have')} an unusual last survey.")
    parts += [f"{e.press.name} {e.weak_words}." for e in entries if e.weak_words]
    drifting = [e.press.name for e in entries if e.state.drifting]
    if drifting:
        parts.append(f"{_named(drifting)} {_has(drifting, 'is', 'are')} drifting.")
    return " ".join(parts)


def _named(names: list[str]) -> str:
    """Some names, and how many more there are: a verdict is read in one glance."""
    if len(names) <= MOST_NAMED:
        return in_words(names)
    return in_words([*names[: MOST_NAMED - 1], f"{len(names) - MOST_NAMED + 1} more"])


def _has(names: list[str], one: str, many: str) -> str:
    return one if len(names) == 1 else many


def place_words_for(element: Element, place_mm: np.ndarray, when: datetime, units: Units) -> str:
    """`Back left corner, 20, 480 mm: 187 °C ± 2 K true, dial at 200 °C. For 195 °C …`."""
    x, y = place_mm[0]
    press = element.press
    if x > element.width_mm or y > element.height_mm:
        return f"{place_text(x, y, units)} is off {press.name}’s platen."
    known = press_temperature(element, when)
    if known is None:
        return f"{press.name} has no map yet: the temperature there is not known."
    target_c = known.survey.target_c if element.own_setting else press.target_c
    dial = known.dial_for(target_c).set_c
    there = true_temperature(element, place_mm, dial, when, known.history)
    if there is None:
        return f"{press.name} has no map yet: the temperature there is not known."
    setting = there.dial_for(target_c).set_c
    reach = difference_text(2 * float(there.standard_uncertainty_c[0]), units, 1, sign=False)
    name = place_words(x / element.width_mm, y / element.height_mm)
    true, shown = (temperature_text(v, units) for v in (float(there.value_c[0]), dial))
    target = temperature_text(target_c, units)
    where = f"{name.capitalize()}, {place_text(x, y, units)}"
    text = f"{where}: {true} ± {reach} true with the dial at {shown}. "
    if abs(setting - dial) < press.resolution_c / 2:
        return text + f"The dial cannot come nearer to {target}."
    return text + f"For {target} true there, set {temperature_text(setting, units)}."
