"""Which presses are looked for: by press, recipe, blank, symptom, lot, operator, dates, text."""

from dataclasses import dataclass
from datetime import datetime, time
from typing import Any

from django import forms
from django.db.models import Q, QuerySet
from django.utils import timezone

from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.web.accounts.models import User
from tempermark.web.kit import paging
from tempermark.web.kit.forms.fields import choice_field, rows_field
from tempermark.web.kit.forms.moments import DayField
from tempermark.web.measure.models import Survey
from tempermark.web.presses.models import Press
from tempermark.web.recipes.models import Blank, Recipe
from tempermark.web.run.models import LOT_FIELDS, Mark, PieceOutcome, PressedPiece, TestPress

OUTCOMES = (
    ("", "any"),
    ("open", "not scored"),
    ("good", "good"),
    ("faulty", "faulty, any"),
    ("second", "second"),
    ("spoiled", "spoiled"),
)
MOST_TERMS = 6
# Further than this nobody counts rows by eye.
MOST_COUNTED = 300
NEEDED = ("element__press", "recipe__recipe", "blank", "pressed_by", "piece")


class LogbookForm(forms.Form):
    """The filters of the logbook."""

    q = forms.CharField(label="Text", required=False, max_length=80)
    press = forms.ModelChoiceField(Press.objects.all(), required=False, empty_label="any")
    recipe = forms.ModelChoiceField(Recipe.objects.all(), required=False, empty_label="any")
    blank = forms.ModelChoiceField(Blank.objects.all(), required=False, empty_label="any")
    outcome = forms.ChoiceField(choices=OUTCOMES, required=False)
    symptom = forms.ChoiceField(required=False)
    operator = forms.ModelChoiceField(User.objects.all(), required=False, empty_label="any")
    lot = forms.CharField(label="Lot or sheet", required=False, max_length=40)
    since = DayField(label="From", required=False, widget=forms.DateInput(attrs={"type": "date"}))
    until = DayField(label="To", required=False, widget=forms.DateInput(attrs={"type": "date"}))
    steps = forms.BooleanField(label="Also pre-presses and other steps", required=False)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        symptoms = shipped().symptoms.values()
        choice_field(self, "symptom").choices = [
            ("", "any"),
            *((s.code, s.label) for s in symptoms),
        ]
        people: Any = rows_field(self, "operator")
        people.label_from_instance = lambda user: user.get_short_name() or user.username

    @property
    def is_narrowed(self) -> bool:
        """Whether anything was asked for."""
        return any(self.data.get(name) for name in self.fields)

    @property
    def folded(self) -> list[Any]:
        """The bound fields that are folded away."""
        return [self[n] for n in ("operator", "lot", "since", "until", "steps")]

    @property
    def has_folded(self) -> bool:
        """Whether one of them is in use."""
        return any(self.data.get(field.name) for field in self.folded)


def matching(form: LogbookForm) -> QuerySet[TestPress]:
    """Presses that a form asks for, newest first; what it got wrong narrows nothing."""
    form.is_valid()
    data = form.cleaned_data
    rows = TestPress.objects.order_by("-pressed_at", "-pk")
    if not data.get("steps"):
        rows = rows.filter(step_number=None)
    rows = rows.filter(_chosen(data))
    for term in (data.get("q") or "").split()[:MOST_TERMS]:
        rows = rows.filter(_about(term))
    return rows


def _chosen(data: dict[str, Any]) -> Q:
    """What was chosen from lists, and days."""
    found = Q()
    if data.get("press"):
        found &= Q(element__in=list(data["press"].elements.values_list("pk", flat=True)))
    if data.get("recipe"):
        found &= Q(recipe__in=list(data["recipe"].versions.values_list("pk", flat=True)))
    if data.get("blank"):
        found &= Q(blank=data["blank"])
    if data.get("operator"):
        found &= Q(pressed_by=data["operator"])
    if data.get("symptom"):
        marked = Mark.objects.filter(symptom=data["symptom"]).values("test_press")
        found &= Q(pk__in=marked)
    if data.get("lot"):
        found &= _of_lot(data["lot"].strip())
    return found & _outcome(data.get("outcome", "")) & _days(data)


def _outcome(code: str) -> Q:
    if code in ("second", "spoiled"):
        return Q(outcome=PieceOutcome.FAULTY, grade=code)
    return Q(outcome=code) if code else Q()


def _days(data: dict[str, Any]) -> Q:
    found, zone = Q(), timezone.get_current_timezone()
    if data.get("since"):
        found &= Q(pressed_at__gte=datetime.combine(data["since"], time.min, zone))
    if data.get("until"):
        found &= Q(pressed_at__lte=datetime.combine(data["until"], time.max, zone))
    return found


def _of_lot(code: str) -> Q:
    found = Q()
    for field in LOT_FIELDS.values():
        found |= Q(**{field: code})
    return found


def _about(term: str) -> Q:
    """A word in a name, a lot, a note or a label. Names are few: they are looked up first, so that
    every part can use its index.
    """
    presses = Press.objects.filter(name__icontains=term).values_list("elements", flat=True)
    recipes = Recipe.objects.filter(name__icontains=term).values_list("versions", flat=True)
    blanks = Blank.objects.filter(name__icontains=term).values_list("pk", flat=True)
    people = User.objects.filter(Q(username__iexact=term) | Q(first_name__iexact=term))
    pieces = PressedPiece.objects.filter(code=term.upper()).values_list("pk", flat=True)
    parts = {
        "element__in": [pk for pk in presses if pk],
        "recipe__in": [pk for pk in recipes if pk],
        "blank__in": list(blanks),
        "pressed_by__in": list(people.values_list("pk", flat=True)),
        "piece__in": list(pieces),
    }
    found = Q(note__icontains=term) | _of_lot(term)
    if term.lower() in ("good", "faulty", "open"):
        found |= Q(outcome=term.lower())
    for name, keys in parts.items():
        if keys:
            found |= Q(**{name: keys})
    return found


@dataclass(frozen=True)
class LogbookPage:
    """Rows of one page, the cursor of the page after it (empty where there is none), and how many
    rows there are from here on: counted no further than `MOST_COUNTED`.
    """

    rows: list[TestPress]
    after: str
    count: int

    @property
    def is_more(self) -> bool:
        """Whether there are more than were counted."""
        return self.count > MOST_COUNTED


def page_of(rows: QuerySet[TestPress], after: str, size: int) -> LogbookPage:
    """So many rows after a cursor."""
    rows = paging.after(rows, after, "pressed_at")
    # Which rows first, by an index alone; then all that belongs to those few.
    keys = list(rows.values_list("pk", flat=True)[: MOST_COUNTED + 1])
    page = TestPress.objects.filter(pk__in=keys[:size]).order_by("-pressed_at", "-pk")
    found = list(page.select_related(*NEEDED).prefetch_related("fault_cases"))
    is_last = len(keys) <= size or not found
    cursor = "" if is_last else paging.Cursor.of(found[-1].pressed_at, found[-1].pk)
    return LogbookPage(found, cursor, len(keys))


def survey_window(survey: Survey) -> Q:
    """Presses that rest on a survey: from its time until the next one of its element."""
    later = Survey.objects.filter(element=survey.element, taken_at__gt=survey.taken_at)
    until = later.exclude(finished_at=None).order_by("taken_at").first()
    found = Q(element=survey.element, pressed_at__gte=survey.taken_at)
    return found & Q(pressed_at__lt=until.taken_at) if until else found
