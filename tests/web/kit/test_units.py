"""Figures of every form in both units: what is drawn is what is read, as it was drawn."""

import importlib
import pkgutil
from types import SimpleNamespace

import pytest
from django import forms
from hypothesis import given
from hypothesis import strategies as st

import tempermark.web
from tempermark.core.units import celsius_from_fahrenheit
from tempermark.web.kit.forms.fields import DifferenceField, TemperatureField
from tempermark.web.kit.forms.units import form_units
from tempermark.web.measure.surveys.fields import TemperatureListField

SPAN_C, SPAN_K = (-30.0, 500.0), (-100.0, 100.0)


def _load_all():
    """Every module of the pages, so that every form is known."""
    for found in pkgutil.walk_packages(tempermark.web.__path__, "tempermark.web."):
        if "forms" in found.name or "views" in found.name:
            importlib.import_module(found.name)


def _below(form):
    for one in form.__subclasses__():
        yield one
        yield from _below(one)


def fields_with_units():
    """Form, name and field of every figure whose units a person chooses."""
    _load_all()
    ours = {f for f in _below(forms.Form) if f.__module__.startswith("tempermark")}
    return [
        (form.__name__, name, field)
        for form in sorted(ours, key=lambda form: f"{form.__module__} {form.__name__}")
        for name, field in form.base_fields.items()
        if hasattr(field, "use_unit")
    ]


FIELDS = fields_with_units()


def test_all_forms_are_found():
    assert len({form for form, _, _ in FIELDS}) >= 12
    assert len(FIELDS) > 40


def in_range(field, value):
    """A value that the field takes, where it has a range."""
    low = getattr(field, "low", None) if isinstance(field, TemperatureField) else field.min_value
    high = getattr(field, "high", None) if isinstance(field, TemperatureField) else field.max_value
    low = SPAN_C[0] if low is None else max(low, SPAN_C[0])
    high = SPAN_C[1] if high is None else min(high, SPAN_C[1])
    return low + value * (high - low)


@pytest.mark.parametrize("unit", ["c", "f"])
@pytest.mark.parametrize(("form", "name", "field"), FIELDS, ids=lambda part: str(part)[:40])
@given(share=st.floats(0.02, 0.98))
def test_what_is_drawn_is_read(form, name, field, unit, share):
    held = in_range(field, share)
    field.use_unit(unit)
    if isinstance(field, TemperatureListField):
        assert field.clean(field.prepare_value([held])) == pytest.approx([held], abs=0.06)
    elif isinstance(field, TemperatureField):
        assert field.clean(field.prepare_value(held)) == pytest.approx(held, abs=0.06)
    else:
        assert isinstance(field, DifferenceField)
        text = field.prepare_value(held)
        assert field.clean(text) == pytest.approx(held, rel=6e-4)


@given(figure=st.floats(100.0, 400.0), unit=st.sampled_from("cf"))
def test_a_figure_means_the_unit_of_its_form_and_a_typed_unit_wins(figure, unit):
    field = TemperatureField()
    field.use_unit(unit)
    as_fahrenheit = celsius_from_fahrenheit(figure)
    assert field.clean(f"{figure:.6f}") == pytest.approx(figure if unit == "c" else as_fahrenheit)
    assert field.clean(f"{figure:.6f} f") == pytest.approx(as_fahrenheit)
    assert field.clean(f"{figure:.6f} °C") == pytest.approx(figure)


@given(carried=st.text(max_size=3), own=st.sampled_from("cf"))
def test_the_units_of_a_form_are_its_own_or_its_readers(carried, own):
    reader = SimpleNamespace(temperature_unit=own)
    asked = SimpleNamespace(method="POST", POST={"units": carried}, GET={}, user=reader)
    assert form_units(asked) == (carried if carried in ("c", "f") else own)
