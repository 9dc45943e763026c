"""From a mark to a closed case."""

import json
import re
from uuid import uuid4

import pytest
from django.db import IntegrityError, transaction

from tempermark.core.diagnosis.engine import diagnose
from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.files.case import answer, from_document
from tempermark.web.kit.figures import chance_text
from tempermark.web.run.pieces import actions as runs
from tempermark.web.trace.board import actions, queries
from tempermark.web.trace.board.mapping import build_case
from tempermark.web.trace.board.words import chances, moved
from tempermark.web.trace.models import CheckRecord, FaultCase
from tests.support import room
from tests.support.contract_codes import CAUSES


@pytest.fixture
def case(browse, technician, element):
    room.survey(technician, element, days_ago=1)
    piece = room.piece(technician, element)
    room.mark(technician, piece)
    browse.post(f"/test-presses/{piece.pk}/trace/")
    return FaultCase.objects.get()


def board(browse, case):
    return room.soup(browse.get(case.get_absolute_url()))


def order(page):
    return [c["data-cause"] for c in page.select("[data-cause]")]


def test_no_case_without_a_mark(browse, technician, element):
    piece = room.piece(technician, element)
    browse.post(f"/test-presses/{piece.pk}/trace/")
    assert not FaultCase.objects.exists()
    assert "Mark what is wrong" in room.words(browse.get(piece.get_absolute_url()))


def test_the_survey_speaks_first(browse, case):
    page = board(browse, case)
    assert order(page)[0] == "cold_zone"
    text = " ".join(page.get_text(" ").split())
    assert "true at the mark, survey of" in text
    assert "Move the art inside the marked" in text
    assert case.test_press.outcome == "faulty"


def test_opening_twice_is_one_case(browse, case):
    browse.post(f"/test-presses/{case.test_press.pk}/trace/")
    assert FaultCase.objects.count() == 1


def percent(text):
    return int(text.split("\u00a0")[0])


def test_answers_move_the_order_and_can_be_forgotten(browse, case):
    before = board(browse, case).select_one("[data-cause=cold_zone] .chance").text
    browse.post(f"/cases/{case.pk}/answer/", {"fact": "follows_blank", "answer": "yes"})
    page = board(browse, case)
    lower = page.select_one("[data-cause=cold_zone] .chance")
    assert lower is None or percent(lower.text) < percent(before)
    browse.post(f"/cases/{case.pk}/answer/", {"fact": "follows_blank", "answer": "unknown"})
    assert board(browse, case).select_one("[data-cause=cold_zone] .chance").text == before


def test_a_measured_figure_leads_over_the_survey(browse, case):
    browse.post(f"/cases/{case.pk}/answer/", {"about": "actual.measured_c", "typed": "392f"})
    case.refresh_from_db()
    assert case.figures["actual.measured_c"] == pytest.approx(200)
    response = browse.post(
        f"/cases/{case.pk}/answer/", {"about": "actual.measured_c", "typed": "warm"}
    )
    assert response.status_code == 422
    assert "You typed “warm”" in room.words(response)


def test_check_recorded_once_and_taken_back(browse, case):
    form = next(f for f in board(browse, case).select("form") if f["action"].endswith("/check/"))
    button = form.select_one("button[name=outcome]")
    data = {
        i["name"]: i["value"] for i in form.select("input") if i["name"] != "csrfmiddlewaretoken"
    }
    data |= {"outcome": button["value"]}
    before = order(board(browse, case)), board(browse, case).select_one(".chance").text
    for _ in range(2):
        browse.post(form["action"], data)
    made = CheckRecord.objects.get()
    assert button["value"] in board(browse, case).get_text()
    assert board(browse, case).select_one(".chance").text != before[1]
    browse.post(f"/cases/{case.pk}/check/take-back/", {"check": made.pk})
    assert board(browse, case).select_one(".chance").text == before[1]


