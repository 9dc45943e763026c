"""Fields that read what is typed at the bench."""

import pytest
from django import forms
from hypothesis import given
from hypothesis import strategies as st

from tempermark.web.kit.forms.fields import (
    DifferenceField,
    DwellField,
    LengthField,
    NumberField,
    TemperatureField,
    UnitForm,
)
from tempermark.web.kit.templatetags import figures


class Bench(UnitForm):
    set_c = TemperatureField(label="Dial")
    tolerance_c = DifferenceField(label="±", min_value=0.1, max_value=50)


@pytest.mark.parametrize(
    ("field", "typed", "value"),
    [
        (LengthField(), "4.7 in", 119.38),
        (LengthField(), "12 cm", 120),
        (DwellField(), "2 min", 120),
        (DwellField(), "7,5", 7.5),
        (TemperatureField(), "383f", 195),
        (TemperatureField(), "195 °C", 195),
        (NumberField(), "0,92", 0.92),
    ],
)
def test_typed_figures_with_their_units(field, typed, value):
    assert field.clean(typed) == pytest.approx(value)


@pytest.mark.parametrize(
    ("field", "typed", "said"),
    [
        (LengthField(low=1, high=5000), "6000", "6000 is out of range. Right is 1 to 5000 mm."),
        (TemperatureField(), "700", "Right is −50"),
        (TemperatureField(), "12 psi", "is not a unit of temperature here"),
        (DwellField(), "soon", "“soon” is no figure"),
        (NumberField(), "inf", "finite|Enter a number"),
        (NumberField(), "nan", "Enter a number"),
    ],
)
def test_refusals_say_what_would_be_right(field, typed, said):
    with pytest.raises(forms.ValidationError, match=said):
        field.clean(typed)


def test_a_form_speaks_fahrenheit_and_holds_celsius():
    form = Bench({"set_c": "383", "tolerance_c": "9"}, unit="f")
    assert form.is_valid()
    assert form.cleaned_data == pytest.approx({"set_c": 195.0, "tolerance_c": 5.0})
    shown = Bench(initial={"set_c": 195.0, "tolerance_c": 5.0}, unit="f")
    assert 'value="383"' in str(shown["set_c"])
    assert 'value="9"' in str(shown["tolerance_c"])


@given(st.floats(-50, 600), st.sampled_from("cf"))
def test_what_is_shown_reads_back(value, unit):
    field = TemperatureField()
    field.use_unit(unit)
    assert field.clean(field.prepare_value(value)) == pytest.approx(value, abs=0.06)


def test_figures_never_claim_certainty_and_use_real_minus_signs():
    assert (figures.chance(1.0), figures.chance(0.0), figures.chance(0.856)) == (
        "0.99",
        "0.01",
        "0.86",
    )
    assert figures.temperature_text(-3.2, "c", 1) == "−3.2\u00a0°C"
    assert figures.difference_text(-0.04, "c", 1) == "0.0\u00a0K"
    assert figures.difference_text(5, "f") == "+9\u00a0°F"
    assert figures.temperature_text(None, "c") == "—"
