"""Art on sheets: what fits lies inside the margin, apart, and nothing more would."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tempermark.core.preparing.size.sheets import SHEETS_MM, fit, smallest

SIDE = st.floats(1, 500)


@given(SIDE, SIDE, SIDE, SIDE, st.floats(0, 30), st.floats(0, 30))
def test_rows_lie_inside_and_one_more_would_not(wide, high, across, down, margin, apart):
    found = fit((wide, high), (across, down), margin, apart)
    room = (across - 2 * margin, down - 2 * margin)
    if found is None:
        assert not any(a <= room[0] and b <= room[1] for a, b in ((wide, high), (high, wide)))
        return
    art = (high, wide) if found.is_turned else (wide, high)
    for count, side, length in zip((found.columns, found.rows), art, room, strict=True):
        assert count * side + (count - 1) * apart <= length + 1e-6 * length
        assert (count + 1) * side + count * apart > length * (1 - 1e-6) - 1e-6
    for turned in ((wide, high), (high, wide)):
        counts = [int((r + apart) / (s + apart) + 1e-9) for r, s in zip(room, turned, strict=True)]
        assert counts[0] * counts[1] <= found.count


def test_as_many_as_fit_exactly_are_counted():
    found = fit((70, 99), SHEETS_MM["A4"], 0)
    assert (found.columns, found.rows, found.count) == (3, 3, 9)
    assert found.sheets_for(10) == 2


def test_letter_and_a4_differ_in_both_directions():
    assert smallest((213, 270), 0) == "Letter"
    assert smallest((205, 290), 0) == "A4"
    assert smallest((1500, 500), 5) is None


@pytest.mark.parametrize("name", SHEETS_MM)
def test_a_sheet_takes_itself_only_without_a_margin(name):
    assert fit(SHEETS_MM[name], SHEETS_MM[name], 0).count == 1
    assert fit(SHEETS_MM[name], SHEETS_MM[name], 3) is None
