"""What each helper asks."""

from typing import Any

from django import forms

from tempermark.core.constants import EXPANSION_PER_K
from tempermark.web.kit.forms.fields import (
    LengthField,
    NumberField,
    TemperatureField,
    UnitForm,
    VolumeField,
)
from tempermark.web.kit.forms.moments import DayField


class MixForm(UnitForm):
    """A coating's ratio, the bottle it goes into, and how long it keeps."""

    concentrate_parts = NumberField(label="Concentrate, parts", min_value=0, max_value=1e6)
    water_parts = NumberField(label="Distilled water, parts", min_value=0, max_value=1e6)
    bottle_ml = VolumeField(label="Bottle holds", low=1, high=1e6)
    mixed_on = DayField(
        label="Mixed on", widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")
    )
    shelf_months = forms.IntegerField(label="Keeps, months", min_value=0, max_value=240)

    def clean(self) -> dict[str, Any]:
        """Something must go in."""
        super().clean()
        data = self.cleaned_data
        parts = (data.get("concentrate_parts"), data.get("water_parts"))
        if None not in parts and not sum(parts) > 0:
            self.add_error("concentrate_parts", "0 to 0 is no mix: one part must be more.")
        return data


class BleedForm(UnitForm):
    """A rigid blank, how hot it gets, and how well it is placed."""

    material = forms.ChoiceField(
        label="Material", choices=[(code, code.replace("_", " ")) for code in EXPANSION_PER_K]
    )
    width_mm = LengthField(label="Blank, across", low=1, high=20_000)
    height_mm = LengthField(label="Blank, front to back", low=1, high=20_000)
    from_c = TemperatureField(label="Room", low=-30, high=60)
    to_c = TemperatureField(label="Pressed at, true", low=60, high=300)
    placement_mm = LengthField(label="Placed to within", low=0, high=50)
    fold_mm = LengthField(label="Folds to the back by", low=0, high=200, required=False)
    thickness_mm = LengthField(
        label="Thickness", low=0, high=100, required=False, help_text="where it is folded"
    )


class StraightForm(UnitForm):
    """Two points of an edge that should be level, and the length that matters."""

    offset_mm = LengthField(label="One point is off by", low=0, high=1000)
    apart_mm = LengthField(label="The two are apart", low=1, high=5000)
    side_mm = LengthField(label="The whole side measures", low=1, high=5000)
