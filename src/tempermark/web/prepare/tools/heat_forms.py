"""What the helpers about heat ask: a hot piece, a hover, a change of the dial."""

from typing import Any

from django import forms

from tempermark.core.preparing.heat.hovering import LONGEST_S
from tempermark.core.thermal.library.materials import materials
from tempermark.web.kit.forms.fields import (
    DwellField,
    LengthField,
    NumberField,
    TemperatureField,
    UnitForm,
    VolumeField,
    rows_field,
)
from tempermark.web.presses.models import Element
from tempermark.web.presses.queries import fitted_first
from tempermark.web.recipes.cards.queries import current_versions
from tempermark.web.recipes.models import RecipeVersion

RIGID_GROUPS = ("rigid", "plastic", "cloth")


class CoolingForm(UnitForm):
    """A hot piece: what it is of, how thick, how hot, and the room."""

    material = forms.ChoiceField(label="Material")
    thickness_mm = LengthField(label="Thickness", low=0.05, high=100)
    start_c = TemperatureField(label="It is now at", low=20, high=260)
    room_c = TemperatureField(label="Room", low=-20, high=50)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        field = self.fields["material"]
        if isinstance(field, forms.ChoiceField):
            field.choices = [
                (code, material.label)
                for code, material in materials().items()
                if material.group in RIGID_GROUPS
            ]


class RecipeField(forms.ModelChoiceField):  # type: ignore[type-arg]  # no generic at run time
    """A recipe by its name, without its version."""

    def label_from_instance(self, obj: RecipeVersion) -> str:
        """The recipe's name."""
        return str(obj.recipe.name)


class PressField(forms.ModelChoiceField):  # type: ignore[type-arg]  # no generic at run time
    """An element by its press."""

    def label_from_instance(self, obj: Element) -> str:
        """The press's name."""
        return str(obj.press.name)


class HoverForm(UnitForm):
    """A hover of a recipe over a press's own gap."""

    recipe = RecipeField(
        queryset=RecipeVersion.objects.none(), label="What hovers", empty_label=None
    )
    element = PressField(queryset=Element.objects.none(), label="Press", empty_label=None)
    gap_mm = LengthField(label="Gap to the platen", low=1, high=100)
    true_c = TemperatureField(label="Platen, true", low=60, high=260)
    seconds = DwellField(label="For", low=5, high=LONGEST_S)
    humidity = NumberField(label="Room humidity", min_value=0, max_value=100, suffix="%")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        hovering = [v.pk for v in current_versions() if _hovers(v)]
        rows_field(self, "recipe").queryset = current_versions().filter(pk__in=hovering)
        rows_field(self, "element").queryset = fitted_first().select_related("press")


def _hovers(version: RecipeVersion) -> bool:
    return any(step.kind == "hover" for step in version.sheet.steps)


class SettingChangeForm(UnitForm):
    """From which true temperature to which."""

    from_c = TemperatureField(label="Platen is now at, true", low=10, high=260)
    to_c = TemperatureField(label="To, true", low=30, high=260)


class SprayForm(UnitForm):
    """A sprayed coat: how large, how many, and what a bottle has been seen to cover."""

    width_mm = LengthField(label="Sprayed area, across", low=10, high=5000)
    height_mm = LengthField(label="Sprayed area, high", low=10, high=5000)
    pieces = forms.IntegerField(label="Pieces", min_value=1, max_value=10_000)
    coats = forms.IntegerField(label="Coats", min_value=1, max_value=6)
    square_ml = VolumeField(
        label="One coat on a square of 1 m takes", low=1, high=1000, help_text="a metre is 39 in"
    )


class BrushForm(UnitForm):
    """Brushed coats: pieces, sides, and how long each takes and dries."""

    number = forms.IntegerField(label="Pieces", min_value=1, max_value=60)
    sides = forms.TypedChoiceField(label="Sides", choices=[(1, "one"), (2, "two")], coerce=int)
    times = forms.IntegerField(label="Coats on each", min_value=1, max_value=6)
    brush_s = DwellField(label="Brushing one side", low=5, high=3600)
    dries_s = DwellField(label="A side dries", low=60, high=48 * 3600)
