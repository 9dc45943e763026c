"""Ladder sheets: planned, pressed, scored, answered, made the setting."""

from uuid import uuid4

import pytest

from tempermark.web.bench.plan import strip_steps
from tempermark.web.bench.queries import last_on
from tempermark.web.experiments.ladders import actions
from tempermark.web.experiments.ladders.engine import engine_of
from tempermark.web.experiments.models import Experiment, PlannedPress
from tempermark.web.kit.units import METRIC
from tempermark.web.logbook.filters import LogbookForm
from tempermark.web.logbook.yields import yields_of
from tempermark.web.run.models import PressSetting, TestPress
from tempermark.web.run.scoring.swatches import DRAWN, WORDS, scale
from tests.support import bench, room
from tests.support.forms import fields_of

pytestmark = pytest.mark.django_db


@pytest.fixture
def surveyed(technician, element):
    """A press that reads 5 K high, and vests to press."""
    room.survey(technician, element)
    bench.job(technician, element)
    return element


def plan(browser, kind, press="heron", **changes):
    path = f"/recipes/{bench.VEST}/experiments/{kind}/?press={press}"
    form = room.soup(browser.get(path)).select_one("main form[method=post]")
    answer = browser.post(path, fields_of(form) | {"press": press} | changes)
    found = Experiment.objects.first() if answer.status_code == 302 else None
    return answer, found


def settings(experiment):
    return [
        (p.order, p.set_c, p.dwell_s, p.pressure, p.arm) for p in experiment.planned_presses.all()
    ]


def press_and_score(browser, planned, black, marks):
    browser.post(f"/planned-presses/{planned.pk}/pressed/", {"once": str(uuid4())})
    browser.post(
        f"/planned-presses/{planned.pk}/score/",
        {"score_black": str(black), "score_marks": str(marks), "once": str(uuid4())},
    )


def test_a_ladder_of_dwells_is_planned_pressed_and_scored(browse, surveyed):
    _, ladder = plan(
        browse, "time", set_c="205", low="20", high="60", rungs="5", direction="up", repeats="1"
    )
    assert [row[2] for row in settings(ladder)] == [20, 30, 40, 50, 60]
    assert "Press 1 in run mode" in room.words(browse.get(ladder.get_absolute_url()))
    first = ladder.planned_presses.first()
    press_and_score(browse, first, 3, 5)
    piece = TestPress.objects.get()
    assert (piece.set_c, piece.dwell_s, piece.outcome) == (205.0, 20.0, "faulty")
    assert piece.scores == {"black": 3, "marks": 5}
    text = room.words(browse.get(ladder.get_absolute_url()))
    assert "1 blank spent" in text
    assert "likely good after one press" in text.replace("\u00a0", " ")


def test_dwells_on_one_scrap_are_one_piece_and_one_blank(browse, surveyed):
    _, ladder = plan(
        browse,
        "time",
        set_c="205",
        low="20",
        high="60",
        rungs="3",
        direction="up",
        repeats="1",
        one_scrap="on",
    )
    for planned in ladder.planned_presses.all():
        browse.post(f"/planned-presses/{planned.pk}/pressed/", {"once": str(uuid4())})
    pieces = TestPress.objects.order_by("dwell_s")
    assert len({p.piece_id for p in pieces}) == 1
    assert [p.closures for p in pieces] == [1, 2, 3]
    assert "1 blank spent" in room.words(browse.get(ladder.get_absolute_url()))


@pytest.mark.parametrize(
    ("kind", "changes", "says"),
    [
        ("time", {"rungs": "1", "low": "20", "high": "60"}, "two rungs at least"),
        ("time", {"low": "60", "high": "20"}, "above the first"),
        ("temperature", {"low": "hot"}, "is not a number"),
        ("comparison", {"arms": "paper A"}, "one level"),
        ("comparison", {"arms": "paper A\npaper A"}, "same level twice"),
        ("pressure", {"pressures": ["light"]}, "one level"),
        ("factorial", {"dials": "1"}, "one level"),
        ("search", {"low": "200", "high": "190"}, "above its beginning"),
    ],
)
def test_a_plan_that_teaches_nothing_is_refused_and_keeps_what_was_typed(
    browse, surveyed, kind, changes, says
):
    answer, found = plan(browse, kind, **changes)
    assert answer.status_code == 422
    assert found is None
    text = room.words(answer)
    assert says in text
    assert "nothing was lost" in text


