"""The board asks about marks that do not belong together, and nothing that it was told already."""

from dataclasses import replace
from datetime import timedelta
from uuid import uuid4

import pytest
from django.utils import timezone

from tempermark.core.diagnosis.engine import diagnose
from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.diagnosis.weighing.evidence import evidence_on
from tempermark.core.errors import InputError
from tempermark.core.phrases import metric
from tempermark.web.certificates import actions as certificates
from tempermark.web.measure.surveys.grids import grid_places
from tempermark.web.overview.queries import floor
from tempermark.web.presses.models import Element, Press
from tempermark.web.presses.register import record_event
from tempermark.web.pressure.maps import actions as pressure_actions
from tempermark.web.pressure.queries import latest
from tempermark.web.recipes.models import Recipe
from tempermark.web.run.pieces import actions as runs
from tempermark.web.trace.board import actions
from tempermark.web.trace.board.mapping import build_case
from tempermark.web.trace.board.queries import same_marks
from tempermark.web.trace.facts.place import place_facts
from tempermark.web.trace.knowledge.shop import shop_knowledge
from tempermark.web.trace.models import FaultCase
from tests.support import room
from tests.support.forms import Drawn

pytestmark = pytest.mark.django_db
# Marks that no one cause shows together.
THREE = ("strike_through", "tape_mark", "banding")


@pytest.fixture
def vest(technician, element):
    room.survey(technician, element, truth=lambda x, y: 195.0, days_ago=30)
    return room.blank(thickness_mm=0.5)


def marked(who, element, symptoms=THREE, **fields):
    piece = room.piece(who, element, **fields)
    for symptom in symptoms:
        room.mark(who, piece, symptom=symptom, where="all", x_mm=None, y_mm=None)
    return piece


def test_three_unrelated_marks_are_asked_about_not_mixed(browse, technician, element, vest):
    case = actions.open_case(technician, marked(technician, element))
    page = room.soup(browse.get(case.get_absolute_url()))
    assert page.h1.text.strip() == "3 marks that no one cause explains."
    assert "Which one do you trace first?" in page.text
    assert not page.select(".cause")
    chosen = next(f for f in page.select("form") if "Tape mark" in f.text)
    assert "/marks/" in chosen["action"]
    browse.post(chosen["action"], {"symptom": "tape_mark"})
    case.refresh_from_db()
    assert set(case.set_aside) == {"strike_through", "banding"}
    told = diagnose(build_case(case).case, shipped())
    assert told.causes[0].cause.code == "tape_type"
    assert "strike_through" not in {o.symptom for o in build_case(case).case.observations}
    page = browse.get(case.get_absolute_url())
    assert "Set aside:" in room.words(page)
    assert room.soup(page).select(".cause")


def test_what_was_set_aside_is_traced_afterwards(browse, technician, element, vest):
    piece = marked(technician, element)
    case = actions.open_case(technician, piece)
    actions.trace_only(technician, case, ["tape_mark"])
    proof = runs.score(technician, room.piece(technician, element), runs.Scored("good"))
    actions.close_case(technician, case, "tape_type", proof, "")
    assert "Trace what was set aside" in room.words(browse.get(case.get_absolute_url()))
    again = actions.open_case(technician, piece)
    assert again.pk != case.pk
    assert again.set_aside == ["tape_mark"]
    assert FaultCase.objects.filter(test_press=piece).count() == 2
    assert actions.open_case(technician, piece).pk == again.pk


def test_marks_of_one_fault_are_weighed_together(technician, element, vest):
    piece = marked(technician, element, ("low_density", "weak_black", "colour_shift"))
    case = actions.open_case(technician, piece)
    assert diagnose(build_case(case).case, shipped()).separate == ()


def test_a_mark_that_is_not_there_cannot_be_chosen(technician, element, vest):
    case = actions.open_case(technician, marked(technician, element))
    with pytest.raises(InputError, match="no such mark"):
        actions.trace_only(technician, case, ["ghosting"])


def asked(case):
    return {q.about for q in diagnose(build_case(case).case, shipped()).questions}


def test_what_was_noted_is_not_asked_again(technician, element, vest):
    """Noted one way and answered the other: set aside, said, and not asked a third time."""
    piece = marked(technician, element, ("ghosting",), facts=["transfer_fixed"])
    case = actions.open_case(technician, piece)
    actions.answer_fact(technician, case, "transfer_not_fixed", "yes")
    told = diagnose(build_case(FaultCase.objects.get()).case, shipped())
    assert any("Reported both ways" in note for note in told.notes)
    about = {q.about for q in told.questions}
    assert not about & {"transfer_fixed", "transfer_not_fixed"}


