"""Lessons that hold: what of them goes into a request."""

from dataclasses import replace

from tempermark.core.pressing.closing import receiver_of
from tempermark.core.pressing.request import (
    PressRequest,
)
from tempermark.core.thermal.library.receivers import Receiver
from tempermark.core.thermal.result import dye
from tempermark.core.thermal.result.dye import LawKnown
from tempermark.core.thermal.result.learn import (
    HeatTaught,
)
from tempermark.web.heat.models import HEAT_SUBJECT, Lesson


def holding(subject: str) -> Lesson | None:
    """The lesson of a subject that holds."""
    return Lesson.objects.filter(subject=subject, withdrawn_at=None).first()


def law_of(receiver: Receiver, lesson: Lesson | None) -> tuple[dye.Law, LawKnown]:
    """The law a lesson holds; the surface's starting law without one."""
    if lesson is None:
        return receiver.law, receiver.known
    held = lesson.values
    law = dye.Law(held["rate_per_s"], held["activation_j_mol"])
    known = LawKnown(held["rate_share"], held["activation_sd_j_mol"], held["correlation"])
    return law, known


def with_lessons(request: PressRequest) -> PressRequest:
    """What is requested, with all that the shop has learned."""
    receiver = receiver_of(request)
    lesson = holding(receiver.code)
    request = _with_heat(request)
    if lesson is None:
        return request
    law, known = law_of(receiver, lesson)
    return replace(request, law=law, law_known=known)


def _with_heat(request: PressRequest) -> PressRequest:
    lesson = holding(HEAT_SUBJECT)
    if lesson is None:
        return request
    held = lesson.values
    return replace(
        request, contact_factor=held["contact_factor"], sheet_factor=held["sheet_factor"]
    )


def heat_values(taught: HeatTaught) -> dict[str, float]:
    """Factors as a lesson stores them."""
    names = ("contact_factor", "contact_share", "sheet_factor", "sheet_share")
    return {name: getattr(taught, name) for name in names}