def test_a_comparison_is_pressed_in_blocks_and_says_which_is_better(browse, surveyed):
    _, found = plan(browse, "comparison", factor="paper", arms="paper A\npaper B", repeats="3")
    assert [p.block for p in found.planned_presses.all()] == [1, 1, 2, 2, 3, 3]
    assert "Score two arms" in room.words(browse.get(found.get_absolute_url()))
    for planned in found.planned_presses.all():
        good = planned.arm == "paper A"
        press_and_score(browse, planned, 5 if good else 3, 5)
    text = room.words(browse.get(found.get_absolute_url())).replace("\u00a0", " ")
    assert "paper A scores 1.0 step better than paper B (paper)" in text


def test_three_presses_with_one_blank_each_get_their_own_dial(browse, technician, surveyed):
    other = room.element("Grebe")
    room.survey(technician, other, truth=lambda x, y: 195.0)
    _, found = plan(browse, "comparison", others=[str(other.pk)], repeats="1")
    rows = {p.arm: p for p in found.planned_presses.all()}
    assert set(rows) == {"Heron", "Grebe"}
    assert rows["Grebe"].element == other
    # Grebe gives 5 K more of the same dial, whatever dial was typed for Heron.
    assert rows["Heron"].set_c - rows["Grebe"].set_c == pytest.approx(5, abs=1.5)
    assert found.factor == "press"
    _, colder = plan(browse, "comparison", others=[str(other.pk)], repeats="1", set_c="180")
    rows = {p.arm: p.set_c for p in colder.planned_presses.all()}
    assert rows["Heron"] == 180
    assert rows["Heron"] - rows["Grebe"] == pytest.approx(5, abs=1.5)


def test_a_factorial_has_every_combination(browse, surveyed):
    _, found = plan(
        browse,
        "factorial",
        low="195",
        high="205",
        dials="2",
        low_s="40",
        high_s="60",
        dwells="3",
        pressures=["medium"],
        repeats="1",
    )
    cells = {(p.set_c, p.dwell_s) for p in found.planned_presses.all()}
    assert len(cells) == 6


def test_a_factorial_over_pressures_is_answered_at_one_of_them(browse, surveyed):
    fields = {"low": "195", "high": "205", "dials": "2", "low_s": "40", "high_s": "60"}
    _, found = plan(browse, "factorial", **fields, pressures=["firm", "medium"])
    assert found.pressure == "medium"
    for planned in found.planned_presses.all():
        press_and_score(browse, planned, 4, 5)
    assert len(engine_of(found).tested) == 4
    assert "Read at medium pressure alone" in room.words(browse.get(found.get_absolute_url()))


def test_what_an_experiment_pressed_counts_for_no_yield_and_is_not_run_again(browse, surveyed):
    _, ladder = plan(
        browse, "time", set_c="205", low="20", high="60", rungs="3", direction="up", repeats="1"
    )
    logged, in_run, _ = ladder.planned_presses.all()
    press_and_score(browse, logged, 2, 5)
    browse.post(f"/planned-presses/{in_run.pk}/run/", {"once": str(uuid4())})
    in_run.refresh_from_db()
    bench.send(browse, in_run.run, bench.pressed(in_run.run))
    browse.post(f"/planned-presses/{in_run.pk}/score/", {"score_black": "5", "score_marks": "5"})
    assert TestPress.objects.exclude(outcome="open").count() == 2
    assert yields_of(LogbookForm({})).judged == 0
    assert last_on(surveyed.press) == []


def test_a_press_that_was_withdrawn_is_made_again(browse, technician, surveyed):
    _, ladder = plan(
        browse, "time", set_c="205", low="20", high="60", rungs="3", direction="up", repeats="1"
    )
    first = ladder.planned_presses.first()
    press_and_score(browse, first, 3, 5)
    TestPress.objects.get().withdraw(technician, "the wrong paper")
    assert engine_of(ladder).tested == ()
    press_and_score(browse, first, 4, 5)
    (tested,) = engine_of(ladder).tested
    assert tested.density_score == 4