@pytest.mark.parametrize(
    "data",
    [{"check": "crystal_ball", "outcome": "x"}, {"check": "pull_strips", "outcome": "purple"}],
)
def test_unknown_checks_are_refused(browse, case, data):
    assert browse.post(f"/cases/{case.pk}/check/", data).status_code == 422


def test_what_a_check_or_an_answer_moved_is_told(browse, case):
    path = f"/cases/{case.pk}/"
    assert "After “" not in room.words(browse.get(path))
    browse.post(f"{path}check/", {"check": "pull_strips", "outcome": "One side weaker"})
    told = board(browse, case).select_one("[role=status]").text
    assert told.startswith("After “pull paper strips: one side weaker”: pressure uneven")
    before, after = (int(x) for x in re.findall(r"level (\d+)\s% → (\d+)\s%", told)[0])
    assert after > before + 30
    browse.post(f"{path}check/take-back/", {"check": case.checks.get().pk})
    told = board(browse, case).select_one("[role=status]").text
    back = re.findall(r"level (\d+)\s% → (\d+)\s%", told)[0]
    assert told.startswith("After “undone:") and back == (str(after), str(before))
    browse.post(f"{path}answer/", {"fact": "tumble_dried_hot", "answer": "no"})
    assert "hardly anything moved" in board(browse, case).select_one("[role=status]").text


def test_another_symptom_is_asked_after_and_its_answer_counts(browse, technician, element):
    piece = room.piece(technician, element)
    room.mark(technician, piece, symptom="low_density", where="all", x_mm=None, y_mm=None)
    case = actions.open_case(technician, piece)
    path = case.get_absolute_url()
    asked = board(browse, case).select_one("[name=symptom]")["value"]
    label = shipped().symptoms[asked].label
    browse.post(f"{path}answer/", {"symptom": asked, "answer": "yes"})
    assert build_case(FaultCase.objects.get()).case.observations[-1].symptom == asked
    page = room.words(browse.get(path))
    assert f"also seen: {label}" in page and f"“{label.lower()}, also seen: yes”" in page
    browse.post(f"{path}answer/", {"symptom": asked, "answer": "no"})
    found = build_case(FaultCase.objects.get()).case
    assert found.not_seen == {asked} and len(found.observations) == 1
    assert f"not seen: {label}" in room.words(browse.get(path))
    browse.post(f"{path}answer/", {"symptom": asked, "answer": "unknown"})
    assert build_case(FaultCase.objects.get()).case.not_seen == frozenset()
    assert browse.post(f"{path}answer/", {"symptom": "fluff", "answer": "no"}).status_code == 422


def test_closing_needs_proof(browse, case, technician, element):
    response = browse.post(f"/cases/{case.pk}/close/", {"cause": "cold_zone"})
    assert "that is the proof" in room.words(response)
    link = board(browse, case).select_one("[data-cause=cold_zone] a[href*='again=']")["href"]
    page = room.soup(browse.get(link))
    assert "Try the remedy" in page.h1.text
    again = room.piece(technician, element, art_x_mm=100.0, art_y_mm=60.0)
    refused = browse.post(f"/cases/{case.pk}/close/", {"cause": "cold_zone", "proof": again.pk})
    assert "scored good" in room.words(refused)
    browse.post(f"/test-presses/{again.pk}/outcome/", {"outcome": "good"})
    browse.post(
        f"/cases/{case.pk}/close/", {"cause": "cold_zone", "proof": again.pk, "note": "moved"}
    )
    text = room.words(browse.get(case.get_absolute_url()))
    assert "Cold zone on the platen , proved by the test press" in text or "proved by" in text
    assert (
        browse.post(
            f"/cases/{case.pk}/answer/", {"fact": "steam_seen", "answer": "yes"}
        ).status_code
        == 422
    )
    browse.post(f"/cases/{case.pk}/reopen/")
    case.refresh_from_db()
    assert case.closed_at is None


