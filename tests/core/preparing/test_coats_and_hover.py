"""Coats that dry side by side, sprays by area, and hovers that reach the far end."""

import itertools
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tempermark.core.preparing.coating.coats import LANDS, SPRAYED_ML_M2, sprayed_ml, staggered
from tempermark.core.preparing.heat.hovering import hover_plan
from tempermark.core.pressing.hover import hover_outcome
from tempermark.core.pressing.request import main_request, shipped_blank
from tempermark.core.pressing.verdict import GOOD_FROM
from tempermark.core.recipes.shipped import shipped_recipes

SHEETS = {sheet.name: sheet for sheet in shipped_recipes()}


def test_a_spray_goes_by_area_and_what_lands():
    assert sprayed_ml(0.1, 2) == pytest.approx(0.1 * 2 * SPRAYED_ML_M2 / LANDS)
    assert sprayed_ml(0.2, 1) == pytest.approx(sprayed_ml(0.1, 2))


@given(
    st.integers(1, 12),
    st.sampled_from([1, 2]),
    st.integers(1, 3),
    st.floats(10, 600),
    st.floats(60, 7200),
)
def test_brushing_is_one_at_a_time_and_never_on_a_wet_side(pieces, sides, coats, brush, dries):
    rows = staggered(pieces, sides, coats, brush, dries)
    assert len(rows) == pieces * sides * coats
    for before, now in itertools.pairwise(rows):
        assert now.begins_s >= before.brushed_s - 1e-9
    for piece in range(1, pieces + 1):
        own = [row for row in rows if row.piece == piece]
        assert [(r.coat, r.side) for r in own] == [
            (c, s) for c in range(1, coats + 1) for s in range(1, sides + 1)
        ]
        for before, now in itertools.pairwise(own):
            assert now.begins_s >= before.dry_s - 1e-6
    # Never longer than one after the other, never shorter than one piece alone.
    last = max(row.dry_s for row in rows)
    assert last <= pieces * sides * coats * (brush + dries) + 1e-6
    assert last >= sides * coats * (brush + dries) - 1e-6


def test_four_discs_are_done_while_one_alone_would_dry():
    rows = staggered(4, 2, 1, 120, 2400)
    assert max(row.dry_s for row in rows) == 2 * 2520 + 3 * 120


@pytest.mark.parametrize("asked", [(0, 1, 1), (61, 1, 1), (3, 3, 1), (3, 1, 0), (3, 1, 7)])
def test_nothing_to_brush_is_refused(asked):
    with pytest.raises(ValueError, match="are scheduled"):
        staggered(*asked, 60, 60)


def powder(gap_mm=3.0, seconds=240.0):
    sheet = SHEETS["Powder film on cotton"]
    step = next(s for s in sheet.steps if s.kind == "hover")
    main = main_request(sheet, shipped_blank(sheet.blank))
    warm = sum(step.temperature_c) / 2
    own = replace(step, gap_mm=gap_mm)
    return replace(main, step=own, stack=own.stack, true_c=warm, dwell_s=seconds)


def test_the_shortest_hover_is_just_enough():
    plan = hover_plan(powder(), "clamshell")
    enough = hover_outcome(replace(powder(), dwell_s=plan.turned_s), "clamshell")
    less = hover_outcome(replace(powder(), dwell_s=plan.turned_s - 5), "clamshell")
    assert (enough.done_turned >= GOOD_FROM).all()
    assert not (less.done_turned >= GOOD_FROM).all()
    assert plan.turn_s == plan.turned_s / 2


def test_a_hinged_platen_gains_by_a_turn_and_a_level_one_little():
    hinged, level = hover_plan(powder(), "clamshell"), hover_plan(powder(), "swing_away")
    assert hinged.lying_s is None or hinged.lying_s > hinged.turned_s
    assert level.lying_s is not None
    assert level.lying_s - level.turned_s < (hinged.lying_s or 900) - hinged.turned_s


def test_too_far_is_never_enough():
    assert hover_plan(powder(gap_mm=100.0), "clamshell").turned_s is None
