"""A new job."""

from typing import Any

from django import forms

from tempermark.web.jobs.models import MOST_PIECES
from tempermark.web.kit.forms.fields import LengthField, NumberField, UnitForm
from tempermark.web.presses.models import Element
from tempermark.web.recipes.blanks.choice import ShopBlankField
from tempermark.web.recipes.models import Blank, RecipeVersion

# Blanks whose transfer may be folded round their edges.
RIGID_KINDS = ("panel", "tile", "hardboard", "wood", "glass", "plastic")


class JobForm(UnitForm):
    """Blank, number of pieces, size of the art, the room's humidity."""

    blank = ShopBlankField(queryset=Blank.objects.all(), label="Blank", empty_label="choose")
    quantity = forms.IntegerField(label="Pieces", min_value=1, max_value=MOST_PIECES)
    art_width_mm = LengthField(label="Art, across", low=1, high=5000)
    art_height_mm = LengthField(label="Art, front to back", low=1, high=5000)
    fold_mm = LengthField(
        label="Folds to the back by",
        low=0,
        high=200,
        required=False,
        help_text="a transfer wrapped round a rigid blank’s edges; else empty",
    )
    humidity = NumberField(
        label="Room humidity", min_value=0, max_value=100, suffix="%", required=False
    )
    note = forms.CharField(label="For whom, or a note", max_length=400, required=False)

    def __init__(self, *args: Any, version: RecipeVersion, element: Element, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        if version.recipe.blank_kind not in RIGID_KINDS:
            del self.fields["fold_mm"]
        blank = self.fields["blank"]
        if isinstance(blank, ShopBlankField):
            blank.offer(version, element)

    def fields_of_job(self) -> dict[str, Any]:
        """Values by field of a job, once the form is valid."""
        data = dict(self.cleaned_data)
        humidity = data.pop("humidity")
        data["fold_mm"] = data.get("fold_mm") or 0.0
        return data | {"relative_humidity": None if humidity is None else humidity / 100}
