"""Forms of pressure and fit."""

import math
from collections.abc import Sequence
from typing import Any

from django import forms
from django.db.models import Q

from tempermark.core.pressure.pieces.stack import is_pillow, sheets_mm
from tempermark.core.pressure.press.contact import CLASS_KPA
from tempermark.web.kit.figures import pressures_text
from tempermark.web.kit.forms.fields import (
    LengthField,
    NumberField,
    PressureField,
    UnitForm,
    WeightField,
    choice_field,
    rows_field,
)
from tempermark.web.kit.forms.numbers import row_key
from tempermark.web.kit.units import Units
from tempermark.web.measure.surveys.grids import KNOWN
from tempermark.web.pressure import mapping
from tempermark.web.pressure.models import Means, RaisedKind, WearingPart
from tempermark.web.recipes.models import Blank, RecipeVersion

SHEETS_MM = 0.3
MOST_SHIMS = 8
KNOWN_GRID = (KNOWN, "known, 4 to 6 strips")
GRIDS = [("3x3", "3 × 3: corners, edges, middle"), ("4x4", "4 × 4"), ("5x5", "5 × 5, fine")]


class LoadForm(UnitForm):
    """What is pressed: blank, layers, sheets, pillow and the class that is wanted."""

    blank = forms.ModelChoiceField(Blank.objects.all(), label="Blank", empty_label="choose")
    layers = forms.TypedChoiceField(
        label="Layers",
        coerce=int,
        choices=[(1, "one: threaded over the platen, or single"), (2, "two: front and back")],
    )
    sheets_mm = LengthField(label="Sheets and transfer", low=0, high=50)
    pillow_mm = LengthField(label="Pillow", low=0, high=100, help_text="0 without one")
    wanted = forms.ChoiceField(label="Pressure")

    def __init__(self, *args: Any, units: Units, **kwargs: Any) -> None:
        super().__init__(*args, units=units, **kwargs)
        choice_field(self, "wanted").choices = [
            (name, f"{name}, {pressures_text(*span_kpa, units)}")
            for name, span_kpa in CLASS_KPA.items()
        ]
        if self.is_bound:
            # A blank is chosen: nothing stands before the list's own names any more.
            rows_field(self, "blank").empty_label = None

    def offer(self, kinds: Sequence[str]) -> None:
        """Only blanks of these kinds, and the one that is chosen."""
        chosen = row_key(str(self["blank"].value()))
        shown = Q(kind__in=kinds) | Q(pk=chosen)
        rows_field(self, "blank").queryset = Blank.objects.filter(shown)


def initial_load(blank: Blank | None, version: RecipeVersion | None = None) -> dict[str, Any]:
    """A load as it usually is for a blank, and a recipe where one is asked for; without a blank it
    stays open.
    """
    return {
        "blank": blank.pk if blank else None,
        "layers": mapping.usual_layers(blank) if blank else 1,
        "sheets_mm": sheets_mm(version.stack) if version else SHEETS_MM,
        "pillow_mm": 10.0 if version and any(map(is_pillow, version.stack)) else 0,
        "wanted": version.pressure if version else "medium",
    }


class SessionWords(UnitForm):
    """What a session with shims holds, for the words of its corrections."""

    lift_mm_per_turn = LengthField(label="Lift per turn")
    lift_sd_mm = LengthField(label="± of the lift")
    shims = forms.CharField(label="Shims and turns")
    zero_clockwise = NumberField(label="Touch point of the empty press, turns")
    zero_sd_turns = NumberField(label="± of that, turns")


class ShimForm(UnitForm):
    """One shim: its thickness, and where the knob stood as it just touched."""

    shim_mm = LengthField(label="Shim", required=False, low=0, high=60)
    turns = NumberField(label="Turns clockwise", required=False, min_value=-100, max_value=100)

    def __init__(self, *args: Any, units: Units, **kwargs: Any) -> None:
        super().__init__(*args, units=units, **kwargs)
        row = int(self.prefix.rpartition("-")[2]) + 1 if self.prefix[-1:].isdecimal() else ""
        for name, sentence in (
            ("shim_mm", f"thickness, {units.symbol('length')}"),
            ("turns", "turns clockwise"),
        ):
            self.fields[name].widget.attrs["aria-label"] = f"Shim {row}: {sentence}"

    def clean_turns(self) -> float:
        """A finite figure; the browser's own text stays on an error."""
        turns = self.cleaned_data["turns"]
        if turns is not None and not math.isfinite(turns):
            raise forms.ValidationError("Type a number of turns.")
        return turns

    def clean(self) -> dict[str, float]:
        """Both or neither."""
        super().clean()
        data = self.cleaned_data
        if self.errors:
            return data
        if (data.get("shim_mm") is None) != (data.get("turns") is None):
            missing = "turns" if data.get("turns") is None else "shim_mm"
            self.add_error(missing, "This row needs its other number too.")
        return data


class LeanForm(UnitForm):
    """What a scale under a hand plate shows, less the plate."""

    kg = WeightField(
        label="The scale shows, leaning as usual",
        low=0.1,
        high=150,
        help_text="set to zero with the plate on it",
    )


