"""Art to lay on sheets: what, how many, with which other jobs, on which paper."""

from typing import Any

from django import forms

from tempermark.core.preparing.size.nesting.boxes import MOST_PIECES as MOST_LAID
from tempermark.core.preparing.size.sheets import SHEETS_MM
from tempermark.web.jobs.models import MOST_PIECES, Job
from tempermark.web.jobs.queries import open_jobs
from tempermark.web.kit.forms.fields import LengthField, UnitForm, rows_field
from tempermark.web.printing.models import Art
from tempermark.web.printing.queries import offered_art

OWN, ROLL = "own", "roll"
SHAPES = [
    ("rectangle", "a rectangle"),
    ("round", "a circle"),
    ("outline", "the outline of its art"),
]


class SheetForm(UnitForm):
    """Art, how many, its shape, the paper and the printer's margin."""

    art_width_mm = LengthField(label="Art, across", low=1, high=20_000)
    art_height_mm = LengthField(label="Art, front to back", low=1, high=20_000)
    quantity = forms.IntegerField(label="Pieces", min_value=1, max_value=MOST_PIECES)
    shape = forms.ChoiceField(label="Shape", choices=SHAPES, required=False)
    art = forms.ModelChoiceField(
        queryset=Art.objects.none(), label="Art", required=False, empty_label="none"
    )
    sheet = forms.ChoiceField(
        label="Paper",
        required=False,
        choices=[
            ("", "the smallest that takes it"),
            *[(name, name) for name in SHEETS_MM],
            (OWN, "a size of our own"),
            (ROLL, "a roll"),
        ],
    )
    own_width_mm = LengthField(label="Own size, across", required=False, low=20, high=5000)
    own_height_mm = LengthField(label="Own size, high", required=False, low=20, high=5000)
    roll_mm = LengthField(label="Roll, across", required=False, low=50, high=5000)
    margin_mm = LengthField(label="Printer’s margin", low=0, high=100)
    apart_mm = LengthField(label="Between pieces", low=0, high=500)
    job = forms.ModelMultipleChoiceField(
        queryset=Job.objects.none(),
        label="Together with",
        required=False,
        widget=forms.CheckboxSelectMultiple,
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        rows_field(self, "art").queryset = offered_art()
        jobs = open_jobs().select_related("art").defer("art__data", "art__preview")
        rows_field(self, "job").queryset = jobs
        if not jobs.exists():
            del self.fields["job"]

    def clean(self) -> dict[str, Any]:
        """An own size and a roll need their figures; an outline needs art; a circle is as wide as
        high.
        """
        data = super().clean() or self.cleaned_data
        if data.get("sheet") == OWN and not (
            data.get("own_width_mm") and data.get("own_height_mm")
        ):
            self.add_error("own_width_mm", "Give both sides of the sheet.")
        if data.get("sheet") == ROLL and not data.get("roll_mm"):
            self.add_error("roll_mm", "Give the width of the roll.")
        if data.get("shape") == "outline" and not data.get("art"):
            self.add_error("art", "Choose the art that has the outline.")
        sides = (data.get("art_width_mm"), data.get("art_height_mm"))
        if data.get("shape") == "round" and None not in sides and abs(sides[0] - sides[1]) > 1:
            self.add_error("art_height_mm", "A circle is as high as it is wide.")
        if data.get("job") and (data.get("quantity") or 0) > MOST_LAID:
            self.add_error("quantity", f"With other jobs at most {MOST_LAID} are laid at once.")
        return data
