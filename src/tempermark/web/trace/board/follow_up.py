"""What a closed case leaves to do: pieces to look at again, other presses, a survey, the recipe."""

from dataclasses import dataclass
from datetime import datetime

from django.db.models import QuerySet
from django.utils import timezone

from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.web.kit.figures import temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.measure.press.state_words import due_words
from tempermark.web.measure.press.states import state_of
from tempermark.web.run.models import PieceOutcome, TestPress
from tempermark.web.run.pieces import queries as runs
from tempermark.web.trace.board.evidence import LastGood
from tempermark.web.trace.models import FaultCase

MOST_PIECES, MOST_ELSEWHERE = 50, 10
# A survey that is due within so many days is named.
SOON_DAYS = 7
# A second or a degree past a window is nothing (handbook 2, way of reasoning 1).
GRACE = 1.0


@dataclass(frozen=True)
class FollowUp:
    """Pieces at risk, the same on other presses, and words on the survey (empty: nothing due) and
    on what of the proof lay outside the recipe.
    """

    at_risk: list[TestPress]
    elsewhere: list[TestPress]
    survey: str
    outside: list[str]


def follow_up(record: FaultCase, last: LastGood | None, units: Units) -> FollowUp:
    """All of it for a closed case, temperatures in a person's unit; `last` good piece before it."""
    piece = record.test_press
    return FollowUp(
        list(pieces_at_risk(piece, last.piece if last else None, record.closed_at)),
        list(same_fault_elsewhere(piece)),
        survey_words(record),
        outside_recipe(record.proof, units) if record.proof else [],
    )


def pieces_at_risk(
    piece: TestPress, before: TestPress | None, until: datetime | None
) -> QuerySet[TestPress]:
    """Pieces of the same recipe on the same press between the last good one and a moment, that were
    not found faulty: they were pressed while it was off.
    """
    result = TestPress.objects.filter(
        element=piece.element,
        recipe__recipe=piece.recipe.recipe,
        step_number=piece.step_number,
        pressed_at__lte=until,
    ).exclude(pk=piece.pk)
    if before is not None:
        result = result.filter(pressed_at__gt=before.pressed_at)
    result = result.exclude(outcome=PieceOutcome.FAULTY).filter(proves=None)
    return result.select_related("blank").order_by("-pressed_at")[:MOST_PIECES]


def same_fault_elsewhere(piece: TestPress) -> QuerySet[TestPress]:
    """Recent pieces on other presses with the same symptoms and recipe."""
    symptoms = {mark.symptom for mark in piece.marks.all()}
    found = TestPress.objects.filter(
        marks__symptom__in=symptoms,
        marks__withdrawn_at=None,
        recipe__recipe=piece.recipe.recipe,
    ).exclude(element=piece.element)
    found = found.select_related("element__press", "blank").distinct()
    return found.order_by("-pressed_at")[:MOST_ELSEWHERE]


def survey_words(record: FaultCase) -> str:
    """Whether the press wants a survey: after what was found, or by its date."""
    press = record.test_press.element.press
    state = state_of(press)
    if any(shipped().causes[code].wants_survey for code in record.causes):
        return f"Survey {press.name} again once it is repaired: its old map no longer counts."
    if state.due_on is None:
        return f"{press.name} has never been surveyed, so its true temperature is not known."
    if (state.due_on - timezone.localdate()).days <= SOON_DAYS:
        return f"{press.name}: {due_words(state, timezone.localdate())}."
    return ""


def outside_recipe(proof: TestPress, units: Units) -> list[str]:
    """What of a good piece lay outside its recipe's window, in words."""
    version = proof.pressed_step
    found = []
    under = runs.under_art(proof)
    if under is not None and _beyond(under.mean_c, version.low_c, version.high_c):
        low, high = (temperature_text(c, units) for c in (version.low_c, version.high_c))
        found.append(f"{temperature_text(under.mean_c, units)} true instead of {low} to {high}")
    if _beyond(proof.dwell_s, version.low_s, version.high_s):
        found.append(f"{proof.dwell_s:g} s instead of {version.low_s:g} to {version.high_s:g} s")
    if "unknown" not in (proof.pressure, version.pressure) and proof.pressure != version.pressure:
        found.append(f"{proof.pressure} pressure instead of {version.pressure}")
    if proof.peel and version.peel and proof.peel != version.peel:
        found.append(f"peeled {proof.peel} instead of {version.peel}")
    return found


def _beyond(value: float, low: float, high: float) -> bool:
    return not low - GRACE <= value <= high + GRACE
