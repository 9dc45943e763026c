"""Diagnosis: the worked cases, cases of our own, and what must hold for any case."""

import copy
import json
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tempermark.core import vocabulary as codes
from tempermark.core.constants import expansion_per_k
from tempermark.core.diagnosis import knowledge_base
from tempermark.core.diagnosis.case import (
    Actual,
    Blank,
    Case,
    MapAtPrint,
    Press,
    Window,
    WorkedBefore,
)
from tempermark.core.diagnosis.knowledge_base import problems, shipped
from tempermark.core.diagnosis.measures import MEASURES, NEEDS, growth_per_side_mm
from tempermark.core.diagnosis.remedies import SETTINGS, remedy
from tempermark.core.errors import InputError
from tempermark.core.recipes.blank_types import blank_types
from tempermark.core.thermal.dye import equal_dose_time_s
from tempermark.core.thermal.materials import materials
from tempermark.files.case import answer, case_document, from_document
from tests.support import examples

GIVEN = {p.stem: examples.load(p) for p in sorted(examples.CASES.glob("*.json"))}
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


def test_knowledge_is_sound_and_every_name_in_it_is_known():
    base = shipped()
    assert problems(base) == []
    for cause in base.causes.values():
        assert set(cause.measures) <= set(MEASURES)
        assert set(cause.settings) <= set(SETTINGS)
        for name in cause.context:
            assert name in {
                "method",
                "press.kind",
                "blank.kind",
                "blank.colour",
                "blank.coating",
                "blank.features",
            }
    assert set(NEEDS) <= set(MEASURES)


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ('"peeling:flim" = "B"', "unknown kind of methods flim"),
        ('"peeling@later" = "B"', "unknown time later"),
        ('peeling = "D"', "strength D"),
        ('fluff = "B"', "unknown symptom fluff"),
        ('washout = "B", peeling = "A"', "no reason for washout"),
    ],
)
def test_a_row_that_breaks_the_shape_is_refused_at_start(tmp_path, monkeypatch, line, said):
    for file in knowledge_base.FOLDER.glob("*.toml"):
        text = file.read_text()
        if file.name == "surface.toml":
            before = 'shows = { "peeling:film" = "A", "film_cracking:film" = "B" }'
            assert before in text
            text = text.replace(before, f"shows = {{ {line} }}")
        (tmp_path / file.name).write_text(text)
    monkeypatch.setattr(knowledge_base, "FOLDER", tmp_path)
    with pytest.raises(knowledge_base.KnowledgeError, match=said):
        shipped.__wrapped__()


def test_every_symptom_is_explained_by_some_cause_and_every_cause_shows_one():
    base = shipped()
    shown = {row.symptom for cause in base.causes.values() for row in cause.shows}
    assert shown == set(codes.SYMPTOMS)
    assert all(cause.shows for cause in base.causes.values())


def test_every_cause_of_this_slice_can_be_told_by_a_check():
    base = shipped()
    told = {
        c for check in base.checks.values() for outcome in check.outcomes for c in outcome.causes
    }
    slice_groups = ("temperature", "movement", "moisture")
    for cause in base.causes.values():
        if cause.group in slice_groups and cause.code != "retransfer":
            assert cause.code in told, cause.code


def case_of(symptom, where, **more):
    seen = {"symptom": symptom, "where": where, "when": "on_opening"}
    return {
        "format": "tempermark.case/1",
        "method": "dye_sublimation",
        "observations": [seen],
        **more,
    }


def chance(document, code):
    return {c["code"]: c["probability"] for c in answer(document)["causes"]}.get(code, 0.0)


def strongest_signs():
    """Each fact with the cause that it speaks for most (others it may explain away)."""
    best = {}
    for cause in shipped().causes.values():
        for fact, (with_cause, without) in cause.signs.items():
            if with_cause > without and with_cause / without > best.get(fact, (0, ""))[0]:
                best[fact] = (with_cause / without, cause.code)
    return [(code, fact) for fact, (_, code) in sorted(best.items())]


