"""Growth, templates and mixes against what they mean: exact truth and round trips."""

import math
from datetime import date, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tempermark.core.constants import EXPANSION_PER_K
from tempermark.core.preparing.coating.mix import use_by, volumes_ml
from tempermark.core.preparing.size.growth import bleed, growth_per_side_mm
from tempermark.core.preparing.vessels.template import (
    flat_template,
    rolled_on,
    unrolled,
    widest_straight_mm,
)
from tempermark.core.units import read_entry

ALUMINIUM = EXPANSION_PER_K["aluminium"]
SIZES = st.floats(5, 500)


def test_a_metre_and_a_half_of_aluminium_grows_by_three_millimetres_a_side():
    """The handbook's figure."""
    assert growth_per_side_mm(1500, ALUMINIUM, 22, 195) == pytest.approx(3.00, abs=0.005)


@given(SIZES, SIZES, st.floats(0, 1e-4), st.floats(-20, 40), st.floats(60, 250), st.floats(0, 9))
def test_art_is_the_hot_blank_and_the_placing_error(wide, high, alpha, cold, hot, placing):
    found = bleed((wide, high), alpha, cold, hot, placing)
    for side, art in zip((wide, high), found.art_mm, strict=True):
        assert art == pytest.approx(side * (1 + alpha * (hot - cold)) + 2 * placing)


@pytest.mark.parametrize(
    ("size", "taped"),
    [((300, 200), "two_opposite"), ((301, 20), "all_corners"), ((20, 301), "all_corners")],
)
def test_large_pieces_are_taped_at_all_corners(size, taped):
    assert bleed(size, ALUMINIUM, 22, 195, 0.5).taping == taped


@given(SIZES, SIZES, SIZES, st.floats(-3, 3), st.floats(0, 1))
def test_a_template_rolls_back_onto_its_vessel(top, bottom, height, turn, share):
    template = flat_template(top, bottom, height)
    on_vessel = np.array([[turn, share * height]])
    flat = unrolled(template, on_vessel)
    assert rolled_on(template, flat) == pytest.approx(on_vessel, abs=1e-6)


@given(SIZES, SIZES, SIZES, st.floats(-2.5, 2.5), st.floats(0.05, 0.95))
def test_a_template_keeps_lengths(top, bottom, height, turn, share):
    """A small step on the template is as long as the same step on the vessel."""
    template = flat_template(top, bottom, height)
    step = 1e-4
    here = np.array([turn, share * height])
    diameter = bottom + (top - bottom) * share
    for there, long in (
        ([step, 0.0], diameter / 2 * step),
        ([0.0, step], step * template.slant_mm / height),
    ):
        a, b = unrolled(template, np.array([here, here + there]))
        assert math.dist(a, b) == pytest.approx(long, rel=1e-3, abs=1e-9)


@given(SIZES, SIZES, SIZES, st.floats(0.01, 400))
def test_straight_art_stays_within_its_tolerance(top, bottom, height, tolerance):
    template = flat_template(top, bottom, height)
    wide = widest_straight_mm(template, tolerance)
    assert wide <= template.circumferences_mm[1] * (1 + 1e-9)
    if template.arc is not None:
        outer = template.arc.outer_mm
        rise = outer - math.sqrt(max(outer**2 - (wide / 2) ** 2, 0))
        assert rise <= tolerance * (1 + 1e-6) + 1e-6


def test_the_larger_end_has_the_outer_radius_whichever_it_is():
    up, down = flat_template(88, 60, 110), flat_template(60, 88, 110)
    assert up.arc == down.arc
    assert (up.is_wider_on_top, down.is_wider_on_top) == (True, False)


def test_equal_ends_unroll_to_a_rectangle():
    template = flat_template(80, 80, 95)
    assert template.arc is None
    assert template.slant_mm == 95
    assert widest_straight_mm(template, 1) == pytest.approx(math.pi * 80)


@given(st.floats(0, 1e4), st.floats(0.001, 1e4), st.floats(1, 1e5))
def test_mixed_volumes_fill_the_bottle_in_their_ratio(concentrate, water, bottle):
    one, other = volumes_ml(concentrate, water, bottle)
    assert one + other == pytest.approx(bottle)
    assert one * water == pytest.approx(other * concentrate, rel=1e-6, abs=1e-6)


def test_a_mix_of_nothing_is_refused():
    with pytest.raises(ValueError, match="more than 0 parts"):
        volumes_ml(0, 0, 350)


@pytest.mark.parametrize(
    ("day", "months", "until"),
    [
        (date(2026, 3, 31), 6, date(2026, 9, 30)),
        (date(2024, 2, 29), 12, date(2025, 2, 28)),
        (date(2026, 8, 31), 18, date(2028, 2, 29)),
        (date(2026, 5, 4), 0, date(2026, 5, 4)),
    ],
)
def test_a_shelf_ends_on_the_day_or_the_month_s_last(day, months, until):
    assert use_by(day, months) == until


@given(st.dates(date(2000, 1, 1), date(2100, 1, 1)), st.integers(0, 240))
def test_a_shelf_is_as_long_as_its_months(day, months):
    until = use_by(day, months)
    assert (until.year * 12 + until.month) - (day.year * 12 + day.month) == months
    assert until.day == day.day or (until + timedelta(days=1)).day == 1


@given(st.floats(0.5, 60), st.floats(0.5, 60), st.floats(0, 0.2))
def test_growth_bleed_and_art_agree_in_any_unit(wide_in, high_in, placed_in):
    """Typed in inches or in millimetres, read by the fields' own rule, art is the same."""

    def art(unit, scale):
        sides = (wide_in * scale, high_in * scale, placed_in * scale)
        typed = (f"{side:.9f} {unit}" for side in sides)
        width, height, placed = (read_entry(text, "length", "mm").value for text in typed)
        return bleed((width, height), 23.1e-6, 22.0, 195.0, placed).art_mm

    assert art("in", 1.0) == pytest.approx(art("mm", 25.4), abs=1e-6)
