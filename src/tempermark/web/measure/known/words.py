"""What is remembered of an element in words: as before, or what has happened to it."""

from datetime import date

import numpy as np

from tempermark.core.metrology.memory.naming import leading
from tempermark.core.metrology.memory.recall import Recalled
from tempermark.core.metrology.memory.steps import FEWEST_IF_NEW, LARGE_LEFT, is_same
from tempermark.web.kit.drawing.places import place_words
from tempermark.web.kit.figures import chance_text, day_text, difference_text
from tempermark.web.kit.units import Units
from tempermark.web.measure.surveys.mapping import Measured

# A level that moved by less is the same.
SAME_LEVEL_C = 0.75
BAND_WORDS = {"band_x": "A band from front to back", "band_y": "A band from side to side"}


def as_before(computed: Measured, since: date | None, units: Units) -> str:
    """Whether a known element is as it was, or what has happened; empty where nothing is known.
    `since`: the day of the survey before.
    """
    found = computed.recalled
    if found is None or since is None:
        return ""
    count = len(computed.read)
    day = day_text(since)
    if not count:
        return f"The survey of {day} is remembered. A change would show best at the marked place."
    readings = f"{count} reading{'' if count == 1 else 's'}"
    if found.unchanged <= 0.5:
        if computed.decision and computed.decision.is_decided:
            return f"Not as before: {change_text(found, units)}."
        unclear = "what has happened is not clear yet"
        is_clear = count >= FEWEST_IF_NEW and leading(found).is_named
        what = change_text(found, units) if is_clear else unclear
        return f"Not as before: {what}; reading on."
    return _so_far(computed, found, f"{day}{_moved(found, units)}", readings)


def _so_far(computed: Measured, found: Recalled, since: str, readings: str) -> str:
    """How sure it is that nothing has happened since a day, where that is likelier than not."""
    if is_same(found.unchanged, found.large_left):
        return f"As on {since}: {readings}."
    sure = chance_text(found.unchanged)
    if computed.decision.is_decided and found.large_left <= LARGE_LEFT:
        large = "Nothing large has happened since"
        return f"{large} {since}; {sure} sure that nothing has: {readings}."
    return f"So far as on {since}, {sure} sure after {readings}."


def _moved(found: Recalled, units: Units) -> str:
    """By how much the level has moved since the newest look."""
    moved = level_moved_c(found)
    if abs(moved) < SAME_LEVEL_C:
        return ""
    size = difference_text(abs(moved), units, sign=False)
    # Another gun may be what has moved: its error was weighed against the press's drift.
    other = " by another gun" if found.kept.past.looks[0].gun != found.kept.gun else ""
    return f", {size} {'higher' if moved > 0 else 'lower'}{other}"


def level_moved_c(found: Recalled) -> float:
    """How far the element's mean is today from where the newest look had it, K."""
    past = found.kept.past
    newest = past.look == 0
    here, _ = found.moments(past.place_mm[newest])
    return float(np.mean(here) - np.mean(past.deviation_c[newest]))


def change_text(found: Recalled, units: Units) -> str:
    """The likeliest of what may have happened."""
    change = leading(found)
    kind, strength = change.kind, change.strength_c
    if kind == "all":
        return "nothing of it is where it was. Was the element changed, or moved? Then say so"
    width, height = found.kept.size_mm
    size = difference_text(abs(strength), units, sign=False)
    way = "risen" if strength > 0 else "fallen"
    if kind == "level":
        return f"all of it has {way} by about {size} at once"
    if kind in ("tilt_x", "tilt_y"):
        ends = ("right", "left") if kind == "tilt_x" else ("back", "front")
        colder = ends[0] if strength < 0 else ends[1]
        span = (width if kind == "tilt_x" else height) / 100.0 * abs(strength)
        across = difference_text(span, units, sign=False)
        return f"it has tilted, the {colder} colder by about {across} across it"
    place = place_words(float(change.at_mm[0]) / width, float(change.at_mm[1]) / height)
    if kind == "corner":
        # The place of a corner is named one.
        return f"the {place.removesuffix(' corner')} corner has {way} by about {size}"
    return f"{BAND_WORDS[kind].lower()} at the {place} has {way} by about {size}"