@settings(max_examples=60, deadline=None)
@given(st.sampled_from(strongest_signs()), st.sampled_from(codes.PLACES))
def test_a_confirming_fact_never_lowers_its_cause(sign, where):
    code, fact = sign
    symptom = shipped().causes[code].shows[0].symptom
    plain = case_of(symptom, where)
    assert chance({**plain, "facts": [fact]}, code) >= chance(plain, code) - 2e-4


@settings(max_examples=60, deadline=None)
@given(st.sampled_from(sorted(shipped().causes)), st.sampled_from(codes.CHECKS))
def test_an_excluding_check_never_raises_and_a_confirming_one_never_lowers(code, check_code):
    plain = case_of(shipped().causes[code].shows[0].symptom, "all")

    def with_result(result):
        return {**plain, "checks_done": [{"check": check_code, "result": result, "cause": code}]}

    before = chance(plain, code)
    assert chance(with_result("excludes"), code) <= before + 2e-4
    assert chance(with_result("confirms"), code) >= before - 2e-4
    assert chance(with_result("unclear"), code) == before


@settings(max_examples=30, deadline=None)
@given(st.permutations(range(4)))
def test_order_of_evidence_does_not_matter(order):
    seen = [
        {"symptom": "weak_black", "where": "all"},
        {"symptom": "low_density", "where": "all"},
        {"symptom": "edge_fade", "where": "edge_left"},
        {"symptom": "ghosting", "where": "all"},
    ]
    facts = ["transfer_not_fixed", "rapid_series", "humid_room", "follows_platen"]
    base = {**case_of("weak_black", "all"), "observations": seen, "facts": facts}
    turned = {**base, "observations": [seen[i] for i in order], "facts": [facts[i] for i in order]}
    assert answer(turned)["causes"] == answer(base)["causes"]


def test_what_was_there_before_the_press_is_not_blamed_on_it():
    smeared = case_of("smudge", "all")
    smeared["observations"][0]["when"] = "before_press"
    later = case_of("smudge", "all")
    assert chance(smeared, "transfer_moved") < chance(later, "transfer_moved") / 2
    assert chance(smeared, "too_much_ink") > chance(later, "too_much_ink")


def test_powder_white_before_the_press_may_still_come_of_the_hover():
    gritty = case_of("unmelted_powder", "all", facts=["hovered_with_ptfe_cover"])
    gritty |= {"method": "powder_film"}
    later = copy.deepcopy(gritty)
    gritty["observations"][0]["when"] = "before_press"
    assert chance(gritty, "heat_blocked") == pytest.approx(chance(later, "heat_blocked"), abs=0.03)
    assert chance(gritty, "heat_blocked") > 0.5


@pytest.mark.parametrize("name", [*GIVEN, *FROM_THE_JOBS])
def test_a_case_goes_out_and_comes_in_the_same(name):
    case = from_document((GIVEN | FROM_THE_JOBS)[name]["input"])
    assert from_document(case_document(case)) == case


def test_what_was_looked_for_and_not_found_counts_as_a_noisy_or_says():
    pale = case_of("low_density", "all")
    without = {**pale, "not_seen": ["weak_black"]}
    odds = {}
    for name, document in (("silent", pale), ("without", without)):
        found = answer(document)
        told = {c["code"]: c["probability"] for c in found["causes"] + found["spoken_against"]}
        odds[name] = told["setpoint_low"] / told["heat_blocked"]
    # Nearly always against often: 0.1 against 0.45, where silence had counted by a quarter.
    expected = (0.1 / 0.45) / ((1 - 0.25 * 0.9) / (1 - 0.25 * 0.55))
    assert odds["without"] / odds["silent"] == pytest.approx(expected, rel=0.15)
    reasons = [b for c in answer(without)["causes"] for b in c["because"]]
    assert "− not seen: blacks weak, colours fair" in reasons


