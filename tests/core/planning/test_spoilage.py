"""Blanks for a job: held against drawing the spoiled ones at random."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tempermark.core.planning.spoilage import (
    PRIOR_GOOD,
    PRIOR_SPOILED,
    expected_blanks,
    needed_blanks,
    spoiled_share,
)


@pytest.mark.parametrize(("pieces", "pressed", "spoiled"), [(24, 0, 0), (100, 200, 20), (5, 50, 0)])
def test_nine_of_ten_jobs_have_enough(pieces, pressed, spoiled):
    rng = np.random.default_rng(3)
    share = rng.beta(PRIOR_SPOILED + spoiled, PRIOR_GOOD + pressed - spoiled, 200_000)
    blanks = needed_blanks(pieces, pressed, spoiled)
    enough, fewer = (
        (rng.binomial(many, 1 - share) >= pieces).mean() for many in (blanks, blanks - 1)
    )
    assert enough >= 0.895
    assert blanks == pieces or fewer < 0.905


def test_a_shop_that_spoils_a_tenth_takes_a_ninth_more():
    assert spoiled_share(10_000, 1_000) == pytest.approx(0.1, abs=1e-3)
    assert expected_blanks(90, 10_000, 1_000) == 100


@settings(max_examples=30)
@given(st.integers(1, 5000), st.integers(0, 500), st.floats(0, 0.9))
def test_more_spoiled_never_takes_fewer_blanks(pieces, pressed, share):
    spoiled = int(pressed * share)
    blanks = needed_blanks(pieces, pressed, spoiled)
    assert blanks >= pieces
    assert blanks >= needed_blanks(pieces, pressed, 0)
    assert expected_blanks(pieces, pressed, spoiled) >= pieces


def test_jobs_of_very_many_pieces_take_about_as_many_more():
    few, many = (needed_blanks(pieces, 300, 12) / pieces for pieces in (5_000, 5_001))
    assert many == pytest.approx(few, abs=2e-3)
