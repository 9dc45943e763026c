"""Run mode in the browser: a whole run with a lost connection, reloads, keys, two tablets."""

import time

import pytest
from django.test import Client
from selenium.webdriver.common.keys import Keys

from tempermark.core.recipes.cycle import steps_afterwards
from tempermark.web.accounts.models import User
from tempermark.web.bench import actions
from tempermark.web.jobs.models import Clock
from tempermark.web.presses.models import Element, Press
from tempermark.web.run.models import LogEntry, Mark, Run, TestPress
from tests.support import bench, room


@pytest.fixture
def run(signed_in):
    """Three vests on a surveyed press, its dwell short enough to wait for."""
    technician, element = User.objects.get(username="isla"), Element.objects.get()
    room.survey(technician, element)
    found = bench.run(technician, element, quantity=3)
    found.settings = {"dwell_s": 2.0, "set_c": 205.0}
    found.save()
    signed_in.go(f"/runs/{found.pk}/")
    # What an earlier test queued is not this room's.
    signed_in.driver.execute_script("localStorage.clear()")
    signed_in.driver.refresh()
    return found


def tap(isla, words):
    isla.wait(lambda: isla.find(".run-buttons button"))
    isla.press(words, inside="//section[@data-run]")


def headline(isla, words):
    isla.headlined(words)


def to_the_press(isla):
    """From the start of a load to the main press."""
    headline(isla, "Pre-press: close")
    tap(isla, "Closed")
    # Two taps closer than a third of a second are a slip.
    time.sleep(0.4)
    tap(isla, "Opened")
    isla.has_it_long_enough()
    headline(isla, "Place and fix")
    tap(isla, "Done")
    headline(isla, "Press: close Heron")


def press_one(isla):
    to_the_press(isla)
    tap(isla, "Closed")
    headline(isla, "Open Heron now")
    tap(isla, "Opened")
    headline(isla, "Peel")
    tap(isla, "Done")
    headline(isla, "come out?")


def all_sent(isla):
    isla.wait(
        lambda: isla.driver.execute_script(
            "return Object.keys(localStorage).filter((k) => k.startsWith('tempermark:run:'))"
            ".every((k) => localStorage.getItem(k) === '[]')"
        )
    )


def test_a_whole_run_with_the_connection_lost_in_the_middle(signed_in, run):
    isla = signed_in
    headline(isla, "Set Heron to 205 °C")
    tap(isla, "Done: it is set")
    headline(isla, "Wait until Heron is steady")
    tap(isla, "Steady at")
    press_one(isla)
    tap(isla, "Good")
    to_the_press(isla)
    tap(isla, "Closed")
    isla.offline()
    headline(isla, "Open Heron now")
    tap(isla, "Opened")
    isla.wait(lambda: "will be sent in order" in isla.text(".run-queue"))
    tap(isla, "Done")
    tap(isla, "Second")
    press_one(isla)
    tap(isla, "Good")
    headline(isla, "All 3 pieces are logged")
    assert TestPress.objects.filter(step_number=None).count() == 1
    isla.online()
    all_sent(isla)
    isla.wait(lambda: not isla.find(".run-queue").is_displayed())
    pieces = TestPress.objects.filter(step_number=None).order_by("piece__number")
    assert [(p.piece.number, p.outcome, p.grade) for p in pieces] == [
        (1, "good", ""),
        (2, "faulty", "second"),
        (3, "good", ""),
    ]
    assert all(1.5 < p.dwell_s < 15 for p in pieces)
    # Pre-presses are logged as themselves; nothing twice, and in the order in which it was done.
    assert TestPress.objects.exclude(step_number=None).count() == 3
    rows = list(LogEntry.objects.filter(run=run, test_press=None).order_by("pk"))
    assert [r.at for r in rows] == sorted(r.at for r in rows)
    tap(isla, "End the run")
    headline(isla, "has ended")
    all_sent(isla)
    assert Run.objects.get().ended_at is not None


