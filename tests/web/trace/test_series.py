"""What the pieces just before tell, and that the board says where each fact came from."""

from datetime import timedelta
from uuid import uuid4

import pytest
from django.utils import timezone

from tempermark.core.diagnosis.knowledge import base as knowledge_base
from tempermark.web.kit.units import METRIC
from tempermark.web.measure.surveys.grids import grid_places
from tempermark.web.pressure.maps import actions as pressure_actions
from tempermark.web.run.models import Lot, LotKind, TestPress
from tempermark.web.run.pieces import actions as runs
from tempermark.web.run.pieces.queries import worked_before
from tempermark.web.trace.apps import knowledge_is_sound
from tempermark.web.trace.board import actions
from tempermark.web.trace.board.changes import changed_since_good
from tempermark.web.trace.board.evidence import last_good
from tempermark.web.trace.board.mapping import build_case
from tempermark.web.trace.facts.lots import lot_facts
from tempermark.web.trace.facts.place import place_facts
from tempermark.web.trace.facts.series import series_before, series_facts
from tempermark.web.trace.facts.sourced import BY_LOT, BY_PLACE, BY_PRESSURE
from tempermark.web.trace.facts.stack import stack_facts
from tests.support import room


def held(found):
    return {fact for fact, is_so in found.items() if is_so}


def of_lots(piece):
    return lot_facts(piece, worked_before(piece))


def at(piece, seconds_ago):
    moment = timezone.now() - timedelta(seconds=seconds_ago)
    TestPress.objects.filter(pk=piece.pk).update(pressed_at=moment)
    piece.refresh_from_db()
    return piece


def changes(piece):
    return changed_since_good(piece, None, last_good(piece), METRIC)


@pytest.fixture
def made(technician, element):
    room.blank(thickness_mm=0.5)

    def pressed(seconds_ago, good=True, **fields):
        piece = at(room.piece(technician, element, **fields), seconds_ago)
        return runs.score(technician, piece, runs.Scored("good")) if good else piece

    return pressed


def test_a_fast_series_that_began_well(made):
    first, second = made(400), made(270)
    piece = made(140, good=False)
    assert series_before(piece) == [second, first]
    assert held(series_facts(piece)) == {"rapid_series", "first_pieces_good"}


def test_a_slow_series_is_not_rapid_and_a_pause_ends_it(made):
    made(9000)
    made(1500), made(900)
    assert held(series_facts(made(200, good=False))) == {"first_pieces_good"}
    lonely = made(0, good=False)
    TestPress.objects.filter(pk=lonely.pk).update(pressed_at=timezone.now() + timedelta(hours=3))
    lonely.refresh_from_db()
    assert held(series_facts(lonely)) == set()


def test_first_pieces_that_were_faulty_or_of_another_recipe_tell_nothing(made, technician, element):
    made(400, good=False), made(270)
    assert held(series_facts(made(140, good=False))) == {"rapid_series"}


def test_the_board_says_where_facts_came_from_and_an_answer_leads(browse, technician, made):
    made(400), made(270)
    piece = made(140, good=False)
    room.mark(technician, piece, symptom="low_density", where="all", x_mm=None, y_mm=None)
    case = actions.open_case(technician, piece)
    assert "rapid_series" in build_case(case).case.facts
    page = room.words(browse.get(case.get_absolute_url()))
    assert "from the series" in page and "Recorded" in page
    actions.answer_fact(technician, case, "rapid_series", "no")
    case.refresh_from_db()
    found = build_case(case).case
    assert "rapid_series" not in found.facts and "rapid_series" in found.not_facts


def test_broken_knowledge_stops_the_start(monkeypatch):
    assert knowledge_is_sound(None) == []

    def broken():
        raise knowledge_base.KnowledgeError("dust: unknown symptom fluff")

    monkeypatch.setattr("tempermark.web.trace.apps.shipped", broken)
    assert "unknown symptom fluff" in knowledge_is_sound(None)[0].msg


@pytest.mark.parametrize(
    ("stack", "facts"),
    [
        (
            ["parchment", "transfer_paper", "polyester_jersey", "plain_paper inside"],
            {"cover_parchment"},
        ),
        (["transfer_paper", "polyester_jersey", "plain_paper inside"], {"no_cover"}),
        (
            ["ptfe_sheet", "parchment", "plain_paper", "transfer_paper", "polyester_jersey"],
            {"cover_plain_paper", "no_inside_sheet", "extra_layers"},
        ),
        (
            [
                "parchment",
                "transfer_paper",
                "polyester_jersey uncoated side up",
                "plain_paper inside",
                "foam_pillow",
            ],
            {"cover_parchment", "uncoated_face_up", "pillow_used"},
        ),
        (["polyester_jersey"], set()),
        ([], set()),
    ],
)
def test_a_noted_stack_tells_its_facts(made, stack, facts):
    assert held(stack_facts(made(60, good=False, stack=stack))) == facts


def test_a_named_cover_leads_over_the_stack_s(technician, made):
    piece = made(60, good=False, facts=["cover_ptfe"])
    room.mark(technician, piece)
    found = build_case(actions.open_case(technician, piece)).case.facts
    assert "cover_ptfe" in found and "cover_parchment" not in found


def test_a_new_lot_is_noticed(technician, made):
    made(86_400, blank_lot="B1", film_lot="F7")
    piece = made(60, good=False, blank_lot="B2", film_lot="F7")
    assert held(of_lots(piece)) == {"new_lot_of_blanks"}
    assert "blanks B1 → B2" in changes(piece).differences
    assert held(of_lots(made(30, good=False))) == set()