def test_two_causes_at_work_close_one_case(browse, case, technician, element):
    proof = room.piece(technician, element, art_x_mm=100.0, art_y_mm=60.0)
    browse.post(f"/test-presses/{proof.pk}/outcome/", {"outcome": "good"})
    data = {"cause": "cold_zone", "second": "cold_zone", "proof": proof.pk, "note": "moved, drier"}
    refused = room.soup(browse.post(f"/cases/{case.pk}/close/", data))
    assert "must be another one" in refused.text
    assert refused.select_one("#note")["value"] == "moved, drier"
    assert refused.select_one("#second [selected]")["value"] == "cold_zone"
    browse.post(f"/cases/{case.pk}/close/", data | {"second": "blank_damp"})
    case.refresh_from_db()
    assert case.causes == ("cold_zone", "blank_damp")
    assert "Cold zone on the platen and Blank damp" in room.words(
        browse.get(case.get_absolute_url())
    )
    browse.post(f"/cases/{case.pk}/reopen/")
    case.refresh_from_db()
    assert case.causes == ()


def test_remedy_repeats_everything_but_the_one_thing(browse, technician, element):
    room.survey(technician, element, truth=lambda x, y: 195.0, days_ago=1)
    piece = room.piece(technician, element, dwell_s=25.0, set_c=200.0, art_x_mm=33.0)
    room.mark(technician, piece, symptom="weak_black", where="all", x_mm=None, y_mm=None)
    browse.post(f"/test-presses/{piece.pk}/trace/")
    page = board(browse, FaultCase.objects.get())
    assert order(page)[0] == "dwell_short"
    form = room.soup(
        browse.get(page.select_one("[data-cause=dwell_short] a[href*='again=']")["href"])
    ).select_one("form#log")
    value = {i["name"]: i.get("value") for i in form.select("input")}
    assert (value["dwell_s"], value["set_c"], value["art_x_mm"]) == ("52.5", "200", "33")


def test_what_worked_before_on_this_press_is_known(browse, technician, element):
    good = room.piece(technician, element, days_ago=3, dwell_s=75.0)
    browse.post(f"/test-presses/{good.pk}/outcome/", {"outcome": "good"})
    piece = room.piece(technician, element, dwell_s=50.0)
    room.mark(technician, piece, symptom="weak_black", where="all", x_mm=None, y_mm=None)
    browse.post(f"/test-presses/{piece.pk}/trace/")
    page = board(browse, FaultCase.objects.get())
    assert "good with 75\u00a0s" in page.get_text()
    assert order(page)[0] == "dwell_short"


def test_normal_appearance_closes_without_proof(browse, technician, element):
    piece = room.piece(technician, element)
    room.mark(
        technician,
        piece,
        symptom="dull_before_press",
        where="all",
        when="before_press",
        x_mm=None,
        y_mm=None,
    )
    browse.post(f"/test-presses/{piece.pk}/trace/")
    case = FaultCase.objects.get()
    assert "This is normal: not a fault." in board(browse, case).h1.text
    browse.post(f"/cases/{case.pk}/close/", {"cause": "normal_appearance"})
    case.refresh_from_db()
    assert case.closed_at


def test_the_database_itself_refuses_a_closed_case_without_proof(case):
    with pytest.raises(IntegrityError), transaction.atomic():
        FaultCase.objects.filter(pk=case.pk).update(closed_at=case.opened_at, cause=CAUSES[0])


def test_lists(browse, case):
    assert "Fades towards a margin" in room.words(browse.get("/cases/"))
    assert "open" in room.words(browse.get("/presses/heron/"))


def test_other_pieces_tell_that_the_mark_follows_the_platen(browse, technician, element):
    earlier = room.piece(technician, element, days_ago=2, art_x_mm=10.0, art_y_mm=180.0)
    room.mark(technician, earlier, x_mm=45.0, y_mm=415.0)
    piece = room.piece(technician, element, art_x_mm=60.0, art_y_mm=230.0)
    room.mark(technician, piece, x_mm=62.0, y_mm=430.0)
    browse.post(f"/test-presses/{piece.pk}/trace/")
    case = FaultCase.objects.get()
    page = board(browse, case)
    assert "same place on the platen each time" in page.get_text()
    assert "Dashed: where other pieces" in page.get_text()
    browse.post(f"/cases/{case.pk}/answer/", {"fact": "follows_platen", "answer": "no"})
    assert "no: same place on the platen" in board(browse, case).get_text()


