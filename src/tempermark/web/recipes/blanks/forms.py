"""Forms of blanks."""

from typing import Any

from django import forms

from tempermark.core.constants import PLATEN_RANGE_MM
from tempermark.core.recipes.blank_types import BlankType, blank_types
from tempermark.web.kit.forms.editing import EditForm
from tempermark.web.kit.forms.fields import (
    LengthField,
    NumberField,
    PressureField,
    TemperatureField,
    row_choices,
)
from tempermark.web.recipes.materials.library import INHERITED
from tempermark.web.recipes.models import Blank

MOST_MM = PLATEN_RANGE_MM[1]
# Sources of choices: the model's own.
KIND, COLOUR, COATING = (row_choices(Blank, n) for n in ("kind", "colour", "coating"))


class BlankForm(EditForm):
    """A blank: what it is of, how large and thick, and what it stands."""

    name = forms.CharField(label="Name", max_length=80)
    kind = forms.ChoiceField(label="Kind", choices=KIND)
    thickness_mm = LengthField(
        label="Thickness", low=0.01, high=200, help_text="of one layer, pressed lightly"
    )
    width_mm = LengthField(label="Across", required=False, low=1, high=MOST_MM)
    height_mm = LengthField(label="Front to back, or high", required=False, low=1, high=MOST_MM)
    limit_kpa = PressureField(
        label="Withstands at most",
        required=False,
        low=0.5,
        high=2000,
        help_text="contact pressure",
    )
    like = forms.ChoiceField(
        label="Bought as",
        required=False,
        choices=[("", "not listed"), *((k.code, k.label) for k in blank_types().values())],
        help_text="its limits are used where none are given here",
    )
    scorch_c = TemperatureField(
        label="Yellows or glazes at", required=False, low=80, high=400, help_text="in a minute"
    )
    softens_c = TemperatureField(
        label="Softens at", required=False, low=30, high=400, help_text="softens under load"
    )
    migrates_c = TemperatureField(
        label="Its dye migrates at",
        required=False,
        low=80,
        high=300,
        help_text="15 s begin to tint a light film",
    )
    polyester = NumberField(
        label="Polyester", required=False, min_value=0, max_value=1, help_text="share, 0 to 1"
    )
    colour = forms.ChoiceField(
        label="Colour", required=False, choices=[("", "not recorded"), *COLOUR]
    )
    coating = forms.ChoiceField(
        label="Coating", required=False, choices=[("", "not recorded"), *COATING]
    )
    features = forms.MultipleChoiceField(
        label="It has",
        required=False,
        choices=Blank._meta.get_field("features").base_field.choices,
        widget=forms.CheckboxSelectMultiple,
    )
    material = forms.CharField(label="Material", max_length=40, required=False)
    top_diameter_mm = LengthField(
        label="Vessel, across at the top", required=False, low=5, high=2000
    )
    bottom_diameter_mm = LengthField(
        label="Vessel, across at the bottom", required=False, low=5, high=2000
    )
    panels = forms.TypedChoiceField(
        label="Cap, panels",
        required=False,
        coerce=int,
        empty_value=None,
        choices=[("", "no cap"), (5, "five"), (6, "six")],
    )

    def show_inherited(self, kind: BlankType | None) -> None:
        """What holds where a limit is left empty, behind its field."""
        for name in INHERITED:
            value = getattr(kind, name) if kind else None
            if value is None:
                continue
            field: Any = self.fields[name]
            held = field.prepare_value(float(value))
            field.help_text = f"empty: {held} {field.suffix}, as {kind.label}"