class ReadingForm(UnitForm):
    """A contact pressure read with the press closed."""

    means = forms.ChoiceField(label="Read with", choices=Means.choices)
    contact_kpa = PressureField(label="Contact pressure", low=0.5, high=2000)
    figure = NumberField(label="Scale shows", required=False, min_value=0.5, max_value=12)
    stack_mm = LengthField(label="Stack in the press", required=False, low=0, high=200)

    def __init__(self, *args: Any, mechanism: str, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        if mechanism == "scale":
            self.fields["figure"].required = True
            del self.fields["stack_mm"]
        else:
            del self.fields["figure"]
            self.fields["stack_mm"].required = mechanism == "knob"


class PullStartForm(UnitForm):
    """Start pulling strips."""

    grid = forms.ChoiceField(label="Stations", choices=GRIDS)
    stack_mm = LengthField(label="Stack in the press", low=0, high=200)
    note = forms.CharField(label="Note", max_length=400, required=False)

    def __init__(self, *args: Any, units: Units, is_known: bool, **kwargs: Any) -> None:
        super().__init__(*args, units=units, **kwargs)
        if is_known:
            choice_field(self, "grid").choices = [KNOWN_GRID, *GRIDS]


class PullFileForm(UnitForm):
    """Strips from a file."""

    file = forms.FileField(label="JSON or CSV file", allow_empty_file=True)


class PrintForm(UnitForm):
    """A scanned carbon print or pressure film."""

    file = forms.FileField(
        label="Scan, PNG or JPEG",
        allow_empty_file=True,
        widget=forms.ClearableFileInput(attrs={"accept": "image/png,image/jpeg,image/webp"}),
    )
    bar_mm = LengthField(label="Scale bar's length", low=10, high=1000)
    known_mean_kpa = PressureField(
        label="Mean pressure, if known",
        required=False,
        low=0.5,
        high=500,
        help_text="of a gauge or load cell: sets the film's scale",
    )
    stack_mm = LengthField(label="Stack in the press", low=0, high=200)
    note = forms.CharField(label="Note", max_length=400, required=False)


class WearForm(UnitForm):
    """A note on pad or cover."""

    part = forms.ChoiceField(label="Part", choices=WearingPart.choices)
    hardness = NumberField(
        label="Hardness", required=False, min_value=0, max_value=100, suffix="Shore 00"
    )
    closings = forms.IntegerField(
        label="Closings not logged here", required=False, min_value=0, max_value=1_000_000
    )
    text = forms.CharField(label="What was seen", max_length=400, required=False)

    def clean_closings(self) -> int:
        """None is none."""
        return self.cleaned_data["closings"] or 0

    def clean(self) -> dict[str, Any]:
        """Something must be noted."""
        super().clean()
        data = self.cleaned_data
        if not self.errors and not (
            data.get("hardness") is not None or data.get("closings") or data.get("text")
        ):
            raise forms.ValidationError("Give a hardness, closings, or what was seen.")
        return data


class RaisedForm(UnitForm):
    """Something raised on a piece."""

    kind = forms.ChoiceField(label="What", choices=RaisedKind.choices)
    x_mm = LengthField(label="From the left", low=0, high=5000)
    y_mm = LengthField(label="From the front", low=0, high=5000)
    width_mm = LengthField(label="Across", low=0.5, high=5000)
    depth_mm = LengthField(label="Front to back", low=0.5, high=5000)
    rises_mm = LengthField(label="Height above the piece", low=0.05, high=60)
    on_back = forms.BooleanField(label="On the back layer", required=False)


class PieceForm(UnitForm):
    """A print on a piece, and how it is pressed."""

    print_x_mm = LengthField(label="Print from the left", low=0, high=5000)
    print_y_mm = LengthField(label="from the front", low=0, high=5000)
    print_width_mm = LengthField(label="Print, across", low=1, high=5000)
    print_depth_mm = LengthField(label="front to back", low=1, high=5000)
    contact_kpa = PressureField(label="Contact", low=0.5, high=300)
    pillow_mm = LengthField(label="Pillow under the print", low=0, high=100)
    threaded = forms.TypedChoiceField(
        label="In the press",
        coerce=int,
        choices=[(0, "both layers"), (1, "threaded over the lower platen")],
    )


class VesselForm(UnitForm):
    """A mug, tumbler or beaker."""

    top_mm = LengthField(label="Across at the top", low=10, high=1000)
    bottom_mm = LengthField(label="Across at the bottom", low=10, high=1000)
    height_mm = LengthField(label="Height pressed", low=5, high=1000)
    art_mm = LengthField(label="Art around it", low=1, high=3200)


class CapForm(UnitForm):
    """A cap's front and the art on it."""

    panels = forms.TypedChoiceField(
        label="Panels",
        coerce=int,
        choices=[(5, "five, no seam in front"), (6, "six, seam in front")],
    )
    seam_at_mm = LengthField(
        label="Seam from the middle",
        required=False,
        low=-150,
        high=150,
        help_text="0 on a six-panel front",
    )
    seam_height_mm = LengthField(label="Seam height", low=0.1, high=10)
    art_width_mm = LengthField(label="Art, across", low=1, high=300)
    art_off_mm = LengthField(label="Art from the middle", low=-150, high=150)
    stroke_mm = LengthField(label="Thinnest stroke", low=0.1, high=100)
    contact_kpa = PressureField(label="Contact", low=0.5, high=300)