def test_cases_are_found_by_press_fault_cause_and_state(browse, technician, case):
    other = room.piece(technician, room.element("Wren", place=2))
    room.mark(technician, other, symptom="ghosting")
    second = actions.open_case(technician, other)

    def found(asked):
        page = room.soup(browse.get("/cases/", {"q": asked}))
        return {a["href"] for a in page.select("td a")}

    assert list(queries.all_cases()) == [second, case]
    both = {case.get_absolute_url(), second.get_absolute_url()}
    assert found("") == found("open") == found("vest open") == both
    assert found("wren") == found("ghost") == {second.get_absolute_url()}
    assert found("ghost heron") == set()
    proof = runs.score(technician, room.piece(technician, other.element), runs.Scored("good"))
    actions.close_case(technician, second, "transfer_moved", proof, "taped at four corners")
    assert found("corners") == found("moved") == {second.get_absolute_url()}
    assert found("open") == {case.get_absolute_url()}
    # Open ones first, whenever they were opened.
    assert list(queries.all_cases()) == [case, second]
    assert "No case matches “zebra”" in room.words(browse.get("/cases/", {"q": "zebra"}))
    assert "1 fault being traced" in room.words(browse.get("/cases/"))


def test_the_case_goes_out_as_the_file_that_gives_its_board_again(browse, case):
    actions.answer_fact(case.opened_by, case, "steam_seen", "no")
    actions.record_check(case.opened_by, case, "pull_strips", "nothing", uuid4())
    case.refresh_from_db()
    raw = browse.get(f"/cases/{case.pk}/case.json")
    assert "attachment" in raw["Content-Disposition"]
    told = answer(json.loads(raw.content))
    shown = {
        c["data-cause"]: c.select_one(".chance").text for c in board(browse, case).select(".cause")
    }
    assert list(shown) == [c["code"] for c in told["causes"]]
    for cause in told["causes"]:
        assert shown[cause["code"]] == chance_text(cause["probability"])
    assert from_document(json.loads(raw.content)) == build_case(case).case


@pytest.mark.parametrize(
    ("about", "typed", "shown"),
    [
        ("actual.time_s", "35", "total dwell: 35 s"),
        ("actual.measured_c", "383f", "true temperature there: 195 °C"),
        ("blank.polyester", "65 %", "polyester: 65 %"),
        ("actual.pressure", "light", "pressure: light"),
    ],
)
def test_a_figure_told_reads_with_its_label_and_unit(browse, case, about, typed, shown):
    browse.post(f"/cases/{case.pk}/answer/", {"about": about, "typed": typed})
    page = room.words(browse.get(case.get_absolute_url())).replace("\u00a0", " ")
    assert f"Reported {shown}" in page and f"After “{shown}”" in page
    assert about not in page
    browse.post(f"/cases/{case.pk}/answer/", {"about": about, "typed": ""})
    assert "forgotten”" in room.words(browse.get(case.get_absolute_url()))


def test_a_cause_pushed_off_the_list_is_told_with_its_true_chance(browse, case):
    actions.record_check(case.opened_by, case, "survey_temperature", "nothing", uuid4())
    case.refresh_from_db()
    told = diagnose(build_case(case).case, shipped())
    off = {s.cause.code: s.probability for s in told.spoken_against}
    assert "cold_zone" in off or "cold_zone" in {c.cause.code for c in told.causes}
    after = chances(told)["cold_zone"]
    assert f"→ {max(1, round(100 * after))}\u00a0%" in moved(case, told)
