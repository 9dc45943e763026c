"""Arithmetic of a case: what its numbers prove, and what they never do."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tempermark.core.constants import expansion_per_k
from tempermark.core.diagnosis.case import (
    Actual,
    Case,
    CaseBlank,
    CasePress,
    CaseWindow,
    MapAtPrint,
    WorkedBefore,
)
from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.diagnosis.weighing.measures.piece import blank_growth_mm
from tempermark.core.diagnosis.weighing.measures.registry import MEASURES
from tempermark.core.recipes.blank_types import blank_types
from tempermark.core.thermal.library.materials import materials
from tempermark.core.thermal.result.dye import equal_dose_time_s
from tempermark.core.vocabulary.settings import PEELS, PRESSURE_CLASSES
from tests.support.cases import case_of, chance


def test_measured_truth_decides_over_the_dial():
    recipe = {"temperature_c": [195, 205]}
    outside = case_of("low_density", "all", recipe=recipe, actual={"set_c": 186, "measured_c": 199})
    unknown = case_of("low_density", "all", recipe=recipe, actual={"set_c": 186})
    assert chance(outside, "setpoint_low") < 0.1 < chance(unknown, "setpoint_low")


def test_a_degree_or_a_second_past_a_range_is_nothing():
    recipe = {"temperature_c": [195, 205], "time_s": [45, 60]}
    grazing = case_of(
        "weak_black", "all", recipe=recipe, actual={"set_c": 194, "measured_c": 194, "time_s": 44}
    )
    clear = case_of(
        "weak_black", "all", recipe=recipe, actual={"set_c": 180, "measured_c": 180, "time_s": 52}
    )
    assert chance(grazing, "setpoint_low") < 0.5 < chance(clear, "setpoint_low")
    assert chance(grazing, "dwell_short") < 0.5


def test_growth_is_computed_for_the_library_s_materials():
    """1500 mm of aluminium from 22 to 195 °C: 3.00 mm per side (handbook 3, "Size")."""
    for material in ("aluminium", "aluminium_panel"):
        case = Case(
            method="dye_sublimation",
            observations=(),
            blank=CaseBlank(kind="panel", material=material, width_mm=1500.0, height_mm=500.0),
            actual=Actual(measured_c=195.0),
            ambient_c=22.0,
        )
        assert blank_growth_mm(case) == pytest.approx((3.00, 1.00), abs=0.005)
    known = {k.material for k in blank_types().values()}
    solid = {m for m in known if materials()[m].group in ("rigid", "plastic")}
    assert {m for m in solid if expansion_per_k(m) is None} <= {"plywood", "pla"}


# Measures of two causes that exclude each other: nothing speaks for both.
MIRRORED = (
    ("dial_below_window", "dial_above_window"),
    ("true_below_window", "true_above_window"),
    ("place_below_window", "place_above_window"),
    ("dwell_below_window", "dwell_above_window"),
    ("pressure_below_window", "pressure_above_window"),
    ("set_for_thicker", "set_for_thinner"),
    ("peel_early", "peel_late"),
)


@given(
    set_c=st.floats(120, 260),
    measured_c=st.none() | st.floats(120, 260),
    at_mark_c=st.none() | st.floats(120, 260),
    time_s=st.floats(1, 400),
    closures=st.integers(1, 4),
    pressure=st.sampled_from(PRESSURE_CLASSES),
    peel=st.sampled_from(PEELS),
    was_mm=st.floats(0, 8),
    worked_c=st.none() | st.floats(150, 230),
)
@settings(max_examples=300)
def test_nothing_speaks_for_two_causes_that_exclude_each_other(
    set_c, measured_c, at_mark_c, time_s, closures, pressure, peel, was_mm, worked_c
):
    """A reason has one sign: what is too hot is never also a reason for too cold."""
    case = Case(
        "heat_transfer_film",
        (),
        press=CasePress(thickness_when_set_mm=was_mm),
        blank=CaseBlank(thickness_mm=2.0),
        recipe=CaseWindow((195.0, 205.0), (45.0, 60.0), "medium", "warm"),
        actual=Actual(set_c, measured_c, 0.5, time_s, closures, pressure, peel),
        worked_before=WorkedBefore(temperature_c=worked_c),
        map_at_print=MapAtPrint(at_mark_c=at_mark_c, at_mark_uncertainty_c=0.5),
    )
    for low, high in MIRRORED:
        told = [MEASURES[name](case, shipped().curves) for name in (low, high)]
        weights = [e.log_odds for e in told if e is not None]
        assert min(weights, default=0.0) <= 0.0 or len(weights) < 2, (low, weights)


def test_equal_dose_of_the_handbook():
    assert equal_dose_time_s(200, 45, 185) == pytest.approx(122.1628, abs=1e-3)
