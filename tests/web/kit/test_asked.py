"""Numbers in a request: whatever is written is read or is none, never an error."""

from math import isfinite

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tempermark.web.kit.forms.numbers import BIGGEST_KEY, number, row_key, whole

anything = st.text() | st.none() | st.integers() | st.floats() | st.lists(st.text())


@given(anything)
def test_whatever_is_asked_for_is_read_or_none(text):
    found = whole(text)
    assert found is None or 0 <= found <= BIGGEST_KEY
    assert found is None or int(text) == found
    assert row_key(text) == (found or 0)
    value = number(text)
    assert value is None or isfinite(value)


@given(st.integers(0, BIGGEST_KEY))
def test_every_key_is_read(key):
    assert whole(str(key)) == row_key(str(key)) == key


@given(st.floats(-1e6, 1e6))
def test_every_figure_is_read(value):
    assert number(repr(value)) == value


@pytest.mark.parametrize("text", ["", "-1", "1.5", "9" * 5000, "٣", "1e3", "\0", " 1", "+1", "x"])
def test_what_is_no_key_names_no_row(text):
    assert whole(text) is None
    assert row_key(text) == 0


@pytest.mark.parametrize("text", ["", "nan", "inf", "1e400", "9" * 5000, "\0", "ten"])
def test_what_is_no_figure_is_none(text):
    assert number(text) is None
