"""The verdict of a survey in words with numbers, in the reader's unit."""

from dataclasses import dataclass
from typing import Any

from tempermark.core.metrology.map.adaptive import is_decided
from tempermark.core.metrology.map.usable import Rectangle
from tempermark.core.metrology.map.verdict import classify
from tempermark.core.metrology.survey import Usable, ZoneExtreme
from tempermark.core.units import MM_PER_INCH
from tempermark.web.kit.drawing.places import place_words
from tempermark.web.kit.figures import chance_text, difference_text, size_text, temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.measure.known.open_verdict import open_text
from tempermark.web.measure.models import Method, Survey
from tempermark.web.measure.surveys.grids import KNOWN, SPOT
from tempermark.web.measure.surveys.mapping import Measured
from tempermark.web.measure.surveys.results import (
    SURE_ENOUGH,
    is_doubtful,
    is_sliver,
    is_whole,
    large_enough,
    recommended_dial,
)

FEWEST_STATIONS = 4
MOST_SPOTS = 2
# A level that has moved by so much within so many days of the survey before is doubted first.
JUMP_K, JUMP_DAYS = 8.0, 45


@dataclass(frozen=True)
class SurveyVerdict:
    """A headline, what follows from it, and the numbers it rests on."""

    set_c: float | None
    headline: str
    rest: str
    how_sure: str
    sure: float | None
    rectangle: Rectangle | None
    shift_c: float = 0.0
    caption: str = ""


def verdict(computed: Measured, gain: float, units: Units, moved_c: float = 0.0) -> SurveyVerdict:
    """What to set, where prints may go, what stays off, how sure.

    `moved_c`: how far the element's level has moved since the survey, K.
    """
    survey, result = computed.survey, computed.result
    name = survey.element.called
    if survey.grid == SPOT:
        return _spot_verdict(computed, units)
    if survey.grid == KNOWN and result is None:
        text = f"Read {name} at the marked place."
        sure = "Each reading says where the next tells most."
        caption = f"As remembered, until you read: {_contours(survey, units)}."
        return SurveyVerdict(None, text, "", sure, None, None, caption=caption)
    if result is None or result.map is None:
        missing = max(1, FEWEST_STATIONS - len(computed.read))
        off_line = ", not all on one line" if len(computed.read) >= FEWEST_STATIONS else ""
        return SurveyVerdict(
            None,
            f"{missing} more reading{'s' if missing > 1 else ''} for a first verdict on {name}.",
            "",
            f"A map needs at least four stations{off_line}.",
            None,
            None,
        )
    set_c = recommended_dial(computed, gain, moved_c).set_c
    usable = result.map.usable_after_correction
    # While it is open the chart shows what was read, afterwards what it will be.
    shift = result.corrected_set_c - survey.set_c if survey.finished_at else 0.0
    return SurveyVerdict(
        set_c=set_c,
        headline=_headline(
            name, survey, set_c, units, bool(computed.left) and not survey.finished_at
        ),
        rest=keep_inside(usable, survey, units) + _stays_off(usable, survey, units),
        how_sure=_how_sure(computed, usable, units),
        sure=usable.sure_probability,
        rectangle=large_enough(usable, survey),
        shift_c=shift,
        caption=_caption(survey, set_c, units),
    )


def jump_text(survey: Survey, before: Survey | None, units: Units) -> str:
    """That a level has jumped since the survey before, and what to doubt first; nothing where it
    has moved as platens do. The offsets from the dial are compared.
    """
    if before is None or survey.mean_true_c is None or before.mean_true_c is None:
        return ""
    moved = (survey.mean_true_c - survey.set_c) - (before.mean_true_c - before.set_c)
    days = (survey.taken_at - before.taken_at).days
    if abs(moved) < JUMP_K or days > JUMP_DAYS:
        return ""
    ago = f"{days} days ago" if days > 1 else "yesterday" if days else "earlier today"
    return (
        f"{difference_text(moved, units, sign=False)} {'hotter' if moved > 0 else 'colder'} than "
        f"{ago}: suspect the gun or the patch first. Read three places again before you touch "
        "the dial."
    )


def _spot_verdict(computed: Measured, units: Units) -> SurveyVerdict:
    """A spot check tells of drift; it makes no map."""
    survey, name = computed.survey, computed.survey.element.called
    if not computed.read:
        text, sure = f"Read the middle of {name}.", "One reading shows whether it has drifted."
        return SurveyVerdict(None, text, "", sure, None, None)
    read = temperature_text(computed.mean_true_c, units, 1)
    dial = temperature_text(survey.set_c, units)
    sure = (
        f"± {difference_text(computed.mean_uncertainty_c, units, 1, sign=False)}, dial at {dial}."
    )
    if survey.mean_true_c is not None:
        offset = difference_text(survey.mean_true_c - survey.set_c, units, 1)
        sure += f" By its map the whole platen is {offset} from the dial."
    return SurveyVerdict(None, f"The middle of {name} is at {read} true.", "", sure, None, None)


