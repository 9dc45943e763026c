"""Phrases: every value said, none missing, no unit written by the core's own hand."""

import ast
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tempermark.core import phrases
from tempermark.core.errors import InputError
from tempermark.core.phrases import difference, length, metric, phrase, rendered, temperature

CORE = Path(phrases.__file__).parent


@given(st.floats(-50, 400), st.floats(0, 2000))
def test_each_quantity_is_written_once(value_c, value_mm):
    text = phrase("at {dial}, {wide} wide", dial=temperature(value_c), wide=length(value_mm))
    seen = []

    def write(quantity):
        seen.append((quantity.kind, quantity.value))
        return "#"

    assert rendered(text, write) == "at #, # wide"
    assert seen == [("temperature", value_c), ("length", value_mm)]


def test_phrases_lie_in_phrases_and_fixed_quantities_convert_too():
    step = phrase("keep {300 mm} off")
    text = phrase("{first}; dial {up}", first=step, up=difference(4, signed=True))
    assert metric(text).replace("\xa0", " ") == "keep 300 mm off; dial +4 K"
    assert rendered(text, lambda q: q.kind) == "keep length off; dial difference"


def test_a_value_that_is_missing_is_named_where_the_phrase_is_built():
    with pytest.raises(KeyError, match="No value for wide"):
        phrase("{wide} wide")


def test_every_call_gives_the_values_its_text_names():
    """Also for phrases that no case of the tests comes to."""
    calls = [
        (text, {k.arg: "" for k in call.keywords})
        for path in CORE.rglob("*.py")
        for function in ast.walk(ast.parse(path.read_text()))
        if isinstance(function, ast.FunctionDef)
        for call in ast.walk(function)
        if isinstance(call, ast.Call)
        and getattr(call.func, "id", "") == "phrase"
        and all(k.arg for k in call.keywords)
        for text in _texts(function, call)
    ]
    assert len(calls) > 40
    for text, values in calls:
        phrase(text, **values)


def _texts(function, call):
    """The text of a call, or those its name was last given."""
    first = call.args[0]
    if isinstance(first, ast.Constant):
        return [first.value]
    before = [
        node
        for node in ast.walk(function)
        if isinstance(node, ast.Assign)
        and getattr(node.targets[0], "id", None) == getattr(first, "id", "")
        and node.lineno <= call.lineno
    ]
    last = max(before, key=lambda node: node.lineno, default=None)
    constants = (
        [] if last is None else [n for n in ast.walk(last.value) if isinstance(n, ast.Constant)]
    )
    return [n.value for n in constants if isinstance(n.value, str) and "{" in n.value]


def test_braces_that_somebody_typed_stay_braces():
    error = InputError.single("set_c", "“{{ 7 * 7 }}{x}” is not a temperature like {195 °C}.")
    assert str(error) == "“{{ 7 * 7 }}{x}” is not a temperature like 195 °C."
