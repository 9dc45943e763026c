"""What a shop's scored pieces say where they disagree with the computation."""

from dataclasses import dataclass

from tempermark.core.pressing.closing import PressResult
from tempermark.core.pressing.verdict import GOOD, PALE, WEAK_BOND, verdict_of
from tempermark.core.pressure.press.contact import class_of
from tempermark.web.heat.models import LessonRequest
from tempermark.web.heat.simulate.words import classify_outcome
from tempermark.web.presses.models import Element
from tempermark.web.recipes.models import Blank, RecipeVersion
from tempermark.web.run.models import PieceOutcome, TestPress

# Pieces pressed within these of a setting speak about it; so many of the newest, at least some.
NEAR_K, NEAR_TIME_SHARE, MOST_PIECES, FEWEST = 6.0, 0.25, 20, 2
# From which share on they are believed against the computation.
MOST_SAY = 0.6
# A black scored up to here is pale.
PALE_SCORE = 3
PALE_SYMPTOMS = frozenset({"low_density", "weak_black"})
WEAK_SYMPTOMS = frozenset({"peeling", "carrier_pulls_film"})


@dataclass(frozen=True)
class Spoken:
    """A disagreement: how many of how many pieces, what is computed and what they were; the surface
    they could teach (none for film), and whether a lead was asked to look at it.
    """

    text: str
    count: int
    pieces: int
    subject: str
    is_requested: bool


def disagreement(
    version: RecipeVersion, element: Element, blank: Blank, set_c: float, pressed: PressResult
) -> Spoken | None:
    """What scored pieces near a setting say against the computed outcome; None where they agree or
    there are too few.
    """
    request = pressed.request
    pieces = near_pieces(version, element, blank, set_c, request.dwell_s, request.kpa)
    if len(pieces) < FEWEST:
        return None
    code = verdict_of(pressed).code
    if code == GOOD:
        against = [p for p in pieces if _came_out_short(p, pressed.is_dye)]
        label = "came out pale" if pressed.is_dye else "did not hold"
    elif code in (PALE, WEAK_BOND):
        against = [p for p in pieces if p.outcome == PieceOutcome.GOOD]
        label = "were good"
    else:
        against = [p for p in pieces if p.outcome == PieceOutcome.GOOD]
        label = "were good"
    if len(against) < MOST_SAY * len(pieces):
        return None
    subject = pressed.receiver.code if pressed.receiver else ""
    computed = classify_outcome(pressed).lower()
    if code not in (GOOD, PALE, WEAK_BOND):
        computed = code
    return Spoken(
        f"Computed {computed}, but {len(against)} of your {len(pieces)} pieces {label}.",
        len(against),
        len(pieces),
        subject,
        LessonRequest.objects.filter(subject=subject, answered_at=None).exists(),
    )


def near_pieces(
    version: RecipeVersion,
    element: Element,
    blank: Blank,
    set_c: float,
    dwell_s: float,
    kpa: float,
) -> list[TestPress]:
    """Scored pieces of a recipe on such a blank, pressed on an element near a setting and in its
    class of pressure, where theirs was told.
    """
    pieces = (
        TestPress.objects.filter(element=element, recipe__recipe=version.recipe, step_number=None)
        .exclude(outcome=PieceOutcome.OPEN)
        .filter(set_c__range=(set_c - NEAR_K, set_c + NEAR_K))
        .filter(pressure__in=("unknown", class_of(kpa)))
        .filter(dwell_s__range=((1 - NEAR_TIME_SHARE) * dwell_s, (1 + NEAR_TIME_SHARE) * dwell_s))
        .select_related("blank")
        .prefetch_related("marks")
    )
    if element.map_since is not None:
        pieces = pieces.filter(pressed_at__gte=element.map_since)
    pieces = pieces.filter(blank__kind=blank.kind, blank__coating=blank.coating)
    return list(pieces[:MOST_PIECES])


def _came_out_short(piece: TestPress, is_dye: bool) -> bool:
    """Whether a piece that was not good was pale (or did not bond), by its marks or its scores."""
    if piece.outcome == PieceOutcome.GOOD:
        return False
    symptoms = {mark.symptom for mark in piece.marks.all()}
    score = piece.scores.get("black" if is_dye else "bond")
    low = score is not None and score <= PALE_SCORE
    return bool(symptoms & (PALE_SYMPTOMS if is_dye else WEAK_SYMPTOMS)) or low
