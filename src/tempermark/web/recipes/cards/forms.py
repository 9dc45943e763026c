"""A recipe as a form: its head, its steps, its schools."""

from dataclasses import fields
from typing import Any

from django import forms
from django.core.exceptions import ValidationError

from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.errors import InputError
from tempermark.core.recipes.blank_types import blank_types
from tempermark.core.recipes.layers import MOST_LAYERS, entry_text, read_layer
from tempermark.core.recipes.steps import KINDS, MAIN, RecipeStep, School, Sheet
from tempermark.core.vocabulary.methods import METHOD_WORDS
from tempermark.core.vocabulary.settings import PEELS, PRESSURE_CLASSES
from tempermark.core.vocabulary.things import BLANK_KINDS
from tempermark.web.kit.forms.fields import (
    DwellField,
    LengthField,
    TemperatureField,
    UnitForm,
    choice_field,
)
from tempermark.web.recipes.materials.library import ShopLibrary

MOST_STEPS, MOST_SCHOOLS, MOST_LINES = 30, 4, 12
LONGEST_LINE, LONGEST_LAYER = 200, 60
LOW_C, HIGH_C = 40.0, 260.0
# A rest before a wash may last days.
LONGEST_STEP_S = 14 * 86_400.0
NOT_SET = [("", "none")]
PRESSURE_CHOICES = NOT_SET + [(p, p) for p in PRESSURE_CLASSES]
PEEL_CHOICES = NOT_SET + [(p, p) for p in PEELS]


class LinesField(forms.CharField):
    """Texts, one a line."""

    def __init__(self, rows: int = 2, **kwargs: Any) -> None:
        super().__init__(
            required=False, max_length=4000, widget=forms.Textarea(attrs={"rows": rows}), **kwargs
        )

    def clean(self, value: str) -> tuple[Any, ...]:
        """The lines that hold something."""
        lines = [line.strip() for line in super().clean(value).splitlines() if line.strip()]
        if len(lines) > MOST_LINES:
            raise ValidationError(f"At most {MOST_LINES} lines.")
        long = [line for line in lines if len(line) > LONGEST_LINE]
        if long:
            raise ValidationError(f"“{long[0][:30]}…” is over {LONGEST_LINE} characters.")
        return tuple(lines)

    def prepare_value(self, value: str | tuple[Any, ...] | None) -> str:
        """One a line."""
        return "\n".join(value) if isinstance(value, (list, tuple)) else value


class StackField(forms.CharField):
    """Layers from the platen down, one a line, in the library's words."""

    def __init__(self, **kwargs: Any) -> None:
        super().__init__(
            required=False,
            max_length=2000,
            widget=forms.Textarea(attrs={"rows": 5, "list": "layers"}),
            **kwargs,
        )
        self.library: dict[str, Any] = {}

    def clean(self, value: str) -> tuple[Any, ...]:
        """Stored entries."""
        lines = [line for line in super().clean(value).splitlines() if line.strip()]
        if len(lines) > MOST_LAYERS:
            raise ValidationError(f"At most {MOST_LAYERS} layers.")
        try:
            entries = tuple(read_layer(line, self.library) for line in lines)
        except InputError as error:
            raise ValidationError(str(error)) from None
        long = [entry for entry in entries if len(entry) > LONGEST_LAYER]
        if long:
            raise ValidationError(f"“{long[0][:30]}…” is over {LONGEST_LAYER} characters.")
        return entries

    def prepare_value(self, value: str | tuple[Any, ...] | None) -> str:
        """One a line, as people read them."""
        if isinstance(value, (list, tuple)):
            return "\n".join(entry_text(entry, self.library) for entry in value)
        return value


