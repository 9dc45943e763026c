"""Diagnosis of whole cases: the worked ones, our own, and how often they are right."""

import json

import pytest

from tempermark.core.errors import InputError
from tempermark.files.case import answer, case_document, from_document
from tests.support import examples
from tests.support.cases import GIVEN, case_of

OWN = {c["name"]: c for c in json.loads((examples.OWN_CASES / "own.json").read_text())}


def check(case):
    expect = case["expect"]
    found = answer(case["input"])
    order = [c["code"] for c in found["causes"]]
    assert order[0] in expect["top1_any"], order[:4]
    for code in expect.get("top3_all", []):
        assert code in order[:3]
    assert not set(order[:3]) & set(expect["not_top3"]), order[:3]
    assert found["normal_appearance"] is expect["normal_appearance"]


@pytest.mark.parametrize("name", GIVEN)
def test_given_case(name):
    check(GIVEN[name])


@pytest.mark.parametrize("name", OWN)
def test_own_case(name):
    check(OWN[name])


# Written from the handbook alone after the strengths stood; nothing was changed for them.
UNSEEN = {c["name"]: c for c in json.loads((examples.OWN_CASES / "unseen.json").read_text())}


# Written from the twenty jobs in a later session, before the engine saw them; first answers: top-1
# 65 of 65, eight third places of 2 to 9 % that the case refuted. What came of that is in 0018.
FROM_THE_JOBS = {
    c["name"]: c for c in json.loads((examples.OWN_CASES / "from_the_jobs.json").read_text())
}


def test_situations_not_seen_before_and_how_often_they_are_right():
    cases = [*OWN.values(), *UNSEEN.values(), *FROM_THE_JOBS.values()]
    assert len(cases) >= 120
    first = third = 0
    blunders = []
    squares = []
    for case in cases:
        found, expect = answer(case["input"])["causes"], case["expect"]
        order = [c["code"] for c in found]
        first += order[0] in expect["top1_any"]
        third += bool(set(order[:3]) & set(expect["top1_any"]))
        if set(order[:3]) & set(expect["not_top3"]):
            blunders.append(case["name"])
        squares += [(c["probability"] - (c["code"] in expect["top1_any"])) ** 2 for c in found]
    assert first / len(cases) >= 0.85
    assert third / len(cases) >= 0.97
    assert not set(blunders) & {*OWN, *UNSEEN}
    # One third place below 0.1 that the case does not refute: pressure too light beside a rim.
    assert len(blunders) <= 1
    # Always saying one half would score 0.25.
    assert sum(squares) / len(squares) < 0.1


@pytest.mark.parametrize("name", [*GIVEN, *FROM_THE_JOBS])
def test_a_case_goes_out_and_comes_in_the_same(name):
    case = from_document((GIVEN | FROM_THE_JOBS)[name]["input"])
    assert from_document(case_document(case)) == case


@pytest.mark.parametrize(
    "change",
    [
        {"observations": []},
        {"observations": [{"symptom": "gosting"}]},
        {"facts": ["no_such_fact"]},
        {"recipe": {"temperature_c": [205, 195]}},
        {"actual": {"time_s": 9000}},
        {"blank": {"polyester": 1.2}},
        {"actual": {"set_c": True}},
        {"checks_done": [{"check": "pull_strips", "result": "maybe"}]},
    ],
)
def test_bad_cases_are_refused(change):
    with pytest.raises(InputError):
        answer({**case_of("ghosting", "all"), **change})
