"""Facts of a case, for and against, each with where it came from."""

from tempermark.web.pressure.under import OTHER_THICKNESS_MM, PressureUnder
from tempermark.web.run.models import Mark, TestPress
from tempermark.web.trace.lot_facts import lot_denials, lot_facts
from tempermark.web.trace.models import FaultCase
from tempermark.web.trace.place_facts import place_facts
from tempermark.web.trace.recurring import recurring
from tempermark.web.trace.series import series_denials, series_facts
from tempermark.web.trace.stack_facts import stack_denials, stack_facts

# Where a fact of a case came from.
NOTED, ANSWERED, BY_PLACE = "noted with the piece", "answered here", "from the art's place"
BY_PRESSURE, BY_SERIES, BY_PIECES = "from the pressure map", "from the series", "from other pieces"
BY_STACK, BY_LOT = "from the stack", "from the lots"
COVERED = {"cover_parchment", "cover_plain_paper", "cover_ptfe", "no_cover"}


def _pressure_facts(piece: TestPress, pressed: PressureUnder) -> set[str]:
    """Facts that a pressure map and the last setting tell."""
    told = set()
    if pressed.weak_side:
        told.add("one_side_weaker_pull")
    if pressed.hollow:
        told.add("pad_worn")
    if _other_thickness(piece, pressed):
        told.add("thickness_changed_since_set")
    return told


def _other_thickness(piece: TestPress, pressed: PressureUnder) -> bool | None:
    """Whether the press was last set for another thickness; None where one is not known."""
    mine, was = piece.blank.thickness_mm, pressed.thickness_mm
    return None if mine is None or was is None else abs(mine - was) >= OTHER_THICKNESS_MM


def sourced_facts(case: FaultCase, pressed: PressureUnder, others: list[Mark]) -> dict[str, str]:
    """What was noted, answered, or follows from where art and marks lay and from `others`, marks of
    other pieces: each fact with where it came from. A person's answer leads over what is computed.
    """
    piece = case.test_press
    denied = {*piece.not_facts, *case.not_facts}
    told = dict.fromkeys(piece.facts, NOTED) | dict.fromkeys(case.facts, ANSWERED)
    computed = dict.fromkeys(_pressure_facts(piece, pressed), BY_PRESSURE)
    computed |= dict.fromkeys(series_facts(piece), BY_SERIES)
    computed |= dict.fromkeys(_compatible(stack_facts(piece), told), BY_STACK)
    computed |= dict.fromkeys(lot_facts(piece), BY_LOT)
    follows_one = recurring(piece, others)
    if follows_one and not {"follows_platen", "follows_blank"} & {*told, *denied}:
        computed[follows_one] = BY_PIECES
    computed |= {fact: BY_PLACE for fact, so in place_facts(piece).items() if so}
    return {fact: source for fact, source in computed.items() if fact not in denied} | told


def denied_facts(piece: TestPress, pressed: PressureUnder) -> dict[str, str]:
    """Facts that are computed not to hold, each with where that came from."""
    found = {fact: BY_PLACE for fact, so in place_facts(piece).items() if not so}
    if pressed.is_even:
        found |= dict.fromkeys(("one_side_weaker_pull", "pad_worn"), BY_PRESSURE)
    if _other_thickness(piece, pressed) is False:
        found["thickness_changed_since_set"] = BY_PRESSURE
    found |= dict.fromkeys(stack_denials(piece), BY_STACK)
    found |= dict.fromkeys(series_denials(piece), BY_SERIES)
    return found | dict.fromkeys(lot_denials(piece), BY_LOT)


def _compatible(computed: set[str], told: dict) -> set[str]:
    """Where a person named the cover, the stack's own is not added to it."""
    return computed - COVERED if COVERED & set(told) else computed
