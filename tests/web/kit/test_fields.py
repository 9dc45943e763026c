"""Fields that read what is typed at the bench."""

import pytest
from django import forms
from hypothesis import given
from hypothesis import strategies as st

from tempermark.web.kit import figures
from tempermark.web.kit.forms.fields import (
    DifferenceField,
    DwellField,
    LengthField,
    NumberField,
    PressureField,
    TemperatureField,
    UnitForm,
    WeightField,
)
from tempermark.web.kit.units import IMPERIAL, METRIC


class Bench(UnitForm):
    set_c = TemperatureField(label="Dial")
    tolerance_c = DifferenceField(label="±", min_value=0.1, max_value=50)


@pytest.mark.parametrize(
    ("field", "typed", "value"),
    [
        (LengthField(), "4.7 in", 119.38),
        (LengthField(), "12 cm", 120),
        (LengthField(), "3 1/2 in", 88.9),
        (LengthField(), '3 1/2"', 88.9),
        (PressureField(), "40 psi", 275.79),
        (PressureField(), "2,5 bar", 250),
        (WeightField(), "10 lb", 4.5359),
        (DwellField(), "2:00", 120),
        (DwellField(), "0:45", 45),
        (DifferenceField(), "9f", 5),
        (DwellField(), "2 min", 120),
        (DwellField(), "7,5", 7.5),
        (TemperatureField(), "383f", 195),
        (TemperatureField(), "195 °C", 195),
        (NumberField(), "0,92", 0.92),
    ],
)
def test_typed_figures_with_their_units(field, typed, value):
    assert field.clean(typed) == pytest.approx(value, rel=1e-4)


@pytest.mark.parametrize(
    ("field", "typed", "said"),
    [
        (LengthField(low=1, high=5000), "6000", "6000 is out of range. Right is 1 to 5000 mm."),
        (TemperatureField(), "700", "Right is −50"),
        (TemperatureField(), "12 psi", "is not a unit of temperature here"),
        (DwellField(), "soon", "“soon” is not a number"),
        (NumberField(), "inf", "finite|Enter a number"),
        (NumberField(), "nan", "Enter a number"),
    ],
)
def test_refusals_say_what_would_be_right(field, typed, said):
    with pytest.raises(forms.ValidationError, match=said):
        field.clean(typed)


def test_a_form_speaks_fahrenheit_and_holds_celsius():
    form = Bench({"set_c": "383", "tolerance_c": "9"}, units=IMPERIAL)
    assert form.is_valid()
    assert form.cleaned_data == pytest.approx({"set_c": 195.0, "tolerance_c": 5.0})
    shown = Bench(initial={"set_c": 195.0, "tolerance_c": 5.0}, units=IMPERIAL)
    assert 'value="383"' in str(shown["set_c"])
    assert 'value="9"' in str(shown["tolerance_c"])


@given(st.floats(-50, 600), st.sampled_from([METRIC, IMPERIAL]))
def test_what_is_shown_reads_back(value, units):
    field = TemperatureField()
    field.use_units(units)
    assert field.clean(field.prepare_value(value)) == pytest.approx(value, abs=0.06)


@given(st.integers(1, 5000))
def test_whole_millimetres_survive_being_shown_in_inches(value):
    """A platen of 400 mm, shown as 15.748 in, is not wider than itself when it is sent back."""
    field = LengthField(high=value)
    field.use_units(IMPERIAL)
    assert field.clean(field.prepare_value(float(value))) == value


def test_figures_never_claim_certainty_and_use_real_minus_signs():
    chances = [figures.chance_text(chance).replace("\u00a0", " ") for chance in (1.0, 0.0, 0.856)]
    assert chances == ["99 %", "1 %", "86 %"]
    assert figures.temperature_text(-3.2, METRIC, 1) == "−3.2\u00a0°C"
    assert figures.difference_text(-0.04, METRIC, 1) == "0.0\u00a0K"
    assert figures.difference_text(5, IMPERIAL) == "+9\u00a0°F"
    assert figures.temperature_text(None, METRIC) == "—"


@pytest.mark.parametrize(
    ("text", "metric", "imperial"),
    [
        (lambda u: figures.length_text(300, u), "300 mm", "11 13/16 in"),
        (lambda u: figures.length_text(9.525, u), "10 mm", "3/8 in"),
        (lambda u: figures.length_text(0.35, u, 2), "0.35 mm", "0.0138 in"),
        (lambda u: figures.length_text(-1.5, u, 1, sign=True), "−1.5 mm", "−0.059 in"),
        (lambda u: figures.size_text((380, 500), u), "380 × 500 mm", "14 15/16 × 19 11/16 in"),
        (lambda u: figures.place_text(0, 250, u), "0, 250 mm", "0, 9 13/16 in"),
        (lambda u: figures.pressure_text(40, u), "40 kPa", "5.8 psi"),
        (lambda u: figures.pressure_text(550, u), "550 kPa", "80 psi"),
        (lambda u: figures.pressures_text(20, 45, u), "20–45 kPa", "2.9–6.5 psi"),
        (lambda u: figures.volume_text(250, u), "250 ml", "8.5 fl oz"),
        (lambda u: figures.mass_text(12, u), "12 g", "0.42 oz"),
        (lambda u: figures.weight_text(12, u), "12 kg", "26 lb"),
        (lambda u: figures.difference_text(5, u), "+5 K", "+9 °F"),
        (lambda u: figures.temperature_text(195, u), "195 °C", "383 °F"),
    ],
)
def test_each_quantity_in_both_systems(text, metric, imperial):
    shown = [text(units).replace("\u00a0", " ") for units in (METRIC, IMPERIAL)]
    assert shown == [metric, imperial]


@given(st.floats(0, 3000))
def test_a_ruler_s_sixteenth_is_never_further_off_than_half_of_one(value_mm):
    shown = figures.length_text(value_mm, IMPERIAL)
    back = LengthField().clean(shown.replace("\u00a0", " "))
    assert abs(back - value_mm) <= 25.4 / 32 + 0.013
