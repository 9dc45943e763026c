"""Costs add up; a sheet is retired when going on costs more than a new one."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tempermark.core.preparing.costs.piece_cost import (
    IDLE_W_M2,
    CostLine,
    PieceCost,
    energy_kwh,
)
from tempermark.core.preparing.costs.wear import LIVES, Wear, wear_advice


def test_a_piece_costs_its_parts_and_says_what_is_missing():
    lines = (
        CostLine("blank", 1, "", 2.5),
        CostLine("paper", 0.08, "m²", 4.0),
        CostLine("tape", 0.12, "m", None),
    )
    found = PieceCost(lines, 10.0)
    assert found.total == pytest.approx(2.82)
    assert found.missing == ("tape",)
    assert found.keeps == pytest.approx(7.18)
    assert found.share == pytest.approx(0.718)
    assert found.with_spoiled(0.5) == pytest.approx(5.64)
    assert PieceCost(lines).keeps is None


def test_power_is_heat_and_loss():
    # A megajoule per m² into 0.1 m², and 0.2 m² of platen for a minute.
    expected = (1e6 * 0.1 + IDLE_W_M2 * 0.2 * 60) / 3.6e6
    assert energy_kwh(1e6, 0.1, 0.2, 40, 20) == pytest.approx(expected)


materials = st.sampled_from([*LIVES, "unknown"])


@given(materials, st.integers(0, 1000), st.booleans(), st.integers(0, 3))
def test_wear_only_grows(material, uses, ink, browning):
    wear = Wear(material, uses, ink, browning)
    assert 0 <= wear.spoils < 1
    assert Wear(material, uses + 1, ink, browning).spoils >= wear.spoils
    assert Wear(material, uses, True, browning).spoils >= wear.spoils
    assert Wear(material, uses, ink, min(browning + 1, 3)).spoils >= wear.spoils


@given(materials, st.floats(0.01, 50), st.floats(0.01, 500))
def test_a_new_one_is_never_to_be_retired(material, price, spoiled):
    assert not wear_advice(Wear(material, 0), price, spoiled).is_over


def test_ink_on_a_cheap_sheet_is_the_end_of_it():
    assert wear_advice(Wear("parchment", 2, ink_seen=True), 0.4, 6.0).is_over


def test_a_dear_sheet_goes_on_longer_than_a_cheap_one():
    cheap, dear = (wear_advice(Wear("parchment", 25), price, 6.0) for price in (0.2, 12.0))
    assert cheap.is_over
    assert not dear.is_over