def test_what_the_noted_stack_shows_is_not_asked(technician, element, vest):
    piece = marked(technician, element, ("strike_through",), facts=[])
    assert "plain_paper inside" in piece.stack
    case = actions.open_case(technician, piece)
    assert "no_inside_sheet" in build_case(case).facts.denied
    assert "no_inside_sheet" not in asked(case)


def test_thicker_than_set_speaks_for_too_much_and_against_too_little(technician, element, vest):
    """The same fact has two signs, by which way the thickness changed."""
    piece = marked(technician, element, ("sheen_box",))
    found = build_case(actions.open_case(technician, piece)).case

    def weight(code, was_mm):
        press = replace(found.press, thickness_when_set_mm=was_mm)
        facts = found.facts | {"thickness_changed_since_set"}
        case = replace(found, press=press, facts=facts)
        cause = shipped().causes[code]
        seen = list(case.observations)
        told = evidence_on(cause, case, shipped(), seen)
        return sum(e.log_odds for e in told if "the blank it was set for" in metric(e.text))

    assert weight("pressure_high", 0.0) > 0 > weight("pressure_low", 0.0)
    assert weight("pressure_low", 3.0) > 0 > weight("pressure_high", 3.0)


def film(who, element, layers, **fields):
    room.load_shipped_recipes()
    version = Recipe.objects.filter(method="heat_transfer_film").first().versions.first()
    cloth = room.blank(name="Waffle towel", kind="garment", features=["texture"])
    stack = ["parchment", *layers, "waffle_cloth", "silicone_pad"]
    piece = room.piece(who, element, recipe=version, blank=cloth, stack=stack, facts=[], **fields)
    room.mark(who, piece, symptom="no_texture", where="all", when="on_peel", x_mm=None, y_mm=None)
    return actions.open_case(who, piece)


def test_a_thin_film_over_the_hollows_of_waffle_cloth_is_weak_pressure(browse, technician, element):
    room.survey(technician, element, truth=lambda x, y: 195.0, days_ago=3)
    case = film(technician, element, ["film_pu"], pressure="light")
    told = diagnose(build_case(case).case, shop_knowledge(case).base)
    assert not told.normal_appearance
    assert told.causes[0].cause.code in ("pressure_low", "pressure_not_reset")
    assert floor()[0].open_cases == 1


def test_a_thick_film_that_floats_is_normal_and_closed_by_a_tap(browse, technician, element):
    room.survey(technician, element, truth=lambda x, y: 195.0, days_ago=3)
    case = film(technician, element, ["film_thick"])
    assert case.seems_normal
    # No open fault on the floor.
    assert floor()[0].open_cases == 0
    assert "no open fault" in room.words(browse.get("/"))
    page = browse.get(case.get_absolute_url())
    assert "This is normal: not a fault." in room.words(page, "h1")
    Drawn(browse, case.get_absolute_url(), lambda f: "/normal/" in f.get("action", "")).send(browse)
    case.refresh_from_db()
    assert case.cause == "normal_appearance" and case.closed_at


def test_an_answer_that_makes_it_a_fault_opens_it_on_the_floor(technician, element):
    room.survey(technician, element, truth=lambda x, y: 195.0, days_ago=3)
    case = film(technician, element, ["film_thick"])
    actions.answer_seen(technician, case, "peeling", "yes")
    assert floor()[0].open_cases == 1


def test_a_fault_is_closed_without_a_proof_piece_where_none_can_be_pressed(
    browse, technician, element, vest
):
    case = actions.open_case(technician, marked(technician, element, ("ghosting",)))
    close = f"/cases/{case.pk}/close/"
    answer = browse.post(close, {"cause": "transfer_moved", "proof": ""})
    assert answer.status_code == 422
    assert "Where no piece can be pressed, say why" in room.words(answer)
    data = {"cause": "transfer_moved", "proof": "", "unproven_why": "the last blank was used"}
    assert browse.post(close, data).status_code == 302
    told = room.words(browse.get(case.get_absolute_url()))
    assert "Not proved by a piece: the last blank was used" in told
    assert "not proved" in room.words(browse.get("/cases/"))
    assert shop_knowledge().cases == 0


def test_press_again_with_this_keeps_what_was_done(browse, technician, element, vest):
    piece = marked(
        technician,
        element,
        ("edge_fade",),
        facts=["transfer_fixed", "blank_prepressed", "pillow_used", "cover_parchment"],
        blank_lot="V-12",
        cover_sheet="P-4",
        stack=["parchment", "transfer_paper", "polyester_jersey", "silicone_pad"],
    )
    case = actions.open_case(technician, piece)
    page = room.soup(browse.get(case.get_absolute_url()))
    again = next(a["href"] for a in page.select("a") if "Press again with this" in a.text)
    form = Drawn(browse, again, lambda f: f.get("id") == "log")
    assert form.data["either_transfer"] == "transfer_fixed"
    assert form.data["either_pre-press"] == "blank_prepressed"
    assert form.data["either_cover"] == "cover_parchment"
    assert form.data["done"] == ["pillow_used"]
    assert (form.data["blank_lot"], form.data["cover_sheet"]) == ("V-12", "P-4")
    assert "parchment" in form.data["stack"]


