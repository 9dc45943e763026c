"""A search from plan to the recipe's setting, a wash trial, the logbook, in the browser."""

import time

import pytest

from tempermark.web.accounts.models import User
from tempermark.web.experiments.models import WashScore, WashTrial
from tempermark.web.presses.models import Element
from tempermark.web.run.models import PressSetting, TestPress
from tempermark.web.run.pieces import actions as runs
from tests.support import bench, room


@pytest.fixture
def maren(isla):
    """A lead in a room with a surveyed press and vests."""
    lead = room.person("maren", "lead")
    element = Element.objects.get()
    room.survey(User.objects.get(username="isla"), element)
    bench.job(lead, element)
    isla.sign_in("maren")
    return isla


def headline(person, words):
    person.headlined(words)


def step(person, code, value):
    """Choose a step of a scale by its swatch."""
    path = f"details[open] input[name=score_{code}][value='{value}']"
    person.wait(lambda: person.find(path))
    person.driver.execute_script("arguments[0].click()", person.find(path))


def score(person, black, marks):
    step(person, "black", black)
    step(person, "marks", marks)
    person.press("Save the scores", inside="//main//details[@open]")


def test_a_ladder_from_plan_to_the_recipe_s_setting(maren):
    maren.go(f"/recipes/{bench.VEST}/")
    maren.follow("Find its setting")
    maren.follow("Ladder of dwells")
    maren.fill("low", "30")
    maren.fill("high", "90")
    maren.fill("rungs", "3")
    maren.fill("question", "How long on the new paper?")
    maren.press("Plan it")
    headline(maren, "by the physics alone")
    for black, marks in ((3, 5), (5, 5), (5, 4)):
        maren.press("It is pressed as planned")
        score(maren, black, marks)
    headline(maren, "after three presses")
    assert "on Heron" in maren.headline()
    assert len(maren.find_all(".ladder-chart svg")) == 3
    maren.press("the setting on Heron")
    maren.sees("Chosen for Heron")
    setting = PressSetting.objects.get()
    assert setting.presses == 3
    assert 30 <= setting.dwell_s <= 120
    assert TestPress.objects.count() == 3
    # The recipe's page and the next run say the same.
    maren.go(f"/recipes/{bench.VEST}/")
    maren.sees("chosen by 3 test presses")
    maren.follow("Start a run")
    maren.press("Start the run")
    maren.sees(f"{setting.dwell_s:.0f} s")


def test_a_search_is_pressed_in_run_mode_and_comes_back_to_its_sheet(maren):
    maren.go(f"/recipes/{bench.VEST}/experiments/search/")
    maren.press("Plan it")
    maren.press("Propose the next press")
    maren.press("in run mode")
    maren.wait(lambda: "Set Heron to" in maren.headline())
    maren.press("Already set and steady", inside="//section[@data-run]")
    for words in ("Closed", "Opened", None, "Done", "Closed", "Opened", None):
        if words is None:
            maren.has_it_long_enough()
        else:
            maren.press(words, inside="//section[@data-run]")
        time.sleep(0.4)
    maren.wait(lambda: TestPress.objects.filter(step_number=None).exists())
    sheet = TestPress.objects.filter(step_number=None).get().run.planned_press.experiment
    maren.go(sheet.get_absolute_url())
    maren.sees("to be scored")
    score(maren, 4, 5)
    headline(maren, "after one press")


def test_a_wash_trial_from_labels_to_its_answer(maren):
    lead, element = User.objects.get(username="maren"), Element.objects.get()
    pieces = []
    for _ in range(2):
        press = room.piece(lead, element)
        runs.score(lead, press, runs.Scored("good", scores={"black": 5}))
        pieces.append(press.piece.code)
    maren.go("/wash-trials/")
    maren.follow("Start a wash trial")
    maren.fill("title", "Paper A or B")
    maren.fill("arms", f"paper A: {pieces[0]}\npaper B: {pieces[1]}")
    maren.fill("rounds", "1, 5, 10")
    maren.fill("rest_h", "0")
    maren.press("Start the trial")
    headline(maren, "no round was scored yet")
    keys = [one.pk for one in WashTrial.objects.get().washed.all()]
    for washes, densities in ((1, (94, 85)), (5, (92, 70)), (10, (90, 60))):
        maren.sees(f"After wash {washes}")
        for key, density in zip(keys, densities, strict=True):
            maren.fill(f"piece_{key}_density", str(density))
        maren.press(f"Save wash {washes}")
    headline(maren, "paper A fades less than paper B")
    maren.sees("Every round is scored")
    assert WashScore.objects.count() == 6
    maren.press("End this trial")
    maren.sees("Take it up again")


def test_the_logbook_narrows_as_one_chooses_and_compares_what_is_ticked(maren):
    lead, element = User.objects.get(username="maren"), Element.objects.get()
    good = room.piece(lead, element, days_ago=2)
    runs.score(lead, good, runs.Scored("good"))
    hot = room.piece(lead, element, set_c=215.0)
    runs.score(lead, hot, runs.Scored("faulty", "spoiled"))
    maren.go("/logbook/")
    maren.sees("2 presses")
    maren.choose("outcome", "spoiled")
    maren.sees("1 press found")
    assert good.piece.code not in maren.text()
    maren.choose("outcome", "any")
    maren.sees(good.piece.code)
    for box in maren.wait(lambda: maren.find_all("#rows input[name=press]")):
        box.click()
    maren.press("Compare those ticked")
    headline(maren, "Only the dial differs")
    maren.follow(hot.piece.code)
    maren.sees("What its setting rests on")
    maren.sees("by 1 survey")
