"""The trace board's verdict in words."""

from dataclasses import dataclass
from urllib.parse import urlencode

from tempermark.core.diagnosis.engine import Diagnosis, RankedCause, SpokenAgainst
from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.vocabulary.sightings import PLACE_WORDS
from tempermark.web.kit.figures import chance_text
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import say
from tempermark.web.trace.models import FaultCase

LIKELY = 0.6
# A second cause this close to the first keeps the case undecided.
CLOSE = 0.5


@dataclass(frozen=True)
class Headline:
    """The board's sentence and what follows it."""

    text: str
    rest: str
    decided: bool


def headline(case: FaultCase, diagnosis: Diagnosis, units: Units) -> Headline:
    """What it most likely is, or what has to be told apart."""
    causes = diagnosis.causes
    if case.closed_at is not None:
        return _found(case)
    if diagnosis.separate or not causes:
        return _without_cause(diagnosis)
    first = causes[0]
    if diagnosis.normal_appearance:
        return Headline("This is normal: not a fault.", say(first.remedy.text, units), True)
    name = case.test_press.element.press.name
    if first.probability < LIKELY:
        labels = [c.cause.label for c in causes[:2]]
        return Headline(f"Not decided yet: {_either(labels)}.", _settle(diagnosis), False)
    place = _place(case, first)
    also = [c.cause.label.lower() for c in causes[1:3] if c.probability >= CLOSE]
    rest = f"Perhaps also: {', '.join(also)}. {_settle(diagnosis)}" if also else ""
    return Headline(f"{name}{place}: {_lower(first.cause.label)}.", rest, not also)


def _without_cause(diagnosis: Diagnosis) -> Headline:
    """Where no cause leads: several faults at once, or none known that would explain it."""
    if diagnosis.separate:
        return Headline(
            f"{len(diagnosis.separate)} marks that no one cause explains.",
            "They are traced one at a time, so that their reasons are not mixed.",
            False,
        )
    if diagnosis.spoken_against:
        return Headline("What is known speaks against every cause of this.", "", False)
    return Headline("Nothing known here explains this mark.", "", False)


def _found(case: FaultCase) -> Headline:
    """What a closed case was found to be, whatever is computed for it now."""
    labels = [_lower(shipped().causes[code].label) for code in case.causes]
    if any(shipped().causes[code].normal for code in case.causes):
        return Headline("This was normal: not a fault.", "", True)
    return Headline(f"{case.test_press.element.press.name}: {' and '.join(labels)}.", "", True)


# A step that moves every chance by less moves nothing worth a line.
MOVED = 0.05
MOST_MOVED = 2


def chances(diagnosis: Diagnosis) -> dict[str, float]:
    """The chance of every cause that is listed or spoken against."""
    listed: list[RankedCause | SpokenAgainst] = [*diagnosis.causes, *diagnosis.spoken_against]
    return {one.cause.code: round(one.probability, 4) for one in listed}


def moved(case: FaultCase, diagnosis: Diagnosis) -> str:
    """What the last check or answer moved, in a sentence; empty before the first."""
    if not case.last_step or case.closed_at is not None:
        return ""
    before, after = case.last_step["before"], chances(diagnosis)
    shifts = {code: after.get(code, 0.0) - before.get(code, 0.0) for code in {**after, **before}}
    largest = sorted(shifts, key=lambda code: (-abs(shifts[code]), code))[:MOST_MOVED]
    found = [
        f"{_lower(shipped().causes[code].label)} {chance_text(before.get(code, 0.0))} → "
        f"{chance_text(after.get(code, 0.0))}"
        for code in largest
        if abs(shifts[code]) >= MOVED and code in shipped().causes
    ]
    what = case.last_step["what"]
    return f"After “{what}”: {'; '.join(found) if found else 'hardly anything moved'}."


def _lower(label: str) -> str:
    return label[:1].lower() + label[1:]


def _either(labels: list[str]) -> str:
    return " or ".join([labels[0], *(_lower(label) for label in labels[1:])])


def _place(case: FaultCase, first: RankedCause) -> str:
    """The mark's place, for causes that sit on one part of the platen."""
    if not first.cause.at_one_place:
        return ""
    placed = [m.where for m in case.test_press.marks.all() if m.where not in ("all", "random")]
    return f", {PLACE_WORDS[placed[0]].removeprefix('at the ')}" if placed else ""


def _settle(diagnosis: Diagnosis) -> str:
    if not diagnosis.next_checks:
        return "Press once more with one thing changed."
    check = diagnosis.next_checks[0].check
    blanks = (
        f", {check.blanks} blank{'s' if check.blanks > 1 else ''}" if check.blanks else ", no blank"
    )
    return f"{check.label} would settle most: {check.minutes:g} min{blanks}."


def try_link(case: FaultCase, ranked: RankedCause) -> str:
    """Query of the link that logs a test press with this remedy's settings."""
    settings = ranked.remedy.settings
    query = {"again": case.test_press_id, "cause": ranked.cause.code}
    if "set_c" in settings:
        query["set_c"] = settings["set_c"]
    if "time_s" in settings:
        query["dwell_s"] = settings["time_s"]
    if "pressure" in settings:
        query["pressure"] = settings["pressure"]
    return urlencode(query)