def test_a_chosen_setting_is_pressed_with_its_pressure_until_it_is_withdrawn(
    browse, browse_as, lead, technician, surveyed
):
    _, search = plan(browse, "search", pressure="firm")
    values = {"true_c": 196.0, "dwell_s": 48.0, "pressure": "firm", "chance": 0.99, "presses": 2}
    actions.choose_setting(lead, search, values, uuid4())
    run = bench.run(technician, surveyed)

    def main():
        return next(step for step in strip_steps(run, METRIC) if step.is_main)

    assert (main().pressure, main().dwell_s) == ("firm", 48.0)
    bench.send(browse, run, bench.pressed(run))
    assert TestPress.objects.get().pressure == "firm"
    address = f"/experiments/{search.pk}/withdraw-setting/"
    assert browse.post(address, {"why": "another paper"}).status_code == 403
    leads = browse_as(lead)
    assert "Give a reason" in room.words(leads.post(address, {"why": ""}, follow=True))
    leads.post(address, {"why": "another paper"})
    assert PressSetting.every.get().withdrawn_why == "another paper"
    assert main().pressure == "medium"
    assert "was withdrawn before" in room.words(leads.post(address, {"why": "x"}, follow=True))


def test_a_search_proposes_one_press_at_a_time_until_it_is_sure(
    browse_as, lead, technician, element
):
    room.survey(technician, element)
    bench.job(technician, element)
    browse = browse_as(lead)
    _, search = plan(browse, "search")
    assert not search.planned_presses.exists()
    for _ in range(4):
        browse.post(f"/experiments/{search.pk}/propose/", {"once": str(uuid4())})
        browse.post(f"/experiments/{search.pk}/propose/", {"once": str(uuid4())})
        waiting = search.planned_presses.last()
        press_and_score(browse, waiting, 5, 5)
        if "Another blank is not worth it" in room.words(browse.get(search.get_absolute_url())):
            break
    count = search.planned_presses.count()
    assert count <= 3
    assert TestPress.objects.filter(outcome="good").count() == count
    browse.post(f"/experiments/{search.pk}/choose/", {"once": str(uuid4())})
    setting = PressSetting.objects.get()
    engine = engine_of(search)
    best = engine.answer.result.best
    assert setting.true_c == pytest.approx(engine.true_c(best.set_c))
    assert setting.presses == count
    # Run mode now uses it.
    run = bench.run(lead, element)
    main = next(step for step in strip_steps(run, METRIC) if step.is_main)
    assert main.dwell_s == setting.dwell_s
    assert main.set_c == pytest.approx(best.set_c, abs=1.0)


def test_only_a_lead_chooses_a_setting_and_never_without_a_score(browse, browse_as, lead, surveyed):
    _, search = plan(browse, "search")
    address = f"/experiments/{search.pk}/choose/"
    browse_as(lead).post(address, {"once": str(uuid4())})
    assert not PressSetting.objects.exists()
    browse.post(f"/experiments/{search.pk}/propose/", {"once": str(uuid4())})
    press_and_score(browse, search.planned_presses.get(), 5, 5)
    assert browse.post(address, {"once": str(uuid4())}).status_code == 403
    assert not PressSetting.objects.exists()


def test_a_planned_press_is_made_in_run_mode_with_its_own_setting(browse, surveyed):
    _, ladder = plan(
        browse, "time", set_c="205", low="20", high="60", rungs="3", direction="up", repeats="1"
    )
    planned = ladder.planned_presses.all()[1]
    answer = browse.post(f"/planned-presses/{planned.pk}/run/", {"once": str(uuid4())})
    planned.refresh_from_db()
    assert answer.url == f"/runs/{planned.run_id}/"
    main = next(step for step in strip_steps(planned.run, METRIC) if step.is_main)
    assert (main.set_c, main.dwell_s) == (205.0, 40.0)
    bench.send(browse, planned.run, bench.pressed(planned.run, spans=[(0, 40)]))
    found = PlannedPress.objects.get(pk=planned.pk).pressed
    assert found.dwell_s == 40.0
    assert found.piece.code in room.words(browse.get(ladder.get_absolute_url()))


