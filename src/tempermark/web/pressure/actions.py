"""Changes to what is known of a press's pressure: permission, transaction and record together."""

from dataclasses import asdict
from typing import Any
from uuid import UUID, uuid5

import numpy as np
from django.db import transaction
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.core.pressure.press.knob import learn_knob
from tempermark.core.recipes.blank_types import blank_types
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_be_author, must_lead, must_work
from tempermark.web.kit.records.audit import record
from tempermark.web.kit.records.withdrawals import correct
from tempermark.web.presses.models import Press
from tempermark.web.pressure import mapping, queries
from tempermark.web.pressure.models import (
    ContactReading,
    KnobLesson,
    LeanReading,
    PressureState,
    RaisedPart,
    WearNote,
)
from tempermark.web.pressure.setting.setting import Advice
from tempermark.web.recipes.models import Blank


@transaction.atomic
def learn(user: User, press: Press, shims: list[tuple[float, float]]) -> KnobLesson:
    """Learn a knob from [mm, turns clockwise]; the positions noted before no longer count.

    Raises InputError when nothing follows from them.
    """
    must_work(user)
    lesson = KnobLesson.objects.create(press=press, by=user, **_taught(shims))
    _forget_positions(press)
    record(user, "learned knob", press, lesson=lesson.pk, lift_mm=lesson.lift_mm_per_turn)
    return lesson


def _taught(shims: list[tuple[float, float]]) -> dict[str, Any]:
    """What shims teach of a knob, by field of a session; InputError when nothing follows."""
    table = np.array(shims, float).reshape(-1, 2)
    knob = learn_knob(table[:, 0], table[:, 1])
    return {
        "shims": [list(map(float, row)) for row in shims],
        "lift_mm_per_turn": knob.lift_mm_per_turn,
        "lift_sd_mm": knob.lift_sd_mm,
        "tightens": knob.tightens,
        "zero_clockwise": knob.zero_clockwise,
        "zero_sd_turns": knob.zero_sd_turns,
    }


@transaction.atomic
def correct_session(
    user: User, lesson: KnobLesson, shims: list[tuple[float, float]], why: str
) -> KnobLesson:
    """A session's shims as they should have been noted; what was there is kept. InputError when
    nothing follows from them.
    """
    must_be_author(user, lesson.by_id)
    was_holding = queries.lesson(lesson.press) == lesson
    if correct(user, lesson, _taught(shims), why) and was_holding:
        _forget_positions(lesson.press)
    return lesson


@transaction.atomic
def note_lean(user: User, press: Press, kg: float) -> LeanReading:
    """What a scale under a hand plate showed of this person."""
    must_work(user)
    reading = LeanReading.objects.create(press=press, by=user, kg=kg)
    record(user, "noted lean", press, kg=kg)
    return reading


@transaction.atomic
def withdraw_lean(user: User, reading: LeanReading) -> None:
    """A reading that was wrong: its own person's, or by a lead."""
    must_work(user)
    if reading.by_id != user.pk:
        must_lead(user)
    reading.withdrawn_at = timezone.now()
    reading.save(update_fields=["withdrawn_at"])
    record(user, "withdrew lean", reading.press, kg=reading.kg)


@transaction.atomic
def withdraw_lesson(user: User, lesson: KnobLesson, why: str) -> None:
    """A session that was wrong; what it taught no longer counts."""
    must_be_author(user, lesson.by_id)
    was_holding = queries.lesson(lesson.press) == lesson
    if lesson.withdraw(user, why) and was_holding:
        _forget_positions(lesson.press)


def _forget_positions(press: Press) -> None:
    """Positions count from another zero now: where the knob stands must be noted anew."""
    noted = press.pressure_states.filter(taken_back_at=None).exclude(position_turns=None)
    noted.update(taken_back_at=timezone.now())


@transaction.atomic
def add_reading(user: User, press: Press, fields: dict[str, Any]) -> ContactReading:
    """A contact pressure read by load cell or film; InputError when the curve would fall."""
    must_work(user)
    reading = ContactReading.objects.create(press=press, by=user, **fields)
    if reading.figure is not None:
        mapping.scale_of(press)
    record(user, "contact reading", press, kpa=reading.contact_kpa)
    return reading


@transaction.atomic
def withdraw_reading(user: User, reading: ContactReading) -> None:
    """A reading that was wrong."""
    must_work(user)
    reading.withdrawn_at = timezone.now()
    reading.save(update_fields=["withdrawn_at"])
    record(user, "withdrew contact reading", reading.press, reading=reading.pk)


@transaction.atomic
def set_pressure(user: User, advice: Advice, key: UUID) -> PressureState:
    """Note that a press was set as advised; the same form sent again is the same entry."""
    must_work(user)
    if not advice.may_be_noted:
        raise InputError.single(None, advice.refused or "There is nothing to record yet.")
    load = advice.load
    state, row = PressureState.objects.get_or_create(
        entry_key=uuid5(key, f"{advice.press.pk}"),
        defaults={
            "press": advice.press,
            "by": user,
            "blank": load.blank,
            "layers": load.layers,
            "pillow_mm": load.pillow_mm,
            "stack_mm": load.stack_mm,
            "wanted": load.wanted,
            "position_turns": advice.position_turns,
            "line_kpa": advice.line_kpa,
            "figure": advice.figure,
        },
    )
    if row:
        record(user, "set pressure", advice.press, state=state.pk, stack_mm=load.stack_mm)
    return state


@transaction.atomic
def take_back_state(user: User, press: Press) -> PressureState | None:
    """The last noted setting never was; the one before it holds again."""
    must_work(user)
    state = queries.state(press)
    if state is not None:
        state.taken_back_at = timezone.now()
        state.save(update_fields=["taken_back_at"])
        record(user, "took back pressure", press, state=state.pk)
    return state


@transaction.atomic
def note_wear(user: User, press: Press, fields: dict[str, Any]) -> WearNote:
    """A hardness, closings made elsewhere, or a word."""
    must_work(user)
    note = WearNote.objects.create(press=press, by=user, **fields)
    record(user, "noted wear", press, part=note.part)
    return note


@transaction.atomic
def add_raised(user: User, blank: Blank, fields: dict[str, Any]) -> RaisedPart:
    """A seam, button, zip or hem drawn on a blank."""
    must_work(user)
    part = RaisedPart.objects.create(blank=blank, **fields)
    record(user, "drew raised part", blank, part=part.pk)
    return part


@transaction.atomic
def add_usual_raised(user: User, blank: Blank) -> int:
    """What stands up on a blank of its shipped kind, drawn on it; how many parts. None where it has
    some already.
    """
    must_work(user)
    kind = blank_types().get(blank.like)
    if kind is None or blank.raised_parts.exists():
        return 0
    parts = [RaisedPart(blank=blank, **asdict(part)) for part in kind.raised]
    RaisedPart.objects.bulk_create(parts)
    if parts:
        record(user, "drew usual raised parts", blank, parts=len(parts))
    return len(parts)


@transaction.atomic
def remove_raised(user: User, part: RaisedPart) -> None:
    """Take it off the drawing."""
    must_work(user)
    record(user, "removed raised part", part.blank, kind=part.kind)
    part.delete()