def test_a_clock_of_a_run_that_ended_without_a_connection_is_started_with_what_is_left(
    signed_in, run
):
    """A sprayed shirt rests for a day: its run is ended offline, the clock starts once, later."""
    isla, technician = signed_in, User.objects.get(username="isla")
    shirt = bench.run(
        technician, run.element, quantity=1, slug="cotton-shirt-sprayed-coat-then-dye"
    )
    sends = Client()
    sends.force_login(technician)
    pressed = bench.pressed(shirt)
    bench.send(sends, shirt, [*pressed, bench.entry("outcome", pieces=[1], outcome="good")])
    (rest,) = (step for _, step in steps_afterwards(shirt.job.recipe.sheet) if step.time_s)
    isla.go(f"/runs/{shirt.pk}/")
    headline(isla, "All 1 piece")
    isla.offline()
    tap(isla, "End the run")
    headline(isla, "has ended")
    time.sleep(3)
    assert not Clock.objects.exists()
    isla.online()
    isla.wait(Clock.objects.exists)
    store = f"localStorage.getItem('tempermark:run:{shirt.pk}:clocks')"
    isla.wait(lambda: isla.driver.execute_script(f"return {store}") == "[]")
    clock = Clock.objects.get()
    lasts_s = (clock.ends_at - clock.started_at).total_seconds()
    assert lasts_s < sum(rest.time_s) / 2 - 2.5


def test_a_reload_in_the_middle_of_a_dwell_goes_on_counting(signed_in, run):
    isla = signed_in
    tap(isla, "Already set and steady")
    to_the_press(isla)
    tap(isla, "Closed")
    all_sent(isla)
    isla.driver.refresh()
    headline(isla, "Open Heron now")
    tap(isla, "Opened")
    headline(isla, "Peel")
    all_sent(isla)
    assert TestPress.objects.filter(step_number=None).count() == 1


def test_a_reload_without_a_connection_loses_nothing(signed_in, run):
    isla = signed_in
    tap(isla, "Already set and steady")
    # The worker that keeps the page is at work from the second visit on.
    isla.wait(
        lambda: isla.driver.execute_async_script(
            "navigator.serviceWorker.ready.then(() => arguments[0](true))"
        )
    )
    isla.driver.refresh()
    headline(isla, "Pre-press: close")
    isla.driver.refresh()
    headline(isla, "Pre-press: close")
    isla.offline()
    to_the_press(isla)
    isla.driver.refresh()
    headline(isla, "Press: close Heron")
    isla.online()
    all_sent(isla)
    assert TestPress.objects.exclude(step_number=None).count() == 1


def test_keys_judge_mark_note_and_take_back(signed_in, run):
    isla = signed_in
    tap(isla, "Already set and steady")
    press_one(isla)
    isla.type("x")
    headline(isla, "piece 2")
    isla.type("u")
    headline(isla, "How did piece 1 come out?")
    isla.type("f")
    isla.choose_in("[data-symptom]", "Ghost: a second, shifted edge")
    isla.tap("[data-place]", 0.3, 0.3)
    tap(isla, "It is a second")
    headline(isla, "piece 2")
    all_sent(isla)
    piece = TestPress.objects.get(step_number=None)
    assert (piece.outcome, piece.grade) == ("faulty", "second")
    mark = Mark.objects.get()
    assert (mark.symptom, mark.where) == ("ghosting", "corner_back_left")
    taken_back = LogEntry.objects.get(run=run, test_press=None, detail__outcome="open")
    assert taken_back.corrects.detail["outcome"] == "spoiled"
    isla.type("n")
    isla.type("second paper", Keys.ENTER)
    all_sent(isla)
    assert LogEntry.objects.filter(kind="note", detail__text="second paper").exists()


def test_what_was_taken_back_is_not_taken_back_again(signed_in, run):
    isla = signed_in
    tap(isla, "Already set and steady")
    press_one(isla)
    isla.type("g")
    headline(isla, "piece 2")
    isla.type("u")
    headline(isla, "How did piece 1 come out?")
    isla.type("u")
    all_sent(isla)
    assert LogEntry.objects.filter(run=run, detail__outcome="open", test_press=None).count() == 1


def test_a_stale_page_counts_by_the_clock_that_the_server_told_last(signed_in, run):
    isla = signed_in
    ask = "return RunStrip.first.now() - Date.now() / 1000"
    isla.wait(lambda: isla.driver.execute_script("return localStorage.getItem(OFFSET_STORE)"))
    # A page kept an hour ago would say that this clock is an hour ahead.
    isla.driver.execute_script(
        "const root = document.querySelector('[data-run]');"
        "const kept = document.getElementById(root.dataset.run);"
        "const plan = JSON.parse(kept.textContent); plan.now_s -= 3600;"
        "kept.textContent = JSON.stringify(plan); RunStrip.first = new RunStrip(root);"
    )
    assert abs(isla.driver.execute_script(ask)) < 3


