"""A recipe on the presses of the room: which take it, what to set on each, what is asked."""

from dataclasses import dataclass
from typing import Any

from django.db.models import QuerySet
from django.http import Http404
from django.utils import timezone

from tempermark.web.heat.models import LessonRequest
from tempermark.web.measure.press.press_temperature import DialAdvice, press_temperature
from tempermark.web.presses.models import Element, ElementRole, PressKind
from tempermark.web.recipes.blanks.takes import takes
from tempermark.web.recipes.cards.queries import current_versions
from tempermark.web.recipes.models import RecipeVersion
from tempermark.web.run.models import PieceOutcome, TestPress
from tempermark.web.run.pieces.proven import Proven, proven_on

# The kind of press a kind of blank, or one of the library's, has of its own.
PRESS_FOR_BLANK = {"cap_peak": PressKind.HANDHELD, "cap": PressKind.CAP}
# So many good pieces say that a press is the recipe's own; more are not counted.
ENOUGH_GOOD = 50


def open_requests() -> QuerySet[LessonRequest]:
    """What technicians asked a lead to accept, newest first."""
    return LessonRequest.objects.filter(answered_at=None).select_related("by")


@dataclass(frozen=True)
class RecipeOnPress:
    """A recipe on an element: the dial for the middle of its window, and for what is proven."""

    element: Element
    aim_c: float
    advice: DialAdvice | None
    proven: Proven | None
    proven_dial: DialAdvice | None


def elements_for(version: RecipeVersion) -> list[Element]:
    """Elements in use that take a recipe's kind of blank from above: those with the most good
    pieces of it first, then those in a press made for it, then by their place on the floor.
    """
    recipe = version.recipe
    good = good_pieces(version)
    elements = Element.objects.filter(taken_out_on=None).select_related("press")
    elements = elements.exclude(role=ElementRole.LOWER)
    own_kind = PRESS_FOR_BLANK.get(version.blank_like) or PRESS_FOR_BLANK.get(recipe.blank_kind)
    ordered: Any = elements.order_by("press__place", "pk")
    found = [e for e in ordered if takes(e, recipe.blank_kind)]
    return sorted(found, key=lambda e: (-good.get(e.pk, 0), e.press.kind != own_kind))


@dataclass(frozen=True)
class RecipeOnChosenPress:
    """A recipe's current version, the elements that take it, and the one that was chosen."""

    version: RecipeVersion
    offered: list[Element]
    element: Element


def on_chosen_press(slug: str, wanted: str | None) -> RecipeOnChosenPress:
    """A recipe on the press asked for by its slug, else on the likeliest. Raises Http404 where
    there is no such recipe, or no press takes it.
    """
    version = current_versions().filter(recipe__slug=slug).first()
    if version is None:
        raise Http404("There is no such recipe.")
    offered = elements_for(version)
    if not offered:
        raise Http404("No press takes this recipe.")
    element = next((e for e in offered if e.press.slug == wanted), offered[0])
    return RecipeOnChosenPress(version, offered, element)


def good_pieces(version: RecipeVersion) -> dict[int, int]:
    """Element → good pieces of a recipe on it, counted no further than a press needs to be known
    as the recipe's own.
    """
    versions = list(version.recipe.versions.values_list("pk", flat=True))
    good = TestPress.objects.filter(
        recipe__in=versions, outcome=PieceOutcome.GOOD, step_number=None
    ).order_by()
    return {
        pk: good.filter(element=pk)[:ENOUGH_GOOD].count()
        for pk in Element.objects.filter(taken_out_on=None).values_list("pk", flat=True)
    }


def settings_on_presses(version: RecipeVersion) -> list[RecipeOnPress]:
    """Every element in use that takes the blank, with what to set on it for a recipe by its own
    calibration; a lower platen only where the recipe heats it.
    """
    now, main = timezone.now(), version.sheet.main
    elements = Element.objects.filter(taken_out_on=None).select_related("press")
    proven = proven_on(version)
    rows = []
    for element in elements.order_by("press__place", "press__name", "pk"):
        is_lower = element.role == ElementRole.LOWER
        if not takes(element, version.recipe.blank_kind) or (is_lower and not main.lower_c):
            continue
        aim_c = sum(main.lower_c) / 2 if is_lower and main.lower_c else version.middle_c
        known, here = proven.get(element.pk), press_temperature(element, now)
        usual = here.advice(aim_c) if here else None
        best = here.advice(known.true_c) if here and known else None
        rows.append(RecipeOnPress(element, aim_c, usual, known, best))
    return rows
