"""Marks inside a template: they roll onto the wall where they should be."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tempermark.core.preparing.vessels.template import flat_template, rolled_on
from tempermark.core.preparing.vessels.template_marks import quarter_marks, safe_lines

lengths = st.floats(30, 300)


@given(lengths, lengths, lengths, st.floats(1, 14))
def test_a_safe_line_is_as_far_along_the_wall_everywhere(top, bottom, height, rim):
    template = flat_template(top, bottom, height)
    low, high = safe_lines(template, rim)
    for line, expected in ((low, rim), (high, template.slant_mm - rim)):
        heights = rolled_on(template, line)[:, 1]
        along = heights / template.height_mm * template.slant_mm
        assert along == pytest.approx(np.full(len(line), expected), abs=1e-6)


@given(lengths, lengths, lengths, st.floats(0, 40))
def test_quarter_marks_are_in_the_middle_of_each_half(top, bottom, height, gap):
    template = flat_template(top, bottom, height)
    half = np.pi * (1 - gap / template.circumferences_mm[0])
    turns = [rolled_on(template, mark)[:, 0] for mark in quarter_marks(template, gap)]
    assert np.abs(np.concatenate(turns)) == pytest.approx(np.full(8, half / 2), abs=1e-9)


def test_rims_that_leave_nothing_are_not_drawn():
    assert safe_lines(flat_template(80, 60, 50), 26) == []
    assert safe_lines(flat_template(80, 60, 50), 0) == []
