"""Form fields that understand what is typed at the bench, in the person's own unit."""

import math
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.db import models

from tempermark.core.constants import TEMPERATURE_RANGE_C
from tempermark.core.errors import InputError
from tempermark.core.units import fahrenheit_from_celsius, read_entry
from tempermark.web.kit.templatetags.figures import temperature_text


class FigureField(forms.CharField):
    """A typed figure of one quantity, held in SI; what was typed stays on an error."""

    quantity = "length"
    default_unit = "mm"

    def __init__(
        self, *, low: float = -math.inf, high: float = math.inf, suffix: str = "", **kwargs: Any
    ) -> None:
        kwargs.setdefault("max_length", 40)
        super().__init__(**kwargs)
        self.low, self.high = low, high
        self.suffix = suffix or self.default_unit
        self.widget.attrs.update(inputmode="text", autocomplete="off", size=8)

    def clean(self, value: str | None) -> float | None:
        """The figure in SI, or None where the field may be empty."""
        text = super().clean(value)
        if not text:
            return None
        try:
            number = read_entry(text, self.quantity, self.default_unit).value
        except InputError as error:
            raise ValidationError(str(error)) from None
        if not self.low <= number <= self.high:
            raise ValidationError(
                f"{text} is out of range. Right is {self.span()}.{self.meant(text)}"
            )
        return number

    def meant(self, text: str) -> str:
        """What may have been meant by a figure out of range; nothing where nobody can tell."""
        return ""

    def span(self) -> str:
        """The range in words."""
        return f"{self.low:g} to {self.high:g} {self.suffix}"

    def prepare_value(self, value: float | str | None) -> str:
        """A stored number as the person types it; typed text as it is."""
        return value if value is None or isinstance(value, str) else f"{value:.4g}"


class LengthField(FigureField):
    """mm; `4.7 in` is understood."""


class DwellField(FigureField):
    """s; `2 min` is understood."""

    quantity = "time"
    default_unit = "s"


class PressureField(FigureField):
    """kPa; `80 psi` is understood."""

    quantity = "pressure"
    default_unit = "kpa"

    def __init__(self, **kwargs: Any) -> None:
        super().__init__(**{"suffix": "kPa", **kwargs})


class TemperatureField(FigureField):
    """°C inside, the person's unit outside; `383f` is understood in any case."""

    quantity = "temperature"
    default_unit = "c"

    def __init__(self, **kwargs: Any) -> None:
        low, high = TEMPERATURE_RANGE_C
        super().__init__(**{"low": low, "high": high, "suffix": "°C", **kwargs})

    def use_unit(self, unit: str) -> None:
        """Read and show figures in `c` or `f`."""
        self.default_unit = unit
        self.suffix = f"°{unit.upper()}"

    def meant(self, text: str) -> str:
        """The same figure in the other scale, where that is in range."""
        other = "c" if self.default_unit == "f" else "f"
        figure = text.strip().rstrip("°cCfF ").replace(",", ".")
        try:
            number = read_entry(f"{figure}{other}", self.quantity, other).value
        except InputError:
            return ""
        in_range = self.low <= number <= self.high
        return f" For {figure} °{other.upper()} type {figure}{other}." if in_range else ""

    def span(self) -> str:
        """The range in the person's unit."""
        return " to ".join(temperature_text(v, self.default_unit) for v in (self.low, self.high))

    def prepare_value(self, value: float | str | None) -> str:
        """A stored °C in the person's unit."""
        if value is None or isinstance(value, str):
            return value
        shown = fahrenheit_from_celsius(value) if self.default_unit == "f" else value
        return f"{shown:.1f}".removesuffix(".0")


class NumberField(forms.FloatField):
    """A plain finite number; a decimal comma is understood."""

    def __init__(self, *, suffix: str = "", **kwargs: Any) -> None:
        kwargs.setdefault("widget", forms.TextInput(attrs={"inputmode": "decimal", "size": 8}))
        super().__init__(**kwargs)
        self.suffix = suffix

    def to_python(self, value: Any) -> Any:
        """The number."""
        return super().to_python(value.replace(",", ".") if isinstance(value, str) else value)

    def prepare_value(self, value: float | str | None) -> str:
        """Without false digits."""
        return value if value is None or isinstance(value, str) else f"{value:.4g}"


class DifferenceField(NumberField):
    """A temperature difference: K inside, the person's degrees outside."""

    unit = "c"
    suffix = "K"

    def use_unit(self, unit: str) -> None:
        """Read and show differences in K or °F."""
        self.unit = unit
        self.suffix = "°F" if unit == "f" else "K"

    def to_python(self, value: Any) -> Any:
        """The difference in K, before its range is looked at."""
        number = super().to_python(value)
        return number / 1.8 if number is not None and self.unit == "f" else number

    def prepare_value(self, value: float | str | None) -> str:
        """K in the person's degrees."""
        if isinstance(value, (int, float)) and self.unit == "f":
            value = value * 1.8
        return super().prepare_value(value)


class UnitForm(forms.Form):
    """A form whose temperature fields speak the person's unit."""

    def __init__(self, *args: Any, unit: str = "c", **kwargs: Any) -> None:
        super().__init__(*args, **{"label_suffix": ""} | kwargs)
        for field in self.fields.values():
            if hasattr(field, "use_unit"):
                field.use_unit(unit)


def choice_field(form: forms.BaseForm, name: str) -> forms.ChoiceField:
    """A form's field with choices. Raises TypeError for any other."""
    field = form.fields[name]
    if not isinstance(field, forms.ChoiceField):
        raise TypeError(f"{name} has no choices.")
    return field


def rows_field(form: forms.BaseForm, name: str) -> "forms.ModelChoiceField[Any]":
    """A form's field that chooses among rows. Raises TypeError for any other."""
    field = form.fields[name]
    if not isinstance(field, forms.ModelChoiceField):
        raise TypeError(f"{name} does not choose among rows.")
    return field


def row_choices(model: type[models.Model], name: str) -> list[tuple[str, str]]:
    """The choices of a model's field, for a form's."""
    return list(row_field(model, name).choices or ())


def row_field(model: type[models.Model], name: str) -> "models.Field[Any, Any]":
    """A model's own field. Raises TypeError for a relation from elsewhere."""
    field = model._meta.get_field(name)
    if not isinstance(field, models.Field):
        raise TypeError(f"{name} is no field of {model.__name__}.")
    return field