def test_a_symptom_told_as_seen_and_as_not_seen_is_taken_as_seen():
    both = {**case_of("low_density", "all"), "not_seen": ["low_density"]}
    told = answer(both)
    assert "taken as seen: whole print pale" in told["notes"][0]
    assert told["causes"] == answer(case_of("low_density", "all"))["causes"]


@settings(max_examples=40, deadline=None)
@given(st.sampled_from(sorted(shipped().causes)), st.sampled_from(codes.SYMPTOMS))
def test_not_seeing_never_raises_a_cause_that_shows_it_most(code, symptom):
    shows = {r.symptom: r.strength for r in shipped().causes[code].shows if not r.when}
    plain = case_of(shipped().causes[code].shows[0].symptom, "all")
    strongest = max(
        (r.strength for c in shipped().causes.values() for r in c.shows if r.symptom == symptom),
        default=0.0,
    )
    if shows.get(symptom, 0.0) < strongest:
        return
    assert chance({**plain, "not_seen": [symptom]}, code) <= chance(plain, code) + 2e-4


def test_at_most_two_other_symptoms_are_asked_after_and_none_of_another_method():
    for method in codes.METHODS:
        for symptom in ("low_density", "peeling", "scorch", "ghosting"):
            asked = answer({**case_of(symptom, "all"), "method": method})["questions"]
            after = [q["about"] for q in asked if q["about"].startswith("seen:")]
            assert len(after) <= 2 and f"seen:{symptom}" not in after
            if method == "heat_transfer_film":
                assert "seen:weak_black" not in after


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


def test_a_thing_seen_at_one_time_only_is_taken_so_and_that_is_said():
    faded = case_of("washout", "all")
    told = answer(faded)
    assert "is seen after washing, not on opening" in told["notes"][0]
    faded["observations"][0]["when"] = "after_wash"
    assert answer(faded)["causes"] == told["causes"]
    del faded["observations"][0]["when"]
    assert answer(faded)["causes"] == told["causes"]


def test_where_the_time_was_not_told_later_ones_count_by_half():
    cracked = case_of("film_cracking", "all", method="heat_transfer_film")
    del cracked["observations"][0]["when"]
    after = copy.deepcopy(cracked)
    after["observations"][0]["when"] = "after_wash"
    peeled = copy.deepcopy(cracked)
    peeled["observations"][0]["when"] = "on_peel"
    washed = [chance(case, "wash_harsh") for case in (peeled, cracked, after)]
    assert washed[0] == 0 and washed[0] < washed[1] < washed[2]


def test_a_cause_that_a_check_excluded_is_named_as_spoken_against():
    faded = case_of("patch_fade", "same_spot_every_time", facts=["follows_platen"])
    faded["checks_done"] = [
        {"check": "pull_strips", "result": "excludes", "cause": "pressure_uneven"},
        {"check": "survey_temperature", "result": "excludes", "cause": "cold_zone"},
    ]
    told = answer(faded)
    against = {item["code"]: item["because"] for item in told["spoken_against"]}
    assert {"pressure_uneven", "cold_zone"} <= set(against)
    assert any("excludes" in reason for reason in against["cold_zone"])
    assert not set(against) & {c["code"] for c in told["causes"]}


def test_where_everything_is_spoken_against_that_is_said():
    mirrored = case_of("reversed_image", "all", not_facts=["not_mirrored"])
    mirrored["checks_done"] = [
        {"check": "inspect_print", "result": "excludes", "cause": "not_mirrored"}
    ]
    told = answer(mirrored)
    assert told["causes"] == []
    assert [item["code"] for item in told["spoken_against"]] == ["not_mirrored"]
    assert "speaks against every cause" in told["notes"][-1]


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


def test_equal_dose_of_the_handbook():
    assert equal_dose_time_s(200, 45, 185) == pytest.approx(122.1628, abs=1e-3)