def coat(days_ago):
    since = timezone.localdate() - timedelta(days=days_ago)
    return Lot.objects.create(kind=LotKind.COAT, code="C-2", since=since, keeps_months=6)


def test_a_coat_past_its_date_is_a_fact_and_one_within_it_is_denied(technician, made):
    lot = coat(days_ago=240)
    piece = made(60, good=False, coat_lot="C-2")
    room.mark(technician, piece, symptom="washout", when="after_wash")
    case = actions.open_case(technician, piece)
    old = build_case(case)
    assert old.facts.held["coating_expired"] == BY_LOT
    lot.since = timezone.localdate() - timedelta(days=20)
    lot.save()
    fresh = build_case(case)
    assert "coating_expired" in fresh.facts.denied and "coating_expired" in fresh.case.not_facts
    assert "coating_expired" not in fresh.facts.held


def test_a_coat_was_as_old_as_it_was_when_the_piece_was_pressed(made):
    coat(days_ago=200)
    assert held(of_lots(made(86_400 * 30, good=False, coat_lot="C-2"))) == set()
    assert held(of_lots(made(60, good=False, coat_lot="C-2"))) == {"coating_expired"}


def test_a_sheet_used_before_is_reused_and_a_first_use_is_not(technician, made):
    first = made(120, good=False, cover_sheet="P-4")
    second = made(60, good=False, cover_sheet="P-4")
    assert of_lots(first) == {"cover_reused": False}
    assert of_lots(second) == {"cover_reused": True}
    assert of_lots(made(30, good=False)) == {}


def test_a_person_s_answer_leads_over_a_lot_s_date(technician, made):
    coat(days_ago=20)
    piece = made(60, good=False, coat_lot="C-2")
    room.mark(technician, piece, symptom="washout", when="after_wash")
    case = actions.open_case(technician, piece)
    actions.answer_fact(technician, case, "coating_expired", "yes")
    case.refresh_from_db()
    found = build_case(case)
    assert "coating_expired" in found.case.facts and "coating_expired" not in found.facts.denied


def test_the_board_tells_the_age_of_a_coat_and_the_uses_of_a_sheet(browse, technician, made):
    coat(days_ago=240)
    made(120, good=False, cover_sheet="P-4")
    piece = made(60, good=False, coat_lot="C-2", cover_sheet="P-4", film_lot="F-1")
    room.mark(technician, piece, symptom="washout", when="after_wash")
    page = room.words(browse.get(actions.open_case(technician, piece).get_absolute_url()))
    assert "8 months old then, past its date since" in page
    assert "used 1 time before" in page
    assert "its age is not known" in page


@pytest.mark.parametrize(
    ("art", "past", "near"),
    [
        ((100, 120, 200, 240), False, False),
        ((10, 120, 200, 240), False, True),
        ((100, 250, 200, 240), False, True),
        ((-20, 120, 200, 240), True, True),
        ((100, 300, 200, 240), True, True),
    ],
)
def test_the_art_s_place_tells_of_rim_and_plate(technician, made, art, past, near):
    names = ("art_x_mm", "art_y_mm", "art_width_mm", "art_height_mm")
    piece = made(60, good=False, **dict(zip(names, map(float, art), strict=True)))
    assert place_facts(piece) == {"art_past_plate": past, "art_near_element_rim": near}
    room.mark(technician, piece)
    found = build_case(actions.open_case(technician, piece))
    for fact, so in place_facts(piece).items():
        assert (found.facts.held if so else found.facts.denied)[fact] == BY_PLACE
        assert fact in (found.case.facts if so else found.case.not_facts)


def test_around_a_sleeve_only_its_ends_are_rims(technician, made, element):
    element.shape = "straight"
    element.save()
    across = {"art_x_mm": 0.0, "art_width_mm": 400.0}
    whole = made(60, good=False, **across, art_y_mm=100.0, art_height_mm=240.0)
    assert place_facts(whole)["art_near_element_rim"] is False
    end = made(50, good=False, **across, art_y_mm=10.0, art_height_mm=240.0)
    assert place_facts(end)["art_near_element_rim"] is True


def test_on_a_small_plate_art_lies_near_the_rim_only_when_it_does(made, element):
    element.width_mm = element.height_mm = 120.0
    element.save()
    size = {"art_width_mm": 90.0, "art_height_mm": 90.0}
    middle = made(60, good=False, art_x_mm=15.0, art_y_mm=15.0, **size)
    assert place_facts(middle)["art_near_element_rim"] is False
    aside = made(50, good=False, art_x_mm=5.0, art_y_mm=15.0, **size)
    assert place_facts(aside)["art_near_element_rim"] is True


@pytest.mark.parametrize(("left", "even"), [("holds", True), ("free", False)])
def test_a_passed_pressure_map_speaks_against_weak_sides_and_pads(technician, element, left, even):
    room.blank(thickness_mm=0.5)
    places = grid_places("3x3", element.width_mm, element.height_mm)
    strips = pressure_actions.start_pulls(
        technician, element, "3x3", places, {"stack_mm": 1.0, "note": ""}
    )
    for station in strips.stations.all():
        pressure_actions.enter_pull(
            technician, station, left if station.x_mm < 100 else "holds", uuid4()
        )
    pressure_actions.finish(technician, strips)
    piece = room.piece(technician, element)
    room.mark(technician, piece)
    found = build_case(actions.open_case(technician, piece))
    both = {"one_side_weaker_pull", "pad_worn"}
    if even:
        assert both <= set(found.facts.denied) and found.facts.denied["pad_worn"] == BY_PRESSURE
    else:
        assert found.facts.held["one_side_weaker_pull"] == BY_PRESSURE and not both & set(
            found.facts.denied
        )
