"""Facts of a case, for and against, each with where it came from; every source is asked once."""

from dataclasses import dataclass

from tempermark.core.constants import OTHER_THICKNESS_MM
from tempermark.web.pressure.maps.under import PressureUnder
from tempermark.web.run.models import Mark, TestPress
from tempermark.web.trace.facts.lots import lot_facts
from tempermark.web.trace.facts.place import place_facts
from tempermark.web.trace.facts.print import print_facts
from tempermark.web.trace.facts.recurring import recurring
from tempermark.web.trace.facts.series import series_facts
from tempermark.web.trace.facts.stack import stack_facts
from tempermark.web.trace.models import FaultCase

# Where a fact of a case came from.
NOTED, ANSWERED, BY_PLACE = "logged with the piece", "answered here", "from the art's place"
BY_PRESSURE, BY_SERIES, BY_PIECES = "from the pressure map", "from the series", "from other pieces"
BY_STACK, BY_LOT, BY_PRINT = "from the stack", "from the lots", "from the print settings"
COVERED = {"cover_parchment", "cover_plain_paper", "cover_ptfe", "no_cover"}


@dataclass(frozen=True)
class SourcedFacts:
    """Facts that hold and facts that are computed not to, each with where it came from."""

    held: dict[str, str]
    denied: dict[str, str]


def sourced_facts(
    case: FaultCase, pressed: PressureUnder, others: list[Mark], before: TestPress | None
) -> SourcedFacts:
    """What was noted, answered, or follows from where art and marks lay, from `others` (marks of
    other pieces) and from the last good piece `before`. A person's answer leads over what is
    computed.
    """
    piece = case.test_press
    noted = dict.fromkeys(piece.facts, NOTED) | dict.fromkeys(case.facts, ANSWERED)
    refused = {*piece.not_facts, *case.not_facts}
    held: dict[str, str] = {}
    denied: dict[str, str] = {}
    for source, found in (
        (BY_PLACE, place_facts(piece)),
        (BY_PRESSURE, _pressure_facts(piece, pressed)),
        (BY_STACK, _compatible(stack_facts(piece), noted)),
        (BY_SERIES, series_facts(piece)),
        (BY_LOT, lot_facts(piece, before)),
        (BY_PRINT, print_facts(piece)),
        (BY_PIECES, _recurrence(piece, others, {*noted, *refused})),
    ):
        for fact, is_so in found.items():
            (held if is_so else denied)[fact] = source
    held = {fact: source for fact, source in held.items() if fact not in refused} | noted
    return SourcedFacts(held, {fact: s for fact, s in denied.items() if fact not in held})


def _pressure_facts(piece: TestPress, pressed: PressureUnder) -> dict[str, bool]:
    """What a pressure map and the last setting tell."""
    found: dict[str, bool] = {}
    if pressed.is_even:
        found |= {"one_side_weaker_pull": False, "pad_worn": False}
    if pressed.weak_side:
        found["one_side_weaker_pull"] = True
    if pressed.hollow:
        found["pad_worn"] = True
    mine, was = piece.blank.thickness_mm, pressed.thickness_mm
    if mine is not None and was is not None:
        found["thickness_changed_since_set"] = abs(mine - was) >= OTHER_THICKNESS_MM
    return found


def _recurrence(piece: TestPress, others: list[Mark], known: set[str]) -> dict[str, bool]:
    """Whether the marks follow the platen or the blank, where nobody said either."""
    follows = recurring(piece, others)
    return {} if follows is None or {"follows_platen", "follows_blank"} & known else {follows: True}


def _compatible(found: dict[str, bool], noted: dict[str, str]) -> dict[str, bool]:
    """Where a person named the cover, the stack's own is not added to it."""
    if not COVERED & set(noted):
        return found
    return {fact: is_so for fact, is_so in found.items() if not is_so or fact not in COVERED}