def test_contradictory_facts_are_set_aside_and_said():
    found = answer(
        case_of("ghosting", "all", facts=["transfer_fixed"], not_facts=["transfer_fixed"])
    )
    assert any("both ways" in note for note in found["notes"])
    assert found["causes"] == answer(case_of("ghosting", "all"))["causes"]


def test_what_no_cause_explains_is_said():
    document = case_of("unmelted_powder", "all")
    found = answer(document)
    assert found["causes"] == []
    assert "No cause" in found["notes"][0]


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


def test_growth_is_computed_for_the_library_s_materials():
    """1500 mm of aluminium from 22 to 195 °C: 3.00 mm per side (handbook 3, "Size")."""
    for material in ("aluminium", "aluminium_panel"):
        case = Case(
            method="dye_sublimation",
            observations=(),
            blank=Blank(kind="panel", material=material, width_mm=1500.0, height_mm=500.0),
            actual=Actual(measured_c=195.0),
            ambient_c=22.0,
        )
        assert growth_per_side_mm(case) == pytest.approx((3.00, 1.00), abs=0.005)
    known = {k.material for k in blank_types().values()}
    solid = {m for m in known if materials()[m].group in ("rigid", "plastic")}
    assert {m for m in solid if expansion_per_k(m) is None} <= {"plywood", "pla"}


def test_the_longer_way_is_the_recipe_s_own_school_where_it_has_one():
    window = Window((198.0, 204.0), (60.0, 120.0), "medium")
    case = Case(method="dye_sublimation", observations=(), recipe=window)
    cause = next(c for c in shipped().causes.values() if "long_and_lower" in c.settings)
    _, by_clock, _ = remedy(cause, case)
    school = replace(window, lower_temperature_c=(175.0, 185.0), lower_time_s=(117.0, 313.0))
    text, settings, _ = remedy(cause, replace(case, recipe=school))
    assert (settings["target_c"], settings["time_s"]) == (180.0, 215)
    assert by_clock["time_s"] != settings["time_s"]
    assert "comes out the same" in text


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
    pressure=st.sampled_from(codes.PRESSURE_CLASSES),
    peel=st.sampled_from(codes.PEELS),
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
        press=Press(thickness_when_set_mm=was_mm),
        blank=Blank(thickness_mm=2.0),
        recipe=Window((195.0, 205.0), (45.0, 60.0), "medium", "warm"),
        actual=Actual(set_c, measured_c, 0.5, time_s, closures, pressure, peel),
        worked_before=WorkedBefore(temperature_c=worked_c),
        map_at_print=MapAtPrint(at_mark_c=at_mark_c, at_mark_uncertainty_c=0.5),
    )
    for low, high in MIRRORED:
        told = [MEASURES[name](case, shipped().curves) for name in (low, high)]
        weights = [e.log_odds for e in told if e is not None]
        assert min(weights, default=0.0) <= 0.0 or len(weights) < 2, (low, weights)


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


@pytest.mark.parametrize(
    ("facts", "features", "normal"),
    [
        ({"facts": ["thick_film", "bond_is_sound"]}, ["texture"], True),
        ({"not_facts": ["thick_film"]}, [], False),
        ({}, ["texture"], False),
        ({}, [], True),
    ],
)
def test_only_a_thick_film_floats(facts, features, normal):
    """A thin film that bridges the hollows of a rough cloth was pressed too lightly."""
    film = {"observations": [{"symptom": "no_texture", "where": "all", "when": "on_peel"}]}
    blank = {"blank": {"kind": "garment", "features": features}}
    told = answer(
        case_of("peeling", "all") | {"method": "heat_transfer_film"} | film | blank | facts
    )
    assert told["normal_appearance"] is normal
    assert (told["causes"][0]["code"] == "normal_appearance") is normal
    if not normal:
        assert told["causes"][0]["code"] in ("pressure_low", "pressure_not_reset")
