"""Figures of every form in both units: what is drawn is what is read, as it was drawn."""

import importlib
import pkgutil
from copy import deepcopy
from dataclasses import fields, replace
from types import SimpleNamespace

import pytest
from django import forms
from hypothesis import given, settings
from hypothesis import strategies as st

import tempermark.web
from tempermark.core.units import celsius_from_fahrenheit
from tempermark.web.kit.forms.fields import DifferenceField, FigureField, TemperatureField
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.units import IMPERIAL, METRIC, SYMBOLS, Units, units_from_code
from tempermark.web.measure.surveys.fields import TemperatureListField

QUANTITIES = [f.name for f in fields(Units)]
SPANS = {"temperature": (-30.0, 500.0), "difference": (-100.0, 100.0)}
# How far a figure may be from what it was before it was drawn: half of its last digit.
NEAR = {"temperature": {"abs": 0.06}, "length": {"abs": 0.027, "rel": 6e-4}}


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
        if hasattr(field, "use_units")
    ]


FIELDS = fields_with_units()


def test_all_forms_are_found():
    assert len({form for form, _, _ in FIELDS}) >= 12
    assert len(FIELDS) > 40


def in_range(field, share):
    """A value that the field takes, at a share of its range."""
    span = SPANS.get(getattr(field, "quantity", "difference"), (0.5, 500.0))
    names = ("low", "high") if hasattr(field, "low") else ("min_value", "max_value")
    low, high = (getattr(field, name) for name in names)
    low = span[0] if low is None else max(low, span[0])
    high = span[1] if high is None else min(high, span[1])
    return low + share * (high - low)


@pytest.mark.parametrize("units", [METRIC, IMPERIAL], ids=str)
@pytest.mark.parametrize(("form", "name", "field"), FIELDS, ids=lambda part: str(part)[:40])
@settings(max_examples=10)
@given(share=st.floats(0.02, 0.98))
def test_what_is_drawn_is_read(form, name, field, units, share):
    held, field = in_range(field, share), deepcopy(field)
    field.use_units(units)
    if isinstance(field, TemperatureListField):
        assert field.clean(field.prepare_value([held])) == pytest.approx([held], abs=0.06)
    elif isinstance(field, FigureField):
        near = NEAR.get(field.quantity, {"rel": 6e-4})
        assert field.clean(field.prepare_value(held)) == pytest.approx(held, **near)
    else:
        assert isinstance(field, DifferenceField)
        text = field.prepare_value(held)
        assert field.clean(text) == pytest.approx(held, rel=6e-4)


@given(figure=st.floats(100.0, 400.0), units=st.sampled_from([METRIC, IMPERIAL]))
def test_a_figure_means_the_unit_of_its_form_and_a_typed_unit_wins(figure, units):
    field = TemperatureField()
    field.use_units(units)
    as_fahrenheit = celsius_from_fahrenheit(figure)
    assert field.clean(f"{figure:.6f}") == pytest.approx(
        figure if units == METRIC else as_fahrenheit
    )
    assert field.clean(f"{figure:.6f} f") == pytest.approx(as_fahrenheit)
    assert field.clean(f"{figure:.6f} °C") == pytest.approx(figure)


@given(
    carried=st.text(max_size=3)
    | st.sampled_from(["f", "f-in", IMPERIAL.code, "f-in-psi-floz-oz-x"]),
    own=st.sampled_from([METRIC, IMPERIAL]),
)
def test_the_units_of_a_form_are_its_own_or_its_readers(carried, own):
    reader = SimpleNamespace(units=own)
    sent = SimpleNamespace(method="POST", POST={"units": carried}, GET={}, user=reader)
    meant = {
        "c": replace(own, temperature="c"),
        "f": replace(own, temperature="f"),
        "f-in": replace(own, temperature="f", length="in"),
        IMPERIAL.code: IMPERIAL,
    }
    assert form_units(sent) == meant.get(carried, own)


@given(st.builds(Units, **{q: st.sampled_from(sorted(SYMBOLS[q])) for q in QUANTITIES}))
def test_units_travel_in_a_form_and_back(units):
    assert units_from_code(units.code) == units
