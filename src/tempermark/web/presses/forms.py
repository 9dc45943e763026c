"""Forms of the register."""

from dataclasses import dataclass
from typing import Any
from urllib.parse import urlsplit

from django import forms

from tempermark.core.constants import PLATEN_RANGE_MM
from tempermark.core.vocabulary.makes import usual_make
from tempermark.web.kit.figures import pressure_text
from tempermark.web.kit.forms.editing import EditForm
from tempermark.web.kit.forms.fields import (
    DifferenceField,
    LengthField,
    PressureField,
    TemperatureField,
    UnitForm,
    WeightField,
    choice_field,
    row_choices,
    row_field,
)
from tempermark.web.kit.forms.moments import DayField
from tempermark.web.presses.models import Element, ElementRole, EventKind, Mechanism, Press


def _choice(name: str, label: str) -> forms.ChoiceField:
    field = row_field(Press, name)
    empty = [("", "not recorded")] if field.blank else []
    return forms.ChoiceField(
        label=label, choices=[*empty, *field.choices], required=not field.blank, initial=""
    )


def _day(label: str) -> DayField:
    widget = forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")
    return DayField(label=label, required=False, widget=widget)


@dataclass(frozen=True)
class Group:
    """Fields of one subject, and what they are good for."""

    title: str
    unlocks: str
    names: tuple[str, ...]


GROUPS = (
    Group(
        "Dial and timer",
        "Settings come in your dial’s own steps and degrees; a long dwell is split where the timer "
        "ends.",
        (
            "display_unit",
            "resolution_c",
            "control_low_c",
            "control_high_c",
            "timer_max_s",
            "timer_starts",
        ),
    ),
    Group(
        "Pressure",
        "How far to turn the knob, or what air to set, for each blank.",
        (
            "mechanism",
            "tightens",
            "lift_mm_per_turn",
            "line_kpa",
            "max_line_kpa",
            "cylinder_mm",
            "cylinders",
            "plate_kg",
        ),
    ),
    Group(
        "Pad and cover",
        "When they are worn; a warning where a cover is wrong for the recipe; heat lost below.",
        (
            "pad",
            "pad_mm",
            "pad_condition",
            "pad_since",
            "pad_life_closings",
            "cover",
            "cover_condition",
            "cover_since",
            "cover_life_closings",
        ),
    ),
    Group(
        "Target and care",
        "What the floor page aims at, when a survey is due, and the order of the presses.",
        ("target_c", "tolerance_c", "survey_every_days", "place", "note"),
    ),
)
FIRST = ("name", "kind")


class PressForm(EditForm):
    """Everything about a press but its elements."""

    name = forms.CharField(label="Name", max_length=40)
    kind = _choice("kind", "Kind")
    place = forms.IntegerField(label="Place on the floor", min_value=0, max_value=999)
    target_c = TemperatureField(label="Usual target, true")
    tolerance_c = DifferenceField(label="Tolerance ±", min_value=0.1, max_value=50)
    survey_every_days = forms.IntegerField(
        label="Survey every", min_value=1, max_value=400, help_text="days"
    )
    control_low_c = TemperatureField(label="Controller range from", required=False)
    control_high_c = TemperatureField(label="Controller range to", required=False)
    resolution_c = DifferenceField(label="Controller step", min_value=0.01, max_value=20)
    display_unit = _choice("display_unit", "Display shows")
    timer_max_s = forms.IntegerField(
        label="Timer goes up to",
        min_value=1,
        max_value=7200,
        required=False,
        help_text="s, if it has a limit",
    )
    timer_starts = _choice("timer_starts", "Timer is started by")
    mechanism = _choice("mechanism", "Pressure by")
    mechanism.required = False
    mechanism.choices = [("", "as is usual for its kind"), *Mechanism.choices]
    tightens = _choice("tightens", "Knob tightens")
    lift_mm_per_turn = LengthField(label="Lift per turn", required=False, low=0.05, high=20)
    line_kpa = PressureField(label="Air pressure", required=False, low=1, high=2000)
    cylinder_mm = LengthField(label="Cylinder across", required=False, low=5, high=1000)
    cylinders = forms.IntegerField(label="Cylinders", min_value=1, max_value=20, required=False)
    max_line_kpa = PressureField(label="Rated for, at most", required=False, low=1, high=2000)
    plate_kg = WeightField(
        label="Hand plate weighs",
        required=False,
        low=0.05,
        high=50,
        help_text="by itself",
    )
    pad = _choice("pad", "Pad")
    pad_mm = LengthField(label="Pad thickness", required=False, low=0.5, high=100)
    pad_condition = _choice("pad_condition", "Pad condition")
    pad_since = _day("Pad since")
    cover = _choice("cover", "Cover on the platen")
    cover_since = _day("Cover since")
    cover_condition = _choice("cover_condition", "Cover condition")
    pad_life_closings = forms.IntegerField(
        label="Pad lasts", min_value=100, max_value=1_000_000, required=False, help_text="closings"
    )
    cover_life_closings = forms.IntegerField(
        label="Cover lasts",
        min_value=100,
        max_value=1_000_000,
        required=False,
        help_text="closings",
    )
    note = forms.CharField(label="Note", max_length=400, required=False)

    def first(self) -> list[forms.BoundField]:
        """What every press needs."""
        return [self[name] for name in FIRST]

    def groups(self) -> list[dict[str, Any]]:
        """The rest, by subject; a group with an error in it is open."""
        return [
            {
                "title": group.title,
                "unlocks": group.unlocks,
                "fields": [self[name] for name in group.names],
                "open": any(name in self.errors for name in group.names),
            }
            for group in GROUPS
        ]

    def clean(self) -> dict[str, Any]:
        """The controller's range must be one; what its kind usually has where nothing is said."""
        super().clean()
        data = self.cleaned_data
        if "mechanism" in data and not data["mechanism"] and data.get("kind"):
            data["mechanism"] = usual_make(data["kind"]).mechanism
        low, high = data.get("control_low_c"), data.get("control_high_c")
        if low is not None and high is not None and low >= high:
            self.add_error("control_high_c", "The end of the range must be above its start.")
        line, most = data.get("line_kpa"), data.get("max_line_kpa")
        if line is not None and most is not None and line > most:
            rated = pressure_text(most, self.units)
            self.add_error("line_kpa", f"That is more than the press is rated for: {rated}.")
        return data