def test_signing_out_leaves_no_page_of_a_run_on_the_tablet(signed_in, run):
    isla = signed_in
    isla.wait(
        lambda: isla.driver.execute_async_script(
            "navigator.serviceWorker.ready.then(() => arguments[0](true))"
        )
    )
    isla.driver.refresh()
    kept = (
        "caches.open('tempermark-runs-1').then((c) => c.keys())"
        ".then((all) => arguments[0](all.map((r) => new URL(r.url).pathname)))"
    )
    page = f"/runs/{run.pk}/"
    isla.wait(lambda: page in isla.driver.execute_async_script(kept))
    isla.press("Sign out", inside="//header")
    isla.wait(lambda: page not in isla.driver.execute_async_script(kept))


def test_a_dwell_over_the_timer_s_ceiling_is_closed_again_and_added_up(signed_in, run):
    # Long enough that a slow machine opens before the whole dwell is over.
    Press.objects.update(timer_max_s=5)
    run.settings |= {"dwell_s": 10.0}
    run.save()
    isla = signed_in
    isla.driver.refresh()
    tap(isla, "Already set and steady")
    to_the_press(isla)
    assert "in 2 closings" in isla.headline()
    tap(isla, "Closed")
    headline(isla, "Open Heron now")
    tap(isla, "Opened: close again next")
    headline(isla, "Close Heron again for")
    tap(isla, "Closed")
    headline(isla, "Open Heron now")
    tap(isla, "Opened")
    headline(isla, "Peel")
    all_sent(isla)
    piece = TestPress.objects.get(step_number=None)
    assert piece.closures == 2
    assert piece.open_s > 0


def test_what_another_tablet_logs_is_taken_over(signed_in, run, browse_as):
    isla = signed_in
    tap(isla, "Already set and steady")
    headline(isla, "Pre-press: close")
    all_sent(isla)
    other = browse_as(User.objects.get(username="isla"))
    pre_press = next(
        n for n, step in enumerate(run.job.recipe.sheet.steps) if step.kind == "pre_press"
    )
    rows = bench.pressed(run, step=pre_press, spans=[(0, 4)], ago_s=20)
    bench.send(other, run, rows)
    headline(isla, "Place and fix")


def test_two_presses_run_side_by_side(signed_in, run):
    isla, technician = signed_in, User.objects.get(username="isla")
    second = room.element("Grebe")
    found = bench.run(technician, second)
    isla.go("/runs/together/")
    panels = isla.wait(
        lambda: len(isla.find_all("[data-run]")) == 2 and isla.find_all("[data-run]")
    )
    for panel in panels:
        isla.wait(
            lambda panel=panel: (
                "Set" in panel.find_element("css selector", "[data-part=headline]").text
            )
        )
    isla.driver.execute_script("arguments[0].querySelector('[data-act=ready]').click()", panels[0])
    all_sent(isla)
    newest = LogEntry.objects.order_by("-pk").first()
    assert newest.kind == "ready"
    assert newest.run_id in (run.pk, found.pk)


def test_run_again_is_one_tap(signed_in, run):
    isla = signed_in
    actions.end(User.objects.get(username="isla"), run)
    isla.go("/presses/heron/run/")
    isla.press("Crew vest, Dye on a polyester vest")
    headline(isla, "Set Heron to")
    assert Run.objects.count() == 2


def test_the_strip_fits_a_phone(signed_in, run):
    isla = signed_in
    size = {"width": 390, "height": 844, "deviceScaleFactor": 1, "mobile": True}
    isla.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
    try:
        isla.driver.refresh()
        headline(isla, "Set Heron to")
        wide = "return document.documentElement.scrollWidth - document.documentElement.clientWidth"
        assert isla.driver.execute_script(wide) <= 0
        low = isla.find(".run-buttons .go").rect
        assert low["height"] >= 48
    finally:
        desk = {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False}
        isla.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", desk)