@pytest.mark.parametrize(
    ("plate_mm", "art_mm", "x_mm", "past", "near"),
    [
        (150, 140, 5, True, False),
        (150, 100, 3, False, True),
        (150, 100, 25, False, False),
        (150, 140, -4, True, False),
        (400, 390, 5, False, True),
    ],
)
def test_the_edge_of_a_small_plate_points_to_art_past_it(
    technician, vest, plate_mm, art_mm, x_mm, past, near
):
    press = Press.objects.create(name="Smew", slug="smew", kind="handheld", mechanism="hand")
    plate = Element.objects.create(press=press, width_mm=plate_mm, height_mm=300)
    piece = room.piece(
        technician, plate, art_width_mm=art_mm, art_x_mm=x_mm, art_y_mm=100, art_height_mm=100
    )
    facts = place_facts(piece)
    assert (facts["art_past_plate"], facts["art_near_element_rim"]) == (past, near)


def test_a_case_of_a_small_plate_is_taken_for_placing(technician, vest):
    press = Press.objects.create(name="Smew", slug="smew", kind="handheld", mechanism="hand")
    plate = Element.objects.create(press=press, width_mm=150, height_mm=180)
    room.survey(technician, plate, "3x3", truth=lambda x, y: 195.0)
    piece = room.piece(
        technician, plate, art_width_mm=144, art_x_mm=2, art_y_mm=20, art_height_mm=140
    )
    room.mark(technician, piece, symptom="edge_fade", where="edge_left", x_mm=None, y_mm=None)
    case = actions.open_case(technician, piece)
    ranked = [c.cause.code for c in diagnose(build_case(case).case, shipped()).causes]
    assert ranked.index("misalignment") < ranked.index("cold_zone") if "cold_zone" in ranked else 1


def pulled(who, element, days_ago):
    made = pressure_actions.start_pulls(
        who, element, "3x3", grid_places("3x3", 400, 500), {"blank": None, "stack_mm": 1.0}
    )
    for station in made.stations.all():
        pressure_actions.enter_pull(who, station, "2", uuid4())
    pressure_actions.finish(who, made)
    then = timezone.now() - timedelta(days=days_ago)
    type(made).objects.filter(pk=made.pk).update(taken_at=then)
    return made


def test_a_later_pressure_map_does_not_enter_an_old_certificate(lead, element):
    old = room.survey(lead, element, days_ago=20)
    pulled(lead, element, 3)
    assert certificates.sign(lead, old).content["pressure"] is None
    pulled(lead, element, 25)
    new = room.survey(lead, element, days_ago=1)
    assert certificates.sign(lead, new).content["pressure"]["taken_at"][:10] == (
        f"{timezone.now() - timedelta(days=3):%Y-%m-%d}"
    )


def test_an_old_certificate_keeps_to_the_maps_of_its_own_time(lead, element):
    """A repair between two maps parts them, also when looked at after a third."""
    pulled(lead, element, 40)
    record_event(lead, element.press, "repair", "new heater", timezone.now() - timedelta(days=30))
    record_event(lead, element.press, "pad", "new pad", timezone.now() - timedelta(days=5))
    element.refresh_from_db()
    assert latest(element, timezone.now() - timedelta(days=35)) is not None
    assert latest(element, timezone.now() - timedelta(days=20)) is None
    assert latest(element) is None


def test_a_closed_case_is_not_judged_by_what_came_later(technician, lead, element, vest):
    piece = marked(technician, element, ("ghosting",), days_ago=9)
    case = actions.open_case(technician, piece)
    actions.close_case(technician, case, "transfer_moved", None, "", unproven_why="no blank left")
    case.refresh_from_db()
    before = shop_knowledge(case).base.causes["transfer_moved"].prior
    actions.change_knowledge(lead, "transfer_moved", "prior", "", 0.9, "seen often since")
    assert shop_knowledge(case).base.causes["transfer_moved"].prior == before
    assert shop_knowledge().base.causes["transfer_moved"].prior != before
    later = room.piece(technician, element)
    room.mark(technician, later, symptom="ghosting", x_mm=50.0, y_mm=300.0)
    room.mark(technician, piece, symptom="ghosting", x_mm=50.0, y_mm=300.0)
    assert same_marks(piece) != []
    assert build_case(case).others == []