class PlatenPlaceForm(UnitForm):
    """A place on a platen."""

    x_mm = LengthField(label="To the right", low=0, high=PLATEN_RANGE_MM[1])
    y_mm = LengthField(label="To the back", low=0, high=PLATEN_RANGE_MM[1])


class ElementForm(UnitForm):
    """A heated element that is new in the house."""

    role = forms.ChoiceField(label="Which", choices=ElementRole.choices)
    label = forms.CharField(label="Its label", max_length=60, required=False)
    shape = forms.ChoiceField(label="Shape", choices=row_choices(Element, "shape"))
    width_mm = LengthField(label="Across", low=PLATEN_RANGE_MM[0], high=PLATEN_RANGE_MM[1])
    height_mm = LengthField(label="Front to back", low=PLATEN_RANGE_MM[0], high=PLATEN_RANGE_MM[1])
    top_diameter_mm = LengthField(label="Diameter at the top", required=False, low=5, high=2000)
    bottom_diameter_mm = LengthField(
        label="Diameter at the bottom", required=False, low=5, high=2000
    )
    closes_by_mm = LengthField(
        label="A sleeve closes by", required=False, low=0.1, high=100, help_text="below open"
    )
    own_setting = forms.BooleanField(label="Has a dial of its own", required=False)


class FirstElementForm(ElementForm):
    """The element of a new press: its size; the rest as is usual for the kind of press."""

    role = forms.ChoiceField(
        label="Which",
        required=False,
        choices=[("", "as is usual for its kind"), *ElementRole.choices],
    )
    shape = forms.ChoiceField(
        label="Shape",
        required=False,
        choices=[("", "as is usual for its kind"), *row_choices(Element, "shape")],
    )

    def size(self) -> list[forms.BoundField]:
        """Across and front to back."""
        return [self["width_mm"], self["height_mm"]]

    def rest(self) -> list[forms.BoundField]:
        """What is only asked for where it is unusual."""
        return [field for field in self if field.name not in ("width_mm", "height_mm")]

    def rest_errors(self) -> bool:
        """Whether something is wrong among those."""
        return any(field.errors for field in self.rest())

    def of_kind(self, kind: str) -> dict[str, Any]:
        """Values of the element of a press of a kind, once the form is valid."""
        make = usual_make(kind)
        usual = {"role": make.role, "shape": make.shape}
        return self.cleaned_data | {k: self.cleaned_data[k] or v for k, v in usual.items()}


class EventForm(forms.Form):
    """What was done to the press."""

    kind = forms.ChoiceField(
        label="What was done",
        choices=[("", "choose"), *(c for c in EventKind.choices if c[0] != EventKind.ELEMENT)],
    )
    note = forms.CharField(label="Note", max_length=400, required=False)

    def __init__(self, *args: Any, leads: bool = True, **kwargs: Any) -> None:
        super().__init__(*args, **{"label_suffix": ""} | kwargs)
        if not leads:
            kinds = choice_field(self, "kind")
            kinds.choices = [
                ("", "choose"),
                *(
                    c
                    for c in EventKind.choices
                    if c[0] not in (EventKind.ELEMENT, EventKind.NEW_MAP)
                ),
            ]


class PhotoForm(forms.Form):
    """A picture and what it shows."""

    file = forms.FileField(
        label="Picture",
        allow_empty_file=True,
        widget=forms.ClearableFileInput(attrs={"accept": "image/jpeg,image/png,image/webp"}),
    )
    caption = forms.CharField(label="What it shows", max_length=120, required=False)


class AddressForm(forms.Form):
    """Under which address tablets reach this application."""

    base = forms.URLField(
        label="Address the codes open", max_length=120, assume_scheme="http", required=True
    )

    def clean_base(self) -> str:
        """Only pages, and without a path or a query."""
        base = self.cleaned_data["base"]
        parts = urlsplit(base)
        if parts.scheme not in ("http", "https") or parts.path not in ("", "/") or parts.query:
            raise forms.ValidationError("Right is like http://192.168.1.20:8640")
        return str(base)
