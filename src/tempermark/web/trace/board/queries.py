"""Reading fault cases."""

from datetime import datetime, timedelta

from django.db.models import Exists, F, OuterRef, Q, QuerySet

from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.web.kit.forms.numbers import whole
from tempermark.web.presses.models import Press
from tempermark.web.run.models import Mark, PieceOutcome, TestPress
from tempermark.web.trace.models import FaultCase

# Marks older than this were made on a press that may since have changed.
RECENT_DAYS = 90


def all_cases() -> QuerySet[FaultCase]:
    """Every case, open ones first, newest first."""
    return (
        FaultCase.objects.filter(test_press__withdrawn_at=None)
        .select_related(
            "test_press__element__press", "test_press__recipe__recipe", "test_press__blank"
        )
        .prefetch_related("test_press__marks")
        .order_by(F("closed_at").desc(nulls_first=True), "-opened_at")
    )


def found(query: str) -> QuerySet[FaultCase]:
    """Cases whose press, recipe, blank, closing note, cause or mark holds every word asked."""
    cases = all_cases()
    for label in query.lower().split():
        codes = [c.code for c in shipped().causes.values() if label in c.label.lower()]
        seen = [s.code for s in shipped().symptoms.values() if label in s.label.lower()]
        cases = cases.filter(
            Q(test_press__element__press__name__icontains=label)
            | Q(test_press__recipe__recipe__name__icontains=label)
            | Q(test_press__blank__name__icontains=label)
            | Q(closing_note__icontains=label)
            | Q(cause__in=codes)
            | Q(second_cause__in=codes)
            | Exists(Mark.objects.filter(test_press=OuterRef("test_press"), symptom__in=seen))
            | (Q(closed_at=None, seems_normal=False) if label == "open" else Q(pk=None))
        )
    return cases


def of_press(press: Press) -> QuerySet[FaultCase]:
    """Cases of one press, newest first."""
    return all_cases().filter(test_press__element__press=press).order_by("-opened_at")


def of_piece(piece: TestPress) -> FaultCase | None:
    """The case that is open for a test press, else the newest of it."""
    return piece.fault_case


def by_pk(text: str | None) -> FaultCase | None:
    """The case a link names, or None."""
    number = whole(text)
    if number is None:
        return None
    return (
        FaultCase.objects.select_related(
            "test_press__recipe__recipe", "test_press__blank", "test_press__element__press"
        )
        .prefetch_related("test_press__marks")
        .filter(pk=number)
        .first()
    )


def proofs(case: FaultCase) -> QuerySet[TestPress]:
    """Good test presses of the same recipe since the case was opened."""
    return (
        TestPress.objects.filter(
            outcome=PieceOutcome.GOOD,
            recipe__recipe=case.test_press.recipe.recipe,
            step_number=case.test_press.step_number,
            pressed_at__gte=case.opened_at,
        )
        .select_related("element__press", "blank")
        .order_by("-pressed_at")
    )


def same_marks(piece: TestPress, until: datetime | None = None) -> list[Mark]:
    """Placed marks of the same symptoms on other recent pieces of this element, those pressed until
    a moment where one is given.
    """
    symptoms = {m.symptom for m in piece.marks.all() if m.x_mm is not None}
    since = piece.pressed_at - timedelta(days=RECENT_DAYS)
    others = Mark.objects.filter(
        symptom__in=symptoms,
        x_mm__isnull=False,
        test_press__element=piece.element,
        test_press__pressed_at__gte=since,
        test_press__withdrawn_at=None,
    )
    if until is not None:
        others = others.filter(test_press__pressed_at__lte=until)
    return list(others.exclude(test_press=piece).select_related("test_press")[:200])