class WindowFields(UnitForm):
    """What a step and a school share: a window, pressure, peel and stack."""

    low_c = TemperatureField(label="True, from", required=False, low=LOW_C, high=HIGH_C)
    high_c = TemperatureField(label="to", required=False, low=LOW_C, high=HIGH_C)
    low_s = DwellField(label="Dwell, from", required=False, low=0.5, high=LONGEST_STEP_S)
    high_s = DwellField(label="to", required=False, low=0.5, high=LONGEST_STEP_S)
    pressure = forms.ChoiceField(label="Pressure", choices=PRESSURE_CHOICES, required=False)
    peel = forms.ChoiceField(label="Peel", choices=PEEL_CHOICES, required=False)
    stack = StackField(label="Stack, top to bottom, one a line")

    def __init__(self, *args: Any, library: ShopLibrary, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        stack = self.fields["stack"]
        if isinstance(stack, StackField):
            stack.library = library

    def span(self, low: str, high: str, what: str) -> tuple[float, float] | None:
        """From and to; one alone stands for both."""
        first, last = self.cleaned_data.get(low), self.cleaned_data.get(high)
        if first is None and last is None:
            return None
        first, last = first if first is not None else last, last if last is not None else first
        if first > last:
            self.add_error(high, f"The {what} ends before it begins.")
        return first, last

    def clean(self) -> dict[str, Any]:
        """Windows in order."""
        super().clean()
        data = self.cleaned_data
        data["temperature_c"] = self.span("low_c", "high_c", "temperature")
        data["time_s"] = self.span("low_s", "high_s", "dwell")
        return data


class StepForm(WindowFields):
    """One step."""

    kind = forms.ChoiceField(label="Kind", choices=[(k, v[0]) for k, v in KINDS.items()])
    do = forms.CharField(
        label="What is done", max_length=300, widget=forms.Textarea(attrs={"rows": 2})
    )
    gap_mm = LengthField(label="Hovers above", required=False, low=1, high=100)
    lower_low_c = TemperatureField(label="Lower, from", required=False, low=LOW_C, high=HIGH_C)
    lower_high_c = TemperatureField(label="to", required=False, low=LOW_C, high=HIGH_C)
    look_for = forms.CharField(label="Look for", max_length=200, required=False)
    cautions = LinesField(label="Cautions, one a line")

    def clean(self) -> dict[str, Any]:
        """What the press does needs its window; the main press all of it."""
        super().clean()
        data = self.cleaned_data
        data["lower_c"] = self.span("lower_low_c", "lower_high_c", "lower temperature")
        kind = data.get("kind")
        if kind is None:
            return data
        if KINDS[kind][1] and not {"low_c", "high_c", "low_s", "high_s"} & set(self.errors):
            if data["temperature_c"] is None:
                self.add_error("low_c", f"A {KINDS[kind][0]} needs its true temperature.")
            if data["time_s"] is None:
                self.add_error("low_s", f"A {KINDS[kind][0]} needs its dwell.")
        if kind == MAIN and not data.get("pressure"):
            self.add_error("pressure", "The press needs its pressure.")
        if kind == MAIN and not data.get("stack") and "stack" not in self.errors:
            self.add_error("stack", "The press needs its stack.")
        return data

    def step(self) -> RecipeStep:
        """The step, once valid."""
        return RecipeStep(**{f.name: self.cleaned_data[f.name] for f in fields(RecipeStep)})


class SchoolForm(WindowFields):
    """A school: only what it does differently is filled in."""

    name = forms.CharField(label="School", max_length=60)
    equal_dose = forms.BooleanField(
        label="Dwell with the same result as the main press", required=False
    )
    upper_only = forms.BooleanField(label="Lower platen off", required=False)
    costs = forms.CharField(label="Costs", max_length=200)
    risks = forms.CharField(label="Risks", max_length=200)
    polyester_from = forms.FloatField(
        label="Polyester, from", required=False, min_value=0, max_value=1
    )
    polyester_to = forms.FloatField(label="to", required=False, min_value=0, max_value=1)

    def clean(self) -> dict[str, Any]:
        """Equal dose needs a temperature."""
        super().clean()
        data = self.cleaned_data
        data["polyester"] = self.span("polyester_from", "polyester_to", "polyester")
        if data.get("equal_dose") and data["temperature_c"] is None:
            self.add_error("low_c", "Equal dose at which temperature?")
        return data

    def school(self) -> School:
        """The school, once valid."""
        return School(**{f.name: self.cleaned_data[f.name] for f in fields(School)})


class HeadForm(forms.Form):
    """What a recipe is for."""

    name = forms.CharField(label="Name", max_length=80)
    method = forms.ChoiceField(label="Method", choices=list(METHOD_WORDS.items()))
    blank_kind = forms.ChoiceField(
        label="Blank", choices=[(k, k.replace("_", " ")) for k in BLANK_KINDS]
    )
    blank = forms.ChoiceField(
        label="Bought as",
        required=False,
        choices=[("", "not listed"), *((k.code, k.label) for k in blank_types().values())],
        help_text="what it is computed for while the shop has no blank of this kind",
    )
    note = forms.CharField(label="Note", max_length=300, required=False)
    cautions = LinesField(label="Cautions, one a line")
    normal = LinesField(label="Normal, not a fault, one a line")
    faults = forms.MultipleChoiceField(
        label="Usual faults", required=False, widget=forms.SelectMultiple(attrs={"size": 5})
    )
    change = forms.CharField(
        label="What is different now, and why",
        max_length=200,
        help_text="kept with the version and its pieces",
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **{"label_suffix": ""} | kwargs)
        symptoms = shipped().symptoms.values()
        choice_field(self, "faults").choices = [(s.code, s.label) for s in symptoms]

    def clean(self) -> dict[str, Any]:
        """The kind of blank and what it is bought as belong together."""
        super().clean()
        data = self.cleaned_data
        kind = blank_types().get(data.get("blank") or "")
        chosen = data.get("blank_kind")
        if kind is not None and chosen is not None and kind.kind != chosen:
            self.add_error("blank", f"“{kind.label}” is a {kind.kind}, not a {chosen}.")
        return data

    def sheet(self, steps: tuple[RecipeStep, ...], schools: tuple[School, ...]) -> Sheet:
        """The recipe, once valid."""
        data = self.cleaned_data
        return Sheet(
            data["name"],
            data["method"],
            data["blank_kind"],
            steps,
            schools,
            data["cautions"],
            data["normal"],
            tuple(data["faults"]),
            data["note"],
            blank=data["blank"],
        )


def head_initial(sheet: Sheet) -> dict[str, Any]:
    """A recipe's head as the form begins."""
    names = ("name", "method", "blank_kind", "blank", "note", "cautions", "normal", "faults")
    return {name: getattr(sheet, name) for name in names}
