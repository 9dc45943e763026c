"""A placing guide and its sizes."""

from typing import Any

from django import forms

from tempermark.core.vocabulary.things import BLANK_KINDS
from tempermark.web.kit.forms.editing import EditForm
from tempermark.web.kit.forms.fields import LengthField, UnitForm
from tempermark.web.recipes.models import Anchor, PlacingGuide

MOST_SIZES = 12


class GuideForm(EditForm):
    """What is placed, and from which edges."""

    name = forms.CharField(label="Name", max_length=60, help_text="like: vest, left chest")
    blank_kind = forms.ChoiceField(
        label="For", choices=[(kind, kind.replace("_", " ")) for kind in BLANK_KINDS]
    )
    anchor = forms.ChoiceField(label="What is measured to", choices=Anchor.choices)
    first_edge = forms.CharField(
        label="Down from", max_length=40, help_text="like: collar seam, hem, top of the pocket"
    )
    second_edge = forms.CharField(
        label="Sideways from",
        max_length=40,
        required=False,
        help_text="like: side seam; empty: the middle of the garment",
    )
    note = forms.CharField(label="Note", max_length=300, required=False)

    def clean_name(self) -> str:
        """Each name once."""
        name = str(self.cleaned_data["name"]).strip()
        same = PlacingGuide.objects.filter(name=name).exclude(
            pk=self.record.pk if self.record else None
        )
        if same.exists():
            raise forms.ValidationError("There is a guide of this name: change that one.")
        return name


class SizeForm(UnitForm):
    """One size of the garment; a row left empty is none."""

    size = forms.CharField(label="Size", max_length=20, required=False)
    first_mm = LengthField(label="Down", required=False, low=0, high=2000)
    second_mm = LengthField(label="Sideways to the art’s middle", required=False, low=0, high=2000)
    across_mm = LengthField(label="Garment’s width there", required=False, low=10, high=3000)

    def clean(self) -> dict[str, Any]:
        """A row that is begun has a name and its first distance."""
        data = super().clean() or self.cleaned_data
        begun = any(data.get(name) not in (None, "") for name in self.fields)
        if begun and not data.get("size"):
            self.add_error("size", "Name the size.")
        if begun and data.get("first_mm") is None and "first_mm" not in self.errors:
            self.add_error("first_mm", "Give the distance.")
        return data


SizeRows = forms.formset_factory(SizeForm, extra=3, max_num=MOST_SIZES, validate_max=True)
