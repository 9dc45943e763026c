"""Evidence by computation on the board, other pieces laid over, and what a closed case leaves."""

import pytest

from tempermark.web.kit.units import METRIC
from tempermark.web.presses import register
from tempermark.web.run.pieces import actions as runs
from tempermark.web.run.pieces.queries import under_art, worked_before
from tempermark.web.trace.board import actions
from tempermark.web.trace.board.changes import changed_since_good
from tempermark.web.trace.board.evidence import (
    last_good,
    under_transfer,
)
from tempermark.web.trace.board.follow_up import (
    outside_recipe,
    pieces_at_risk,
    same_fault_elsewhere,
    survey_words,
)
from tempermark.web.trace.board.mapping import build_case
from tests.support import room


@pytest.fixture
def measured(technician, element):
    room.survey(technician, element, days_ago=40, truth=lambda x, y: 195.0)
    room.blank(thickness_mm=0.5)
    return element


def faulty(technician, element, **fields):
    piece = room.piece(technician, element, **fields)
    room.mark(technician, piece)
    return piece


def good(technician, element, **fields):
    piece = room.piece(technician, element, **fields)
    return runs.score(technician, piece, runs.Scored("good", scores={"black": 5}))


def changes(piece):
    return changed_since_good(piece, under_art(piece), last_good(piece), METRIC)


def told(browse, case, **query):
    return room.words(browse.get(case.get_absolute_url(), query))


def test_a_thick_stack_is_evidence_that_heat_was_blocked(browse, technician, measured):
    plain = faulty(technician, measured)
    case = actions.open_case(technician, plain)
    assert under_transfer(plain, under_art(plain)).share == pytest.approx(1.0)
    assert build_case(case).case.actual.heat_through == pytest.approx(1.0)
    thick = ["aramid_felt", *plain.stack]
    blocked = faulty(technician, measured, stack=thick)
    room.mark(technician, blocked, symptom="low_density", where="all", x_mm=None, y_mm=None)
    found = under_transfer(blocked, under_art(blocked))
    assert found.share < 0.1 and found.last_c < 150
    page = told(browse, actions.open_case(technician, blocked))
    assert "the stack lets 0.0" in page
    assert "Layers or a heavy blank keep the heat from the print" in page


def test_closings_are_worth_less_than_one_dwell(browse, technician, measured):
    one = faulty(technician, measured, dwell_s=60.0)
    assert under_transfer(one, under_art(one)).effective_s is None
    three = faulty(technician, measured, dwell_s=60.0, closures=3)
    worth = under_transfer(three, under_art(three)).effective_s
    assert 45 < worth < 60
    six = faulty(technician, measured, dwell_s=60.0, closures=6)
    assert under_transfer(six, under_art(six)).effective_s < worth
    case = actions.open_case(technician, three)
    assert build_case(case).case.actual.effective_s == pytest.approx(worth)
    assert f"3 closings are worth {worth:.0f} s of one" in told(browse, case)


def test_without_a_map_nothing_is_computed(technician, element):
    room.blank(thickness_mm=0.5)
    piece = faulty(technician, element)
    assert under_transfer(piece, under_art(piece)) is None
    assert build_case(actions.open_case(technician, piece)).case.actual.heat_through is None


def test_what_changed_since_the_last_good_piece(browse, technician, measured):
    good(technician, measured, days_ago=10, set_c=205.0, dwell_s=52.0)
    lead = room.person("maren", "lead")
    register.record_event(lead, measured.press, "moved", "by the window")
    piece = faulty(
        technician,
        measured,
        set_c=200.0,
        dwell_s=40.0,
        pressure="light",
        stack=["ptfe_sheet", "transfer_paper", "polyester_jersey", "silicone_pad"],
    )
    differences = " ".join(changes(piece).differences)
    for part in (
        "dial 205",
        "dwell 52 → 40\u00a0s",
        "pressure medium → light",
        "with PTFE sheet",
        "without parchment",
        "moved",
    ):
        assert part in differences, differences
    assert "Since the last good one" in told(browse, actions.open_case(technician, piece))


