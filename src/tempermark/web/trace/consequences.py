"""What rests on a piece: its proven setting, the lesson and the rates it helped to teach, the case
it closed. Compared before and after a correction, in sentences.
"""

from dataclasses import dataclass

from tempermark.web.kit.templatetags.figures import temperature_text
from tempermark.web.run.models import Outcome, TestPress
from tempermark.web.run.proven import Proven, proven_on
from tempermark.web.setup import learning, lessons
from tempermark.web.setup.models import RecipeVersion
from tempermark.web.setup.queries import current_version
from tempermark.web.trace.actions import reopen_case
from tempermark.web.trace.knowledge import shop_knowledge
from tempermark.web.trace.models import FaultCase

# Rates that moved by less than this share are the same to anybody.
SAME_RATE = 0.02


@dataclass(frozen=True)
class Resting:
    """What rests on a piece: proven settings of its recipe by element, rates by cause."""

    version: RecipeVersion
    proven: dict[int, Proven]
    rates: dict[str, float]


def resting_on(piece: TestPress) -> Resting:
    """What rests on a piece now."""
    version = current_version(piece.recipe.recipe) or piece.recipe
    base = shop_knowledge().base
    rates = {code: cause.prior for code, cause in base.causes.items()}
    return Resting(version, proven_on(version), rates)


def computed_again(user, piece: TestPress, before: Resting, why: str, unit: str) -> list[str]:
    """Compute again what rested on a piece, after it was changed; one sentence for each thing."""
    said = _cases_again(user, piece)
    after = resting_on(piece)
    said += _proven_words(piece, before, after, unit)
    if after.version.recipe_id != before.version.recipe_id:
        moved = Resting(before.version, proven_on(before.version), after.rates)
        said += _proven_words(piece, before, moved, unit)
    return said + _lesson_words(user, piece, why) + _rate_words(before, after)


def _cases_again(user, piece: TestPress) -> list[str]:
    """Cases that a piece closed are open again where it is no good piece any more."""
    if piece.withdrawn_at is None and piece.outcome == Outcome.GOOD:
        return []
    said = []
    for case in FaultCase.objects.filter(proof=piece).exclude(closed_at=None):
        reopen_case(user, case)
        said.append(f"Case {case.pk} was closed with this piece as its proof: it is open again.")
    return said


def _proven_words(piece: TestPress, before: Resting, after: Resting, unit: str) -> list[str]:
    said = []
    for pk in sorted({*before.proven, *after.proven}):
        old, new = before.proven.get(pk), after.proven.get(pk)
        if after.version.recipe_id != before.version.recipe_id:
            old = None
        if old == new:
            continue
        place = piece.element.press.name if pk == piece.element_id else "the other press"
        subject = f"Proven setting of {after.version.recipe.name} on {place}"
        if new is None:
            said.append(f"{subject}: none any more.")
        else:
            was = f" (it was {_setting(old, unit)})" if old else ""
            said.append(f"{subject}: now {_setting(new, unit)}{was}.")
    return said


def _setting(proven: Proven, unit: str) -> str:
    pieces = f"{proven.count} good piece{'s' if proven.count > 1 else ''}"
    true = temperature_text(proven.true_c, unit, 1)
    return f"{true} true for {proven.dwell_s:g}\u00a0s, from {pieces}"


def _lesson_words(user, piece: TestPress, why: str) -> list[str]:
    if not piece.scores and piece.density is None:
        return []
    lesson = learning.holding(learning.surface_of_piece(piece))
    if lesson is None or piece.pressed_at > lesson.at:
        return []
    again = lessons.compute_lesson_again(user, lesson, why)
    if again is None:
        return [f"The lesson on {lesson.label} rested on this piece alone: it holds no more."]
    pieces = f"{again.pieces} piece{'s' if again.pieces > 1 else ''}"
    return [f"The lesson on {lesson.label} was computed again, from {pieces}."]


def _rate_words(before: Resting, after: Resting) -> list[str]:
    causes = shop_knowledge().base.causes
    moved = [
        f"{causes[code].label} {100 * after.rates[code]:.1f}\u00a0%, was {100 * rate:.1f}\u00a0%"
        for code, rate in before.rates.items()
        if abs(after.rates[code] - rate) > SAME_RATE * rate
    ]
    if not moved:
        return []
    return [f"How often causes occur here was computed again: {'; '.join(moved[:3])}."]
