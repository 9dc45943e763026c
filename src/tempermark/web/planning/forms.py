"""Orders, and what a plan is to serve."""

from datetime import datetime, timedelta
from typing import Any

from django import forms
from django.utils import timezone

from tempermark.core.days import EARLIEST_YEAR
from tempermark.web.jobs.models import MOST_PIECES
from tempermark.web.kit.forms.fields import LengthField, UnitForm, rows_field
from tempermark.web.kit.forms.moments import TYPED_FORMAT
from tempermark.web.planning.models import Objective
from tempermark.web.prepare.tools.heat_forms import RecipeField
from tempermark.web.presses.models import Press
from tempermark.web.recipes.cards.queries import current_versions
from tempermark.web.recipes.models import Blank, RecipeVersion

FARTHEST = timedelta(days=3 * 365)
MOST_PER_LOAD = 20


class DueField(forms.DateTimeField):
    """When something is to be done by: it may have passed, but not long ago."""

    def __init__(self, **kwargs: Any) -> None:
        attrs = {"type": "datetime-local", "step": "60"}
        widget = forms.DateTimeInput(attrs=attrs, format=TYPED_FORMAT)
        super().__init__(widget=widget, **kwargs)

    def clean(self, value: str | None) -> datetime | None:
        """The moment, refused where nothing can be due then."""
        try:
            moment = super().clean(value)
        except OverflowError:
            raise forms.ValidationError(self.error_messages["invalid"]) from None
        if moment is None:
            return None
        if moment.year < EARLIEST_YEAR or moment > timezone.now() + FARTHEST:
            raise forms.ValidationError(f"Nothing is due on {moment:%Y-%m-%d}: check the year.")
        return moment


class OrderForm(forms.Form):
    """An order."""

    reference = forms.CharField(label="Reference", max_length=40)
    customer = forms.CharField(label="For whom", max_length=120, required=False)
    due_at = DueField(label="Due", required=False)
    note = forms.CharField(label="Note", max_length=400, required=False)


class ItemForm(UnitForm):
    """So many pieces of a blank by a recipe."""

    recipe = RecipeField(
        queryset=RecipeVersion.objects.none(), label="Recipe", empty_label="choose"
    )
    blank = forms.ModelChoiceField(
        queryset=Blank.objects.all(), label="Blank", empty_label="choose"
    )
    blank_lot = forms.CharField(
        label="Lot of blanks", max_length=40, required=False, help_text="if it is to be one of them"
    )
    quantity = forms.IntegerField(label="Pieces", min_value=1, max_value=MOST_PIECES)
    per_load = forms.IntegerField(
        label="Pieces per load", min_value=1, max_value=MOST_PER_LOAD, initial=1
    )
    art_width_mm = LengthField(label="Art, across", low=1, high=5000)
    art_height_mm = LengthField(label="Art, front to back", low=1, high=5000)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        versions = current_versions().select_related("recipe").order_by("recipe__name")
        rows_field(self, "recipe").queryset = versions

    def clean(self) -> dict[str, Any]:
        """The blank is of the recipe's kind."""
        super().clean()
        data = self.cleaned_data
        version, blank = data.get("recipe"), data.get("blank")
        if version and blank and blank.kind != version.recipe.blank_kind:
            kind = version.recipe.get_blank_kind_display()
            self.add_error("blank", f"{blank.name} is not a {kind}, which this recipe prints.")
        return data


class PlanForm(forms.Form):
    """What a plan is to serve, and which presses are away."""

    objective = forms.ChoiceField(
        label="First of all", choices=Objective.choices, initial=Objective.LATENESS
    )
    begins_at = DueField(
        label="From", required=False, help_text="empty: now, with the presses as they stand"
    )
    without = forms.ModelMultipleChoiceField(
        queryset=Press.objects.all(),
        label="Presses that are down",
        required=False,
        widget=forms.CheckboxSelectMultiple,
    )

    def clean_begins_at(self) -> datetime | None:
        """Not what has passed."""
        begins: datetime | None = self.cleaned_data["begins_at"]
        if begins is not None and begins < timezone.now() - timedelta(minutes=1):
            raise forms.ValidationError("That has passed: leave it empty to plan from now.")
        return begins
