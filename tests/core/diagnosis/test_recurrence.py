"""Platen or blank: pieces whose art lay elsewhere tell."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tempermark.core.diagnosis.past.recurrence import SAME_PLACE_MM, PlacedMark, follows

HERE = PlacedMark((60, 450), (40, 215))


@pytest.mark.parametrize(
    ("others", "told"),
    [
        ([], None),
        ([PlacedMark((62, 448), (40, 215))], None),
        ([PlacedMark((62, 448), (120, 215))], "follows_platen"),
        ([PlacedMark((142, 450), (120, 215))], "follows_blank"),
        ([PlacedMark((62, 448), (120, 215)), PlacedMark((142, 450), (120, 215))], None),
        ([PlacedMark((300, 20), (120, 215))], None),
    ],
)
def test_what_other_pieces_tell(others, told):
    assert follows(HERE, others) == told


shift = st.floats(-300, 300)


@given(shift, shift)
def test_a_mark_carried_along_with_its_art_never_speaks_for_the_platen(dx, dy):
    carried = PlacedMark((60 + dx, 450 + dy), (40 + dx, 215 + dy))
    told = follows(HERE, [carried])
    assert told == ("follows_blank" if (dx**2 + dy**2) ** 0.5 > SAME_PLACE_MM else None)
