"""Marks on a piece, its outcome and its scores."""

from typing import Any

from django import forms

from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.vocabulary.sightings import PLACE_WORDS, PLACES, TIME_WORDS
from tempermark.web.kit.forms.editing import EditForm
from tempermark.web.kit.forms.fields import (
    LengthField,
    NumberField,
    UnitForm,
    choice_field,
)
from tempermark.web.kit.forms.numbers import whole
from tempermark.web.kit.records.withdrawals import WhyField
from tempermark.web.run.models import (
    SCORES,
    Grade,
    Mark,
    MarkShape,
    PieceOutcome,
    TestPress,
)
from tempermark.web.run.pieces.actions import Scored

# Parts of a print that are scored on their own, and the highest step.
ZONES = tuple(p for p in PLACES if p.startswith(("centre", "edge_", "corner_")))
MOST_STEP = 5


class MarkForm(UnitForm):
    """One mark on the piece: tapped, or placed by words."""

    symptom = forms.ChoiceField(label="What you see")
    where = forms.ChoiceField(label="Where", required=False)
    when = forms.ChoiceField(label="When", choices=list(TIME_WORDS.items()), initial="on_opening")
    severity = forms.TypedChoiceField(
        label="How strong",
        coerce=int,
        initial=2,
        choices=[(1, "slight"), (2, "plain"), (3, "severe")],
    )
    x_mm = LengthField(label="From the platen's left", required=False, low=-2000, high=5000)
    y_mm = LengthField(label="From the platen's front", required=False, low=-2000, high=5000)
    shape = forms.ChoiceField(
        label="It is", choices=MarkShape.choices, initial=MarkShape.POINT, required=False
    )
    x2_mm = LengthField(label="to, from the left", required=False, low=-2000, high=5000)
    y2_mm = LengthField(label="to, from the front", required=False, low=-2000, high=5000)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        symptoms = shipped().symptoms.values()
        choice_field(self, "symptom").choices = [
            ("", "choose"),
            *((s.code, s.label) for s in symptoms),
        ]
        choice_field(self, "where").choices = [("", "as tapped"), *PLACE_WORDS.items()]

    @property
    def has_wrong_place(self) -> bool:
        """Whether a place typed in millimetres was refused."""
        return any(self[name].errors for name in ("x_mm", "y_mm", "x2_mm", "y2_mm"))

    def clean(self) -> dict[str, Any]:
        """A place by tap or by words is needed."""
        super().clean()
        data = self.cleaned_data
        tapped = data.get("x_mm") is not None and data.get("y_mm") is not None
        if not tapped and not data.get("where") and not self.errors:
            self.add_error("where", "Tap the place on the piece, or choose where it is.")
        ended = data.get("x2_mm") is not None and data.get("y2_mm") is not None
        if data.get("shape") in (MarkShape.LINE, MarkShape.AREA) and not (tapped and ended):
            self.add_error("shape", "Tap both ends of it, one after the other.")
        return data


class MarkCorrectionForm(EditForm, MarkForm):
    """A mark as it should have been made."""

    why = WhyField()


def marked(mark: Mark) -> dict[str, Any]:
    """A mark as its form shows it: a line or an area by both its ends."""
    names = ("symptom", "where", "when", "severity", "shape")
    values = {name: getattr(mark, name) for name in names}
    if mark.x_mm is None or mark.y_mm is None:
        return values
    return values | {
        "x_mm": mark.x_mm - mark.half_x_mm,
        "y_mm": mark.y_mm - mark.half_y_mm,
        "x2_mm": mark.x_mm + mark.half_x_mm if mark.half_x_mm or mark.half_y_mm else None,
        "y2_mm": mark.y_mm + mark.half_y_mm if mark.half_x_mm or mark.half_y_mm else None,
    }


class OutcomeForm(EditForm):
    """How it came out: good or faulty, and scores from 1 to 5."""

    outcome = forms.ChoiceField(
        label="Outcome",
        choices=[(PieceOutcome.GOOD, "good"), (PieceOutcome.FAULTY, "faulty")],
        widget=forms.RadioSelect,
    )
    grade = forms.ChoiceField(
        label="Faulty pieces are",
        choices=[("", "not graded"), *Grade.choices],
        widget=forms.RadioSelect,
        required=False,
    )
    density = NumberField(
        label="Density of black, measured",
        required=False,
        min_value=0,
        max_value=1.2,
        help_text="1 is the proof’s",
    )

    def __init__(self, *args: Any, record: TestPress | None = None, **kwargs: Any) -> None:
        super().__init__(*args, record=record, **kwargs)
        self.zone_scores = dict(record.zone_scores) if record else {}
        for code, label in SCORES:
            self.fields[f"score_{code}"] = forms.TypedChoiceField(
                label=label,
                required=False,
                coerce=int,
                empty_value=None,
                choices=[("", "–"), *((n, str(n)) for n in range(1, 6))],
                widget=forms.RadioSelect,
            )
        self.fields["zone"] = forms.ChoiceField(
            label="Part of the print",
            required=False,
            choices=[("", "choose"), *((p, PLACE_WORDS[p]) for p in ZONES)],
        )

    def clean(self) -> dict[str, Any]:
        """Scores of a part need to say which."""
        data = super().clean()
        if self._of_zone() and not data.get("zone"):
            self.add_error("zone", "Choose which part these scores are for.")
        return data

    def _of_zone(self) -> dict[str, int]:
        """Steps given for one part of the print."""
        found = {}
        for code, _ in SCORES:
            step = whole(self.data.get(f"zone_{code}"))
            if step is not None and 1 <= step <= MOST_STEP:
                found[code] = step
        return found

    def scored(self) -> Scored:
        """How the piece came out, once the form is valid; a good piece has no grade."""
        data = self.cleaned_data
        given = {c: data[f"score_{c}"] for c, _ in SCORES if data.get(f"score_{c}") is not None}
        grade = data.get("grade", "") if data["outcome"] == PieceOutcome.FAULTY else ""
        zones = dict(self.zone_scores)
        if data.get("zone") and self._of_zone():
            zones[data["zone"]] = zones.get(data["zone"], {}) | self._of_zone()
        return Scored(data["outcome"], grade, given, zones, data.get("density"))
