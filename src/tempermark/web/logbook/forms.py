"""Photographs, and the question of a platen that was off."""

from typing import Any

from django import forms

from tempermark.web.kit.forms.fields import DifferenceField, UnitForm
from tempermark.web.kit.forms.moments import DayField
from tempermark.web.logbook.off import EITHER, HIGH, LOW
from tempermark.web.presses.models import Press

MOST_WASHES = 200


class PiecePhotoForm(forms.Form):
    """A picture of a piece, and after how many washes."""

    file = forms.FileField(
        label="Photograph",
        widget=forms.ClearableFileInput(attrs={"accept": "image/*", "capture": "environment"}),
    )
    washes = forms.IntegerField(
        label="After washes", required=False, min_value=0, max_value=MOST_WASHES
    )
    caption = forms.CharField(label="What it shows", required=False, max_length=200)


class WhileOffForm(UnitForm):
    """Which press, off by how much, to which side, between which days."""

    press = forms.ModelChoiceField(Press.objects.all(), empty_label="choose")
    by_k = DifferenceField(label="Off by at least", min_value=0.5, max_value=100)
    side = forms.ChoiceField(
        choices=[(LOW, "low (colder than the dial)"), (HIGH, "high"), (EITHER, "either way")]
    )
    since = DayField(label="From", required=False, widget=forms.DateInput(attrs={"type": "date"}))
    until = DayField(label="To", required=False, widget=forms.DateInput(attrs={"type": "date"}))
    outside = forms.BooleanField(
        label="Only pieces that this leaves outside their recipe’s window", required=False
    )

    def clean(self) -> dict[str, Any]:
        """The days in their order."""
        super().clean()
        data = self.cleaned_data
        if data.get("since") and data.get("until") and data["since"] > data["until"]:
            self.add_error("until", "This day is before the first.")
        return data