def test_nothing_changed_is_said(technician, measured):
    good(technician, measured, days_ago=3)
    assert changes(faulty(technician, measured)).differences == []
    other = room.blank(name="Other")
    assert changes(faulty(technician, measured, blank=other)) is None


def test_other_pieces_are_laid_over_by_platen_or_blank(browse, technician, measured):
    other = room.piece(technician, measured, days_ago=2, art_x_mm=120.0)
    room.mark(technician, other, x_mm=42.0, y_mm=458.0)
    case = actions.open_case(technician, faulty(technician, measured))
    path = case.get_absolute_url()

    def dashed(over):
        page = room.soup(browse.get(path, {"over": over}))
        return [c["cx"] for c in page.select("circle[stroke-dasharray]")]

    assert len(dashed("platen")) == len(dashed("blank")) == 1
    assert dashed("platen") != dashed("blank")
    assert "1 marked at the same place of the platen" in told(browse, case)


def test_a_closed_case_names_pieces_at_risk_and_other_presses(browse, technician, measured):
    good(technician, measured, days_ago=20)
    risky = room.piece(technician, measured, days_ago=5)
    piece = faulty(technician, measured, days_ago=3)
    elsewhere = room.element("Wren", place=2)
    faulty(technician, elsewhere, days_ago=1)
    case = actions.open_case(technician, piece)
    proof = good(technician, measured)
    actions.close_case(technician, case, "cold_zone", proof, "")
    at_risk = list(pieces_at_risk(piece, worked_before(piece), proof.pressed_at))
    assert at_risk == [risky]
    assert [p.element.press.name for p in same_fault_elsewhere(piece)] == ["Wren"]
    page = told(browse, case)
    assert "1 piece pressed since it was last good and not found faulty" in page
    assert "The same was seen on Wren" in page
    assert "Survey Heron again" in page


def closed_case(technician, element, cause, **proof):
    case = actions.open_case(technician, faulty(technician, element))
    return actions.close_case(technician, case, cause, good(technician, element, **proof), "")


def test_a_proof_outside_the_recipe_asks_for_another_recipe(browse_as, technician, lead, measured):
    case = closed_case(technician, measured, "dwell_short", dwell_s=75.0, pressure="firm")
    assert outside_recipe(case.proof, METRIC) == [
        "75 s instead of 45 to 60 s",
        "firm pressure instead of medium",
    ]
    page = browse_as(lead).get(case.get_absolute_url())
    assert "75 s instead of 45 to 60 s" in room.words(page)
    assert "/recipes/dye-on-a-polyester-vest/change/" in page.content.decode()


def test_a_proof_truly_too_hot_for_the_recipe_says_so(technician, measured):
    room.survey(technician, measured, days_ago=1, truth=lambda x, y: 207.0)
    case = closed_case(technician, measured, "dwell_short")
    assert outside_recipe(case.proof, METRIC)[0].startswith("21")


def test_a_proof_inside_the_recipe_lets_it_stand(browse, technician, measured):
    case = closed_case(technician, measured, "transfer_moved")
    page = room.soup(browse.get(case.get_absolute_url()))
    assert "The proof was inside the recipe, which stays as it is" in page.text
    # What was found leads, whatever is computed for it now.
    assert page.h1.text == "Heron: transfer moved."


def test_a_survey_is_asked_for_by_what_was_found_or_by_its_date(technician, measured):
    overdue = closed_case(technician, measured, "transfer_moved")
    assert "overdue" in survey_words(overdue)
    mended = closed_case(technician, measured, "cold_zone")
    assert "again once it is repaired" in survey_words(mended)
    room.survey(technician, measured, truth=lambda x, y: 195.0)
    assert survey_words(overdue) == ""
    never = room.element("Wren", place=2)
    assert "has never been surveyed" in survey_words(
        closed_case(technician, never, "transfer_moved")
    )


def test_what_would_change_the_ranking_is_loaded_after_the_board(browse, technician, measured):
    case = actions.open_case(technician, faulty(technician, measured))
    assert f"/cases/{case.pk}/reversals/" in browse.get(f"/cases/{case.pk}/").content.decode()
    later = room.soup(browse.get(f"/cases/{case.pk}/reversals/")).get_text(" ")
    assert "What would change this ranking" in later or "No check or answer" in later
