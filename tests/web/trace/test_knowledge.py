"""Knowledge to read and adjust, learning from closed cases, reliability, and the drawn faults."""

import pytest

from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.diagnosis.knowledge.rates import row_key
from tempermark.web.run.pieces import actions as runs
from tempermark.web.trace.board import actions
from tempermark.web.trace.knowledge.shop import shop_knowledge
from tempermark.web.trace.knowledge.views import _stated
from tempermark.web.trace.models import FaultCase, KnowledgeChange
from tempermark.web.trace.pictures.pictures import DRAWN, SEVERITIES, picture
from tempermark.web.trace.pictures.shapes import LEFT
from tests.support import room
from tests.support.contract_codes import CHECKS, SYMPTOMS


@pytest.fixture
def leads(browse_as, lead):
    return browse_as(lead)


def closed_case(technician, element, cause="cold_zone", **mark):
    piece = room.piece(technician, element)
    room.mark(technician, piece, **mark)
    case = actions.open_case(technician, piece)
    proof = room.piece(technician, element)
    runs.score(technician, proof, runs.Scored("good"))
    return actions.close_case(technician, case, cause, proof, "")


def test_every_cause_and_every_symptom_can_be_read(browse, db):
    listed = room.words(browse.get("/knowledge/"))
    for cause in shipped().causes.values():
        assert cause.label in listed
        page = room.words(browse.get(f"/knowledge/{cause.code}/"))
        assert cause.piece.split(".")[0] in page
    assert browse.get("/knowledge/gremlins/").status_code == 404
    found = room.words(browse.get("/knowledge/?q=wrinkle"))
    assert "No cause matches" in found
    assert "Dust" in room.words(browse.get("/knowledge/?q=specks"))


def test_a_lead_puts_a_number_that_is_used_and_takes_it_back(browse, leads, technician, element):
    path = "/knowledge/dust/"
    key = row_key(shipped().causes["dust"].shows[0])
    assert browse.post(path, {"value": "0.5", "why": "x"}).status_code == 403
    leads.post(path, {"key": key, "value": "0,4", "why": "we have a dust room"})
    leads.post(path, {"key": "", "value": "0.2", "why": "often here"})
    base = shop_knowledge().base
    assert base.causes["dust"].prior == 0.2
    assert base.causes["dust"].shows[0].strength == 0.4
    told = room.words(browse.get(path))
    assert "we have a dust room" in told and "(shipped 0.90)" in told
    for row in KnowledgeChange.objects.all():
        leads.post(f"/knowledge/changes/{row.pk}/withdraw/")
    assert shop_knowledge().base == shipped()
    leads.post(path, {"key": "sign:blank_not_wiped", "value": "0.7", "why": "we wipe"})
    assert shop_knowledge().base.causes["dust"].signs["blank_not_wiped"][0] == 0.7
    assert "From: technicians’" in room.words(browse.get(path)).replace("'", "’")
    wrong = leads.post(path, {"value": "1.5", "why": "x"})
    assert wrong.status_code == 422


def test_closed_cases_shift_what_is_thought_of_the_next(browse, technician, element):
    room.survey(technician, element)
    before = shop_knowledge().base.causes["cold_zone"].prior
    for _ in range(3):
        closed_case(technician, element)
    known = shop_knowledge()
    assert known.cases == 3
    assert known.base.causes["cold_zone"].prior > before
    assert "Your 3 closed cases count in" in room.words(browse.get("/knowledge/"))
    assert "Shifted by your cases" in room.words(browse.get("/knowledge/cold_zone/"))
    # A case never teaches what is thought of itself.
    one = FaultCase.objects.first()
    assert shop_knowledge(one).cases == 2


def test_a_reopened_case_teaches_no_more(technician, element):
    case = closed_case(technician, element)
    actions.reopen_case(technician, case)
    assert shop_knowledge().cases == 0


def test_how_well_guesses_held(browse, technician, element):
    page = "/knowledge/how-well/"
    assert "No closed case yet" in room.words(browse.get(page))
    room.survey(technician, element)
    right = closed_case(technician, element)
    closed_case(technician, element, cause="printer_fault")
    assert max(right.first_thought, key=right.first_thought.get) == "cold_zone"
    told = room.words(browse.get(page))
    assert "The first guess was right in 1 of 2 closed cases" in told
    assert "Brier score" in told
    assert room.soup(browse.get(page)).select("circle")
    # What was found and never thought of counts against the score, stated as none.
    pairs = [
        p for case in FaultCase.objects.all() for p in _stated(case.first_thought, case.causes)
    ]
    assert (0.0, True) in pairs
    brier = sum((chance - so) ** 2 for chance, so in pairs) / len(pairs)
    assert f"Brier score {brier:.3f} at first" in told
    assert _stated({"dust": 0.7}, ("lint", "dust")) == [(0.7, True), (0.0, True)]
    assert _stated({}, ("lint",)) == []


def test_every_symptom_is_drawn_and_grows_with_its_severity():
    assert set(DRAWN) == set(SYMPTOMS)
    for symptom in SYMPTOMS:
        three = [picture(symptom, n) for n in SEVERITIES]
        assert len({str(shapes) for shapes in three}) == 3, symptom
        assert picture(symptom, 2) == three[1]
    # A ghost lies further off the worse it is; blowout reaches further round.
    ghosts = [picture("ghosting", n) for n in SEVERITIES]
    first = [float(shapes[1].d.split()[1].lstrip("M")) for shapes in ghosts]
    assert first == sorted(first) and first[0] > LEFT
    rims = [max(s.width for s in picture("blowout", n)) for n in SEVERITIES]
    assert rims == sorted(rims)


def test_the_library_of_faults(browse, db):
    wall = browse.get("/faults/")
    assert len(room.soup(wall).select("svg.fault")) == len(SYMPTOMS)
    page = browse.get("/faults/ghosting/?case=7")
    told = room.words(page)
    assert "a ghost" in told.lower() and "Mistaken for" in told and "Causes" in told
    assert "Transfer moved" in told or "transfer" in told.lower()
    assert len(room.soup(page).select(".fault-row svg")) == 3
    assert room.soup(page).select("a[href='/cases/7/']")
    assert "It looks so" not in told
    assert browse.get("/faults/none/").status_code == 404
    assert "Nothing looks like" in room.words(browse.get("/faults/?q=zzz"))
    assert "Blisters" in room.words(browse.get("/faults/?q=blister"))


def test_every_check_is_listed_with_its_cost_and_what_it_finds(browse, db):
    page = room.soup(browse.get("/knowledge/checks/"))
    rows = {row["id"]: row.text for row in page.select("tr[id]")}
    assert set(rows) == set(CHECKS)
    assert "60 min" in rows["wash_check"] and "1 blank" in rows["wash_check"]
    assert "One side weaker" in rows["pull_strips"] and "pressure uneven" in rows["pull_strips"]
    assert page.select_one("tr#pull_strips a[href='/knowledge/pressure_uneven/']")


def test_a_check_at_the_hot_press_carries_its_caution_where_it_is_done(browse, technician, element):
    room.survey(technician, element, days_ago=1)
    piece = room.piece(technician, element)
    room.mark(technician, piece)
    board = room.soup(browse.get(actions.open_case(technician, piece).get_absolute_url()))
    assert "Keep hands out of the closing plate" in board.select_one(".box .caution").text
    listed = room.soup(browse.get("/knowledge/checks/"))
    assert "burn at a touch" in listed.select_one("#spot_temperature .caution").text
