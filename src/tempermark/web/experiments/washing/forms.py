"""A new wash trial."""

import re
from typing import Any

from django import forms

from tempermark.core.experiments.wash import USUAL_ROUNDS
from tempermark.web.kit.forms.fields import NumberField, TemperatureField, UnitForm
from tempermark.web.run.models import PressedPiece

MOST_ROUNDS, MOST_WASHES = 20, 200
MOST_PIECES, MOST_ARMS = 60, 8
ROUNDS_TEXT = ", ".join(str(n) for n in USUAL_ROUNDS)


class WashTrialForm(UnitForm):
    """What is washed, how, and when it is looked at."""

    title = forms.CharField(label="What is compared", max_length=80)
    arms = forms.CharField(
        label="Pieces, one arm to a line",
        max_length=2000,
        widget=forms.Textarea(attrs={"rows": 4}),
        help_text="paper A: K7F3QX, M2N4PR",
    )
    rounds = forms.CharField(label="Looked at after washes", max_length=100, initial=ROUNDS_TEXT)
    rest_h = NumberField(
        label="Rests before the first", min_value=0, max_value=720, suffix="h", initial=24
    )
    machine = forms.CharField(label="Machine and programme", required=False, max_length=60)
    wash_c = TemperatureField(label="Washed at", required=False, low=0, high=100)
    drying = forms.CharField(label="Drying", required=False, max_length=60)
    note = forms.CharField(label="Note", required=False, max_length=400)

    def clean_rounds(self) -> list[int]:
        """Numbers of washes, ascending, each once."""
        texts = [t for t in re.split(r"[,;\s]+", self.cleaned_data["rounds"].strip()) if t]
        if not texts or not all(t.isascii() and t.isdecimal() and len(t) <= 3 for t in texts):
            raise forms.ValidationError(f"Numbers of washes, like {ROUNDS_TEXT}.")
        found = sorted({int(t) for t in texts})
        if len(found) > MOST_ROUNDS or not 1 <= found[0] <= found[-1] <= MOST_WASHES:
            raise forms.ValidationError(
                f"At most {MOST_ROUNDS} rounds, between 1 and {MOST_WASHES} washes."
            )
        return found

    def clean_arms(self) -> list[tuple[str, list[PressedPiece]]]:
        """Arms with their pieces by label; every label must be known, and in one arm only."""
        lines = [line for line in self.cleaned_data["arms"].splitlines() if line.strip()]
        found, seen, unknown = [], set(), []
        for number, line in enumerate(lines, 1):
            name, colon, codes = line.partition(":")
            label = name.strip()[:60] if colon else f"arm {number}"
            pieces = []
            for code in re.split(r"[,;\s]+", (codes if colon else name).strip().upper()):
                if not code:
                    continue
                piece = PressedPiece.objects.filter(code=code[:12]).first()
                if piece is None:
                    unknown.append(code[:12])
                elif piece.pk in seen:
                    raise forms.ValidationError(f"{code} is named twice.")
                else:
                    seen.add(piece.pk)
                    pieces.append(piece)
            if pieces:
                found.append((label, pieces))
        if unknown:
            raise forms.ValidationError(f"No piece has the label {', '.join(unknown[:5])}.")
        if not found:
            raise forms.ValidationError("Name at least one piece by its label.")
        if len(seen) > MOST_PIECES or len(found) > MOST_ARMS:
            raise forms.ValidationError(f"At most {MOST_PIECES} pieces in {MOST_ARMS} arms.")
        if len({label.lower() for label, _ in found}) < len(found):
            raise forms.ValidationError("Each arm needs a name of its own.")
        return found

    def fields_of_trial(self) -> dict[str, Any]:
        """Values by field of a trial, once valid."""
        return {name: value for name, value in self.cleaned_data.items() if name != "arms"}
