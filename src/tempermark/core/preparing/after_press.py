"""What is done once the press has opened: peel, press again, cool, touch, pack, rest, wash.

Source: handbook 1 §5 “Peel”, “Opening”, §6; the waits come from how this piece cools
(cooling_places.py), at its slow end: a clock for a bare hand errs to the long side.
"""

from collections.abc import Iterator

from tempermark.core.phrases import Text, phrase, rough_wait_text, temperature
from tempermark.core.preparing.checklist import PieceToPrepare, PreparationLine
from tempermark.core.preparing.heat.cooling_places import (
    BRITTLE,
    COLD_SHOCK,
    PACK_C,
    PEEL_WARM_C,
    CoolingPlace,
    LeavingPiece,
    cooling_time,
    places_for,
)
from tempermark.core.preparing.waits import Wait
from tempermark.core.recipes.steps import RecipeStep
from tempermark.core.thermal.cooling import TOUCH_C

# First wash after this long (handbook 1 §6), s.
FIRST_WASH_S = 24 * 3600.0
PEEL_AT_C = {"warm": PEEL_WARM_C, "cold": PACK_C}


def after_lines(
    piece: PieceToPrepare, leaving: LeavingPiece | None, room_c: float
) -> list[PreparationLine]:
    """The lines after the main press, in their order; waits in a room of °C."""
    steps = piece.sheet.steps
    later = list(enumerate(steps))[steps.index(piece.sheet.main) + 1 :]
    found: list[PreparationLine] = []
    for number, step in later:
        found += _of_step(piece, leaving, room_c, number, step)
    if not any(step.kind == "cool" for _, step in later) and not piece.is_cloth:
        found += _cooling(piece, leaving, room_c, "cool", "", "")
    return found


def _of_step(
    piece: PieceToPrepare,
    leaving: LeavingPiece | None,
    room_c: float,
    number: int,
    step: RecipeStep,
) -> Iterator[PreparationLine]:
    code, do = f"step-{number}", step.do or f"{step.name.capitalize()}."
    cautions = " ".join(step.cautions)
    if step.kind == "cool":
        yield from _cooling(piece, leaving, room_c, code, do, cautions)
        return
    if step.kind == "peel":
        waits = _peel_waits(piece, leaving, room_c, step.peel)
        because = step.look_for or PEEL_REASONS.get(step.peel, "")
        yield PreparationLine(code, do, because, cautions or PEEL_CAUTION, choices=waits)
        return
    waits = tuple(Wait(step.name, sum(step.time_s) / 2) for _ in (0,) if step.time_s)
    if step.kind == "wash_test" and not waits:
        waits = (Wait("first wash", FIRST_WASH_S),)
    if step.is_heated:
        cautions = cautions or "Platen and piece burn at a touch: gloves."
    window = step.temperature_c if step.is_heated else None
    yield PreparationLine(code, do, step.look_for, cautions, waits=waits, window_c=window)


PEEL_REASONS = {
    "hot": "A transfer that cools on the piece sticks; one that drags on it ghosts.",
    "warm": "Hotter the film comes up with its carrier, colder the carrier holds on.",
    "cold": "The film holds only once it is cold; a cool metal surface speeds it.",
}
PEEL_CAUTION = "The piece is hot: gloves, and a tool for the tape."


def _peel_waits(
    piece: PieceToPrepare, leaving: LeavingPiece | None, room_c: float, peel: str
) -> tuple[Wait, ...]:
    """Until a warm or a cold peel, by where the piece is laid."""
    to_c = PEEL_AT_C.get(peel)
    if to_c is None or leaving is None:
        return ()
    return _waits(piece, leaving, room_c, to_c, f"peel {peel}")


def _cooling(
    piece: PieceToPrepare,
    leaving: LeavingPiece | None,
    room_c: float,
    code: str,
    do: str,
    cautions: str,
) -> Iterator[PreparationLine]:
    """Until a hand may hold it, and until it may be stacked and packed."""
    if leaving is None:
        if do:
            yield PreparationLine(code, do, "", cautions)
        return
    where = _places(piece)
    because: Text = phrase(
        "It leaves the press at about {start}; below {limit} a bare hand may hold it.",
        start=temperature(leaving.start_c, 0),
        limit=temperature(TOUCH_C, 0),
    )
    shock = COLD_SHOCK if piece.blank.kind in BRITTLE else ""
    caution = cautions or f"{where[0].caution or shock} Gloves until the clock rings.".strip()
    yield PreparationLine(
        code,
        do or f"Cool it {where[0].label}.",
        because,
        caution,
        choices=_waits(piece, leaving, room_c, TOUCH_C, "touch-safe"),
    )
    packed = cooling_time(leaving, where[0], PACK_C, room_c)
    if packed is not None and packed.high_s > 0:
        yield PreparationLine(
            "pack",
            "Stack and pack it once it is cold.",
            phrase(
                "Stacked warm, prints give their image on to what lies on them: below {limit} "
                f"after {rough_wait_text(packed.low_s)} to {rough_wait_text(packed.high_s)}.",
                limit=temperature(PACK_C, 0),
            ),
            waits=(Wait("packable", packed.high_s, low_s=packed.low_s),),
        )


def _waits(
    piece: PieceToPrepare, leaving: LeavingPiece, room_c: float, to_c: float, name: str
) -> tuple[Wait, ...]:
    """One wait for each place where the piece may be laid, at its slow end."""
    found = []
    for place in _places(piece):
        time = cooling_time(leaving, place, to_c, room_c)
        if time is not None and time.high_s >= 1:
            found.append(Wait(f"{name} {place.label}", time.high_s, low_s=time.low_s))
    return tuple(found)


def _places(piece: PieceToPrepare) -> list[CoolingPlace]:
    return places_for(piece.blank.kind, piece.blank.kind == "plastic")
