"""What rests on a piece or on a press's surveys: proven settings, lessons, rates, cases that a
piece closed. Compared before and after a correction, in sentences.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from tempermark.web.accounts.models import User
from tempermark.web.heat.lessons import held, lessons, trials
from tempermark.web.heat.models import Lesson
from tempermark.web.kit.figures import temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.presses.models import Element
from tempermark.web.recipes.cards.queries import current_version
from tempermark.web.recipes.models import RecipeVersion
from tempermark.web.run.models import PieceOutcome, TestPress
from tempermark.web.run.pieces.proven import Proven, proven_on
from tempermark.web.trace.board.actions import reopen_case
from tempermark.web.trace.knowledge.shop import shop_knowledge
from tempermark.web.trace.models import FaultCase

# Rates that moved by less than this share are the same to anybody.
SAME_RATE = 0.02


@dataclass(frozen=True)
class Resting:
    """What rests on something: proven settings by recipe and element, and rates by cause."""

    versions: tuple[RecipeVersion, ...]
    proven: dict[tuple[int, int], Proven]
    rates: dict[str, float]


def resting_on(piece: TestPress) -> Resting:
    """What rests on a piece now."""
    return _resting([current_version(piece.recipe.recipe) or piece.recipe])


def resting_on_element(element: Element) -> Resting:
    """What rests on an element's surveys now: settings proven on it."""
    good = element.test_presses.filter(outcome=PieceOutcome.GOOD).select_related("recipe__recipe")
    recipes = {piece.recipe.recipe_id: piece.recipe.recipe for piece in good}
    versions = (current_version(recipe) for recipe in recipes.values())
    return _resting([version for version in versions if version is not None])


def _resting(versions: list[RecipeVersion]) -> Resting:
    base = shop_knowledge().base
    return Resting(
        tuple(versions),
        {(v.recipe_id, pk): found for v in versions for pk, found in proven_on(v).items()},
        {code: cause.prior for code, cause in base.causes.items()},
    )


def after_piece(user: User, piece: TestPress, before: Resting, why: str, units: Units) -> list[str]:
    """Compute again what rested on a piece, after it was changed; one sentence for each thing."""
    own = current_version(piece.recipe.recipe) or piece.recipe
    others = [v for v in before.versions if v.recipe_id != own.recipe_id]
    sentence = _cases_again(user, piece)
    after = _resting([own, *others])
    sentence += _proven_words(before, after, units)
    if piece.scores or piece.density is not None:
        surface = trials.surface_of_piece(piece)
        sentence += _lesson_words(user, {surface}, piece.pressed_at, why)
    return sentence + _rate_words(before, after)


def after_surveys(
    user: User, elements: Iterable[Element], before: list[Resting], why: str, units: Units
) -> list[str]:
    """Compute again what rested on the surveys of elements, after one was changed."""
    sentence, surfaces, first = [], set(), None
    for element, was in zip(elements, before, strict=True):
        sentence += _proven_words(was, resting_on_element(element), units)
        scored = element.test_presses.exclude(scores={}, density=None)
        for piece in scored.select_related("blank", "recipe__recipe"):
            surfaces.add(trials.surface_of_piece(piece))
            first = min(first or piece.pressed_at, piece.pressed_at)
    return sentence + (_lesson_words(user, surfaces, first, why) if first else [])


def _cases_again(user: User, piece: TestPress) -> list[str]:
    """Cases that a piece closed are open again where it is no good piece any more."""
    if piece.withdrawn_at is None and piece.outcome == PieceOutcome.GOOD:
        return []
    sentences = []
    for case in FaultCase.objects.filter(proof=piece).exclude(closed_at=None):
        reopen_case(user, case)
        sentences.append(
            f"Case {case.pk} was closed with this piece as its proof: it is open again."
        )
    return sentences


def _proven_words(before: Resting, after: Resting, units: Units) -> list[str]:
    sentences = []
    names = {v.recipe_id: v.recipe.name for v in (*before.versions, *after.versions)}
    presses = dict(Element.objects.values_list("pk", "press__name"))
    known = {v.recipe_id for v in before.versions}
    for recipe, element in sorted({*before.proven, *after.proven}):
        old, new = (one.proven.get((recipe, element)) for one in (before, after))
        if recipe not in known and old is None and new is None:
            continue
        if old and new and _setting(old, units) == _setting(new, units):
            continue
        subject = f"Proven setting of {names[recipe]} on {presses[element]}"
        if new is None:
            sentences.append(f"{subject}: none any longer.")
        else:
            was = f" It was {_setting(old, units)}." if old else ""
            sentences.append(f"{subject}: now {_setting(new, units)}.{was}")
    return sentences


def _setting(proven: Proven, units: Units) -> str:
    pieces = f"{proven.count} good piece{'s' if proven.count > 1 else ''}"
    true = temperature_text(proven.true_c, units, 1)
    return f"{true} true for {proven.dwell_s:g}\u00a0s, from {pieces}"


def _lesson_words(user: User, surfaces: set[str], since: datetime, why: str) -> list[str]:
    """Lessons that pieces of some surfaces, pressed since a moment, helped to teach."""
    sentences = []
    for lesson in Lesson.objects.filter(subject__in=surfaces, withdrawn_at=None, at__gte=since):
        if held.holding(lesson.subject) != lesson:
            continue
        again = lessons.compute_lesson_again(user, lesson, why)
        if again is None:
            sentences.append(
                f"No piece teaches {lesson.label} any longer: its lesson no longer counts."
            )
        else:
            pieces = f"{again.pieces} piece{'s' if again.pieces > 1 else ''}"
            sentences.append(f"The lesson on {lesson.label} was computed again, from {pieces}.")
    return sentences


def _rate_words(before: Resting, after: Resting) -> list[str]:
    causes = shop_knowledge().base.causes
    moved = [
        f"{causes[code].label} {100 * after.rates[code]:.1f}\u00a0%, was {100 * rate:.1f}\u00a0%"
        for code, rate in before.rates.items()
        if abs(after.rates[code] - rate) > SAME_RATE * rate
    ]
    if not moved:
        return []
    return [f"The rates of causes were computed again: {'; '.join(moved[:3])}."]