def progress(computed: Measured, units: Units) -> str:
    """While reading: does the verdict stand already, or how open is it."""
    mapped = computed.result.map if computed.result else None
    if mapped is None:
        return ""
    chance = mapped.probability_within
    tolerance = difference_text(computed.survey.tolerance_c, units, sign=False)
    is_known = computed.recalled is not None
    enough = mapped.next_point is None if is_known else is_decided(chance, len(computed.read))
    if not enough:
        sure = chance_text(chance)
        return f"Not decided yet: {sure} sure that the whole platen is within ± {tolerance} as set."
    if classify(chance) == "undecided":
        return f"Enough read: {open_text(computed, units)}"
    summary = "is within" if chance > 0.5 else "is not all within"
    return f"Decided: the platen {summary} ± {tolerance} as set. Finish, or read more."


def _contours(survey: Survey, units: Units) -> str:
    """How a chart's contours and hatching are read."""
    target, step = temperature_text(survey.target_c, units), units.symbol("difference")
    return f"contours in {step} from {target}, hatched out of tolerance"


def _caption(survey: Survey, set_c: float, units: Units) -> str:
    """Of which dial the chart's figures, contours and hatching speak."""
    parts = f"true temperatures, {_contours(survey, units)}"
    if survey.finished_at:
        return f"With the dial at {temperature_text(set_c, units)}: {parts}."
    now = temperature_text(survey.set_c, units)
    return f"As read, dial at {now}: {parts}. The corner marks show what is usable once corrected."


def _headline(name: str, survey: Survey, set_c: float, units: Units, unread: bool) -> str:
    shown = temperature_text(set_c, units)
    if unread:
        return f"So far: set {name} to {shown}."
    if abs(set_c - survey.set_c) < survey.element.press.resolution_c / 2:
        return f"Leave {name} at {shown}."
    return f"Set {name} to {shown}."


def keep_inside(usable: Any, survey: Survey, units: Units) -> str:
    """Where prints may go."""
    rectangle: Rectangle | None = usable.sure_rectangle
    tolerance = difference_text(survey.tolerance_c, units, sign=False)
    if rectangle is None:
        return f"No part of the platen is reliably within ± {tolerance}."
    if is_sliver(rectangle, survey):
        if usable.cold_spots or usable.hot_spots:
            return f"No part large enough for a print is reliably within ± {tolerance}."
        return f"Too uncertain to mark a part within ± {tolerance}: read more places."
    if is_doubtful(usable, survey):
        return f"The readings are not sure enough to mark where ± {tolerance} holds."
    if is_whole(rectangle, survey):
        return "Prints may go anywhere on it."
    return f"Keep prints inside the marked {rectangle_words(rectangle, units)}."


def rectangle_mm(rectangle: Rectangle) -> tuple[float, float]:
    """Width and height in mm, rounded down to 5 mm so that it is never too large."""
    return rectangle.width_mm // 5 * 5, rectangle.height_mm // 5 * 5


def rectangle_words(rectangle: Rectangle, units: Units) -> str:
    """`310 × 390 mm`, rounded down to 5 mm or half an inch so that it is never too large."""
    if units.length == "in":
        half_mm = MM_PER_INCH / 2
        sides = (rectangle.width_mm, rectangle.height_mm)
        return size_text(tuple(side // half_mm * half_mm for side in sides), units)
    return size_text(rectangle_mm(rectangle), units)


def _stays_off(usable: Usable, survey: Survey, units: Units) -> str:
    parts = []
    for spots, label in ((usable.cold_spots, "cold"), (usable.hot_spots, "hot")):
        parts += [(spot, label) for spot in spots[:MOST_SPOTS]]
    lines = [f" {_spot_words(s, w, survey, units)}" for s, w in parts]
    return "".join(lines)


def _spot_words(spot: ZoneExtreme, label: str, survey: Survey, units: Units) -> str:
    element = survey.element
    place = place_words(spot.x_mm / element.width_mm, spot.y_mm / element.height_mm)
    off = difference_text(spot.value_c - survey.target_c, units, sign=False)
    return f"The {place} stays {off} too {label}."


def _what_would_decide(computed: Measured, units: Units) -> str:
    """What all readings share keeps it open: the one act that settles it."""
    shared = difference_text(computed.mean_uncertainty_c, units, sign=False)
    gun = computed.survey.method in (Method.PAD, Method.PATCH)
    act = "compare the gun once with a contact probe" if gun else "check the instrument"
    return f"All readings may be off together by up to {shared}: {act}, or read more places."


def _how_sure(computed: Measured, usable: Usable, units: Units) -> str:
    survey = computed.survey
    tolerance = difference_text(survey.tolerance_c, units, sign=False)
    target = temperature_text(survey.target_c, units)
    count = len(computed.left)
    stations = "1 station is" if count == 1 else f"{count} stations are"
    left = f" {stations} still to be read." if count else ""
    if usable.sure_probability is None:
        return f"It needs a wider tolerance or a repair.{left}"
    chance = usable.sure_probability
    words = f"That gives {target} true within ± {tolerance} there, {chance_text(chance)} sure."
    if is_doubtful(usable, survey):
        words = _what_would_decide(computed, units)
    elif chance < SURE_ENOUGH:
        words = f"Not decided yet: only {chance_text(chance)} sure of {target} ± {tolerance} there."
    return words + left
