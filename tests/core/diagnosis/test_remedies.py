"""Remedies in numbers, against the handbook's own arithmetic."""

from dataclasses import replace

import pytest

from tempermark.core.diagnosis.advice.remedies import remedy_for
from tempermark.core.diagnosis.case import (
    Actual,
    Case,
    CaseArt,
    CaseBlank,
    CasePress,
    CaseWindow,
    Observation,
)
from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.phrases import metric
from tempermark.core.thermal.result.dye import equal_dose_time_s

SEEN = (Observation("weak_black", "all", "on_opening", 2),)
CASE = Case(
    method="dye_sublimation",
    observations=SEEN,
    press=CasePress(kind="swing_away"),
    recipe=CaseWindow((195.0, 205.0), (40.0, 60.0), "medium"),
)


def made(code, **parts):
    found = remedy_for(shipped().causes[code], replace(CASE, **parts))
    cautions = [metric(caution) for caution in found.cautions]
    return metric(found.text), found.settings, cautions


def test_turns_are_the_change_in_thickness_over_the_lift():
    press = CasePress(kind="clamshell", lift_mm_per_turn=1.5, thickness_when_set_mm=1.0)
    text, settings, _ = made("pressure_not_reset", press=press, blank=CaseBlank(thickness_mm=3.4))
    assert (settings["turns"], settings["action"]) == (1.6, "loosen")
    assert "loosen by 1.6 turns" in text
    _, back, _ = made(
        "pressure_not_reset",
        press=replace(press, thickness_when_set_mm=3.4),
        blank=CaseBlank(thickness_mm=1.0),
    )
    assert (back["turns"], back["action"]) == (1.6, "tighten")


def test_a_timer_s_ceiling_splits_the_dwell():
    window = CaseWindow((180.0, 186.0), (200.0, 200.0), "medium")
    text, settings, _ = made(
        "dwell_interrupted", press=CasePress(kind="wrap", timer_max_s=90.0), recipe=window
    )
    assert settings["closings_s"] == [90.0, 90.0, 20.0]
    assert "90 + 90 + 20 s" in text


def test_bleed_is_growth_and_placing_on_both_sides():
    """1500 mm of aluminium from 22 to 195 °C grow 3.00 mm per side (handbook 3, "Size")."""
    text, settings, _ = made(
        "expansion",
        blank=CaseBlank(kind="panel", material="aluminium", width_mm=1500.0, height_mm=500.0),
        actual=Actual(measured_c=195.0),
        art=CaseArt(placement_mm=0.5),
        ambient_c=22.0,
    )
    assert settings["art_mm"]["width"] == pytest.approx(1500 + 2 * 3.5, abs=0.1)
    assert settings["art_mm"]["height"] == pytest.approx(500 + 2 * 1.5, abs=0.1)
    assert "1507" in text


def test_long_and_lower_keeps_the_dose():
    _, settings, _ = made("vapour_trapped", actual=Actual(set_c=206.0, measured_c=200.0))
    assert settings["target_c"] == 185.0
    assert settings["time_s"] == pytest.approx(equal_dose_time_s(200, 50, 185), abs=0.6)
    assert settings["time_s"] == pytest.approx(50 * 2.71, rel=0.01)
    assert settings["set_c"] == 191.0


def test_the_dial_follows_what_was_measured_and_the_gain():
    press = CasePress(kind="swing_away", gain=1.25, resolution_c=1.0)
    _, settings, _ = made(
        "display_reads_high", press=press, actual=Actual(set_c=200.0, measured_c=190.0)
    )
    assert settings["set_c"] == 208.0


def test_an_unmeasured_press_is_said_to_be_so():
    text, settings, _ = made("setpoint_low", actual=Actual(set_c=180.0))
    assert settings["unmeasured"]
    assert "has not been surveyed" in text


@pytest.mark.parametrize("code", sorted(shipped().causes))
def test_every_remedy_can_be_said_with_nothing_and_with_everything_known(code):
    full = {
        "press": CasePress(
            kind="clamshell",
            timer_max_s=30.0,
            lift_mm_per_turn=1.5,
            thickness_when_set_mm=1.0,
        ),
        "blank": CaseBlank(
            kind="panel",
            polyester=0.5,
            colour="dark",
            material="aluminium",
            width_mm=600.0,
            height_mm=400.0,
            thickness_mm=2.0,
        ),
        "actual": Actual(set_c=200.0, measured_c=190.0, time_s=30.0, pressure="firm"),
        "art": CaseArt(600.0, 400.0, 0.5),
    }
    for parts in ({}, full):
        text, _, _ = made(code, **parts)
        assert text.strip().endswith((".", "°C."))
        assert "{" not in text