def test_scores_of_a_press_that_was_not_made_or_none_at_all_are_refused(browse, surveyed):
    _, ladder = plan(
        browse, "time", set_c="205", low="20", high="60", rungs="3", direction="up", repeats="1"
    )
    planned = ladder.planned_presses.first()
    answer = browse.post(f"/planned-presses/{planned.pk}/score/", {"score_black": "5"}, follow=True)
    assert "was not made yet" in room.words(answer)
    browse.post(f"/planned-presses/{planned.pk}/pressed/", {"once": str(uuid4())})
    for junk in ({}, {"score_black": "9"}, {"score_black": "x"}):
        answer = browse.post(f"/planned-presses/{planned.pk}/score/", junk, follow=True)
        assert "Choose a step" in room.words(answer)
    assert TestPress.objects.get().scores == {}


def test_a_press_is_left_out_and_taken_up_again_but_not_once_it_is_made(browse, surveyed):
    _, ladder = plan(
        browse, "time", set_c="205", low="20", high="60", rungs="3", direction="up", repeats="1"
    )
    planned = ladder.planned_presses.first()
    browse.post(f"/planned-presses/{planned.pk}/skip/", {"skipped": "1"})
    assert "left out" in room.words(browse.get(ladder.get_absolute_url()))
    answer = browse.post(
        f"/planned-presses/{planned.pk}/pressed/", {"once": str(uuid4())}, follow=True
    )
    assert "was left out" in room.words(answer)
    browse.post(f"/planned-presses/{planned.pk}/skip/", {"skipped": "0"})
    browse.post(f"/planned-presses/{planned.pk}/pressed/", {"once": str(uuid4())})
    answer = browse.post(f"/planned-presses/{planned.pk}/skip/", {"skipped": "1"}, follow=True)
    assert "was made already" in room.words(answer)


def test_an_ended_experiment_takes_no_more_until_it_is_taken_up_again(browse, surveyed):
    _, search = plan(browse, "search")
    browse.post(f"/experiments/{search.pk}/end/", {"ended": "1"})
    browse.post(f"/experiments/{search.pk}/propose/", {"once": str(uuid4())})
    assert not search.planned_presses.exists()
    browse.post(f"/experiments/{search.pk}/end/", {"ended": "0"})
    browse.post(f"/experiments/{search.pk}/propose/", {"once": str(uuid4())})
    assert search.planned_presses.exists()


def test_a_scored_press_moves_the_engine_in_true_degrees(browse, surveyed):
    _, ladder = plan(
        browse, "time", set_c="205", low="20", high="60", rungs="3", direction="up", repeats="1"
    )
    press_and_score(browse, ladder.planned_presses.first(), 3, 5)
    (tested,) = engine_of(ladder).tested
    assert tested.set_c == pytest.approx(200, abs=1.5)
    assert (tested.density_score, tested.overdone_score) == (3, 5)
    assert engine_of(ladder).display_sd_k < 3


def test_the_leaflet_box_overlaps_and_says_what_to_set(browse, surveyed):
    query = {
        "low_c": "190",
        "high_c": "205",
        "low_s": "40",
        "high_s": "60",
        "method": "dye_sublimation",
    }
    text = room.words(browse.get("/leaflet/", query)).replace("\u00a0", " ")
    assert "true," in text
    assert "Dye on a polyester vest" in text
    assert "195 °C to 205 °C, 45 to 60 s" in text
    assert "Heron" in text
    bad = browse.get("/leaflet/", query | {"high_c": "150"})
    assert bad.status_code == 422
    assert "ends below where it begins" in room.words(bad)


@pytest.mark.parametrize("code", DRAWN)
def test_every_scale_has_five_steps_that_look_different(code):
    steps = scale(code)
    assert len(steps) == len(WORDS[code]) == 5
    assert len({repr(step.shapes) for step in steps}) == 5
    assert len({step.label for step in steps}) == 5


def test_the_same_plan_sent_twice_is_one(technician, surveyed):
    job = bench.job(technician, surveyed)
    fields = {
        "kind": "search",
        "recipe": job.recipe,
        "blank": job.blank,
        "element": surveyed,
        "low_c": 180.0,
        "high_c": 210.0,
        "low_s": 20.0,
        "high_s": 90.0,
    }
    key = uuid4()
    assert actions.plan(technician, fields, [], key) == actions.plan(technician, fields, [], key)
    assert Experiment.objects.count() == 1
