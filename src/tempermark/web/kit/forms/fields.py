"""Form fields that understand what is typed at the bench, in the person's own unit."""

import math
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.db import models

from tempermark.core.constants import TEMPERATURE_RANGE_C
from tempermark.core.errors import InputError
from tempermark.core.units import from_si, read_entry, to_si
from tempermark.web.kit.figures import temperature_text, typed_number
from tempermark.web.kit.units import METRIC, Units
from tempermark.web.kit.wording import error_text

# Quantity → what its field understands besides a plain number.
UNDERSTOOD = {
    "temperature": "383f or 195c",
    "difference": "9f or 5k",
    "length": "3 1/2 in, 90 mm or 9 cm",
    "pressure": "40 psi, 2.8 bar or 275 kPa",
    "time": "90, 1:30 or 1.5 min",
    "volume": "8 fl oz, 1 cup or 250 ml",
    "mass": "0.2 oz or 5 g",
    "weight": "26 lb or 12 kg",
    "altitude": "1200 ft or 370 m",
}
# A figure shown in inches is rounded to a thousandth; half of one must not push it out of range.
SHOWN_TO_MM = 0.013


class FigureField(forms.CharField):
    """A typed figure of one quantity: SI inside, the person's unit outside. A typed unit always
    wins; what was typed stays on an error.
    """

    quantity = "length"

    def __init__(
        self, *, low: float = -math.inf, high: float = math.inf, suffix: str = "", **kwargs: Any
    ) -> None:
        kwargs.setdefault("max_length", 40)
        super().__init__(**kwargs)
        self.low, self.high, self._suffix = low, high, suffix
        self.units = METRIC
        self.widget.attrs.update(inputmode="text", autocomplete="off", size=8)
        self.widget.attrs["aria-description"] = f"also {self.understands}"

    def use_units(self, units: Units) -> None:
        """Read and show figures in a person's units."""
        self.units = units

    @property
    def suffix(self) -> str:
        """What stands behind the box: the unit, unless the field has words of its own."""
        return self._suffix or self.units.symbol(self.quantity)

    @property
    def understands(self) -> str:
        """What may be typed besides a plain number."""
        return UNDERSTOOD[self.quantity]

    def clean(self, value: str | None) -> float | None:
        """The figure in SI, or None where the field may be empty."""
        text = super().clean(value)
        if not text:
            return None
        number = self._read(text)
        if not self.low <= number <= self.high:
            raise ValidationError(
                f"{text} is out of range. Right is {self.span()}.{self.meant(text)}"
            )
        return number

    def _read(self, text: str) -> float:
        try:
            value = read_entry(text, self.quantity, self.units.of(self.quantity)).value
        except InputError as error:
            raise ValidationError(error_text(error, self.units)) from None
        return self._as_shown(value)

    def _as_shown(self, value: float) -> float:
        return value

    def meant(self, text: str) -> str:
        """What may have been meant by a figure out of range; nothing where nobody can tell."""
        return ""

    def span(self) -> str:
        """The range in the person's unit."""
        low, high = (
            typed_number(value, self.quantity, self.units) if math.isfinite(value) else None
            for value in (self.low, self.high)
        )
        suffix = self.units.symbol(self.quantity)
        if high is None:
            return f"{low} {suffix} or more"
        return f"up to {high} {suffix}" if low is None else f"{low} to {high} {suffix}"

    def prepare_value(self, value: float | str | None) -> str | None:
        """A stored number as the person types it; typed text as it is."""
        if value is None or isinstance(value, str):
            return value
        return typed_number(value, self.quantity, self.units)


class LengthField(FigureField):
    """mm inside; `4.7 in` and `3 1/2"` are understood."""

    def _as_shown(self, value: float) -> float:
        """A whole millimetre that was only shown rounded in inches."""
        near = round(value) if self.units.length == "in" else value
        return float(near) if abs(near - value) < SHOWN_TO_MM and near else value


class DwellField(FigureField):
    """s; `2 min` and `2:00` are understood."""

    quantity = "time"


class VolumeField(FigureField):
    """ml inside; the person's unit outside."""

    quantity = "volume"


class PressureField(FigureField):
    """kPa inside; `80 psi` and `5.5 bar` are understood."""

    quantity = "pressure"


class AltitudeField(FigureField):
    """m inside; `1200 ft` is understood."""

    quantity = "altitude"


class WeightField(FigureField):
    """kg inside; `26 lb` is understood."""

    quantity = "weight"


class TemperatureField(FigureField):
    """°C inside; `383f` is understood in any case."""

    quantity = "temperature"

    def __init__(self, **kwargs: Any) -> None:
        low, high = TEMPERATURE_RANGE_C
        super().__init__(**{"low": low, "high": high, **kwargs})

    def meant(self, text: str) -> str:
        """The same figure in the other scale, where that is in range."""
        other = "c" if self.units.temperature == "f" else "f"
        figure = text.strip().rstrip("°cCfF ").replace(",", ".")
        try:
            number = read_entry(f"{figure}{other}", self.quantity, other).value
        except InputError:
            return ""
        in_range = self.low <= number <= self.high
        return f" For {figure} °{other.upper()} type {figure}{other}." if in_range else ""

    def span(self) -> str:
        """The range in the person's unit."""
        return " to ".join(temperature_text(v, self.units) for v in (self.low, self.high))


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

    units = METRIC
    understands = UNDERSTOOD["difference"]

    def use_units(self, units: Units) -> None:
        """Read and show differences in K or °F."""
        self.units, self.suffix = units, units.symbol("difference")

    def __init__(self, **kwargs: Any) -> None:
        super().__init__(**{"suffix": METRIC.symbol("difference"), **kwargs})

    def to_python(self, value: Any) -> Any:
        """The difference in K, before its range is looked at; a typed unit wins."""
        if isinstance(value, str) and value.strip():
            try:
                return read_entry(value, "difference", self.units.temperature).value
            except InputError as error:
                raise ValidationError(error_text(error, self.units)) from None
        number = super().to_python(value)
        return None if number is None else to_si(number, "difference", self.units.temperature)

    def prepare_value(self, value: float | str | None) -> str | None:
        """K in the person's degrees."""
        if isinstance(value, (int, float)):
            value = from_si(value, "difference", self.units.temperature)
        return super().prepare_value(value)


class UnitForm(forms.Form):
    """A form whose fields speak the person's units. Raises TypeError where figures are asked for
    and nobody said in whose units.
    """

    def __init__(self, *args: Any, units: Units | None = None, **kwargs: Any) -> None:
        super().__init__(*args, **{"label_suffix": ""} | kwargs)
        figures = [f for f in self.fields.values() if isinstance(f, FigureField | DifferenceField)]
        if figures and units is None:
            raise TypeError(f"{type(self).__name__} asks for figures: say in whose units.")
        self.units = units or METRIC
        for field in figures:
            field.use_units(self.units)


def as_typed(form: type[forms.BaseForm], values: dict[str, Any], units: Units) -> dict[str, Any]:
    """Values as a person with these units would have typed them into a form; what is no number
    stays as it is.
    """
    fields = form.base_fields  # type: ignore[attr-defined]
    return {
        name: typed_number(value, fields[name].quantity, units)
        if isinstance(value, int | float) and isinstance(fields.get(name), FigureField)
        else value
        for name, value in values.items()
    }


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
