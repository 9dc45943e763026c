"""What technicians type."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tempermark.core.errors import InputError
from tempermark.core.units import celsius_from_fahrenheit, fahrenheit_from_celsius, read_entry


@pytest.mark.parametrize(
    ("text", "quantity", "unit", "value"),
    [
        ("195", "temperature", "c", 195.0),
        ("383f", "temperature", "c", 195.0),
        ("383 °F", "temperature", "c", 195.0),
        ("195c", "temperature", "f", 195.0),
        ("383", "temperature", "f", 195.0),
        ("7,5", "temperature", "c", 7.5),
        ("−12", "temperature", "c", -12.0),
        ("6 psi", "pressure", "kpa", 41.3685),
        ("2 min", "time", "s", 120.0),
        ('4.7"', "length", "mm", 119.38),
    ],
)
def test_understood(text, quantity, unit, value):
    assert read_entry(text, quantity, unit).value == pytest.approx(value, abs=1e-3)


def test_delay_after_opening():
    entry = read_entry("182 @6", "temperature", "c")
    assert (entry.value, entry.delay_s) == (182.0, 6.0)


@pytest.mark.parametrize(
    "text", ["", "hot", "1 2", "12,3,4", "=1+1", "195 bananas", "1e5", "nan", "--5"]
)
def test_refused_with_what_would_be_right(text):
    with pytest.raises(InputError, match=r"Type one like|Known"):
        read_entry(text, "temperature", "c")


@given(st.text(max_size=30))
def test_no_text_breaks_it(text):
    try:
        read_entry(text, "temperature", "c")
    except InputError:
        pass


@given(st.floats(-50, 600))
def test_fahrenheit_there_and_back(value):
    assert celsius_from_fahrenheit(fahrenheit_from_celsius(value)) == pytest.approx(value)
