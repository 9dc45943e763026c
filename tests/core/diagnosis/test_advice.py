"""What to do and what to ask: remedies in numbers, questions, checks, what must be said."""

import copy
from dataclasses import replace

import pytest

from tempermark.core.diagnosis.advice.remedies import remedy_for
from tempermark.core.diagnosis.case import (
    Case,
    CaseWindow,
)
from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.phrases import metric
from tempermark.core.vocabulary.methods import METHODS
from tempermark.files.case import answer
from tests.support.cases import GIVEN, case_of


def test_settings_of_the_remedy_are_computed_for_this_press():
    document = copy.deepcopy(GIVEN["012-sleeve-colder-than-it-says"]["input"])
    document["press"]["gain"] = 1.25
    remedy = answer(document)["causes"][0]["remedy"]
    # 17 K missing at the middle of the window, through a gain of 1.25.
    assert remedy["settings"]["set_c"] == 198 + round(17 / 1.25)
    assert f"{remedy['settings']['set_c']:g} °C" in remedy["text"]


def test_remedy_on_coloured_polyester_stays_low_in_the_window():
    film = {"temperature_c": [145, 155], "time_s": [10, 15]}
    document = case_of(
        "carrier_pulls_film", "all", recipe=film, actual={"set_c": 150, "measured_c": 135}
    )
    document |= {
        "method": "heat_transfer_film",
        "blank": {"kind": "garment", "polyester": 1.0, "colour": "dark"},
    }
    found = next(c for c in answer(document)["causes"] if c["code"] == "display_reads_high")
    assert found["remedy"]["settings"]["target_c"] < 149
    assert found["remedy"]["cautions"]


def test_the_longer_way_is_the_recipe_s_own_school_where_it_has_one():
    window = CaseWindow((198.0, 204.0), (60.0, 120.0), "medium")
    case = Case(method="dye_sublimation", observations=(), recipe=window)
    cause = next(c for c in shipped().causes.values() if "long_and_lower" in c.settings)
    by_clock = remedy_for(cause, case).settings
    school = replace(window, lower_temperature_c=(175.0, 185.0), lower_time_s=(117.0, 313.0))
    found = remedy_for(cause, replace(case, recipe=school))
    assert (found.settings["target_c"], found.settings["time_s"]) == (180.0, 215)
    assert by_clock["time_s"] != found.settings["time_s"]
    assert "gives the same result" in metric(found.text)


def test_questions_ask_only_for_what_is_unknown():
    open_case = answer(case_of("ghosting", "all"))["questions"]
    told = answer(case_of("ghosting", "all", facts=["transfer_fixed"], actual={"closures": 1}))[
        "questions"
    ]
    assert any(q["about"] == "transfer_not_fixed" for q in open_case)
    assert not any(q["about"].startswith("transfer_") and "fixed" in q["about"] for q in told)
    assert not any(q["about"] == "closed_more_than_once" for q in told)


def test_next_checks_fall_in_worth_and_leave_out_what_is_settled():
    first = answer(case_of("ghosting", "all"))["next_checks"]
    worth = [c["expected_information_bits"] / max(1, c["minutes"] + 4 * c["blanks"]) for c in first]
    assert worth == sorted(worth, reverse=True)
    done = [{"check": first[0]["check"], "result": "excludes", "cause": "transfer_moved"}]
    later = answer(case_of("ghosting", "all", checks_done=done))["next_checks"]
    assert first[0]["check"] not in [c["check"] for c in later]


def test_at_most_two_other_symptoms_are_asked_after_and_none_of_another_method():
    for method in METHODS:
        for symptom in ("low_density", "peeling", "scorch", "ghosting"):
            asked = answer({**case_of(symptom, "all"), "method": method})["questions"]
            after = [q["about"] for q in asked if q["about"].startswith("seen:")]
            assert len(after) <= 2 and f"seen:{symptom}" not in after
            if method == "heat_transfer_film":
                assert "seen:weak_black" not in after


THREE = (("strike_through", "all"), ("tape_mark", "all"), ("banding", "all"))


def test_three_things_that_no_cause_shows_together_are_told_apart():
    seen = [{"symptom": s, "where": w} for s, w in THREE]
    case = {"method": "dye_sublimation", "observations": seen}
    told = answer(case_of("ghosting", "all") | case)
    note = next(text for text in told["notes"] if "separate faults" in text)
    assert note.startswith("These look like 3 separate faults")
    assert "tape mark" in note and note.endswith("Trace one at a time.")


@pytest.mark.parametrize(
    "symptoms",
    [("low_density", "weak_black", "washout"), ("strike_through", "tape_mark"), ("ghosting",)],
)
def test_what_may_be_one_fault_or_two_is_weighed_together(symptoms):
    seen = [{"symptom": s} for s in symptoms]
    told = answer(case_of("ghosting", "all") | {"observations": seen})
    assert not any("separate faults" in text for text in told["notes"])


def test_a_symptom_of_another_method_is_said_plainly():
    told = answer(case_of("adhesive_halo", "all"))
    assert told["causes"] == []
    assert "with dye, only with cut film" in told["notes"][-1]
    mixed = case_of("low_density", "all")
    mixed["observations"].append({"symptom": "adhesive_halo"})
    assert "look at the method again" in answer(mixed)["notes"][-1]
    assert answer(mixed)["causes"]


def test_a_symptom_nowhere_known_then_is_said_plainly():
    boxed = case_of("sheen_box", "corner_back_left")
    boxed["observations"][0]["when"] = "before_press"
    assert "look where and when again" in answer(boxed)["notes"][-1]


def test_what_no_cause_explains_is_said():
    document = case_of("unmelted_powder", "all")
    found = answer(document)
    assert found["causes"] == []
    assert "No known cause" in found["notes"][0]


def test_where_everything_is_spoken_against_that_is_said():
    mirrored = case_of("reversed_image", "all", not_facts=["not_mirrored"])
    mirrored["checks_done"] = [
        {"check": "inspect_print", "result": "excludes", "cause": "not_mirrored"}
    ]
    told = answer(mirrored)
    assert told["causes"] == []
    assert [item["code"] for item in told["spoken_against"]] == ["not_mirrored"]
    assert "rule out every cause" in told["notes"][-1]
