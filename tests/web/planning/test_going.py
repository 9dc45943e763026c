"""The plan in force as the day goes: moved on by what is logged, planned again in one tap."""

from datetime import timedelta
from uuid import uuid4

import pytest
from django.utils import timezone

from tempermark.web.jobs.models import Job
from tempermark.web.planning import actions
from tempermark.web.planning.day import shop_day
from tempermark.web.planning.models import Plan
from tempermark.web.planning.plans.live import moved_on
from tempermark.web.planning.search import search
from tempermark.web.presses.models import Element
from tempermark.web.run.models import Run, TestPress
from tests.support import bench, room

pytestmark = pytest.mark.django_db


@pytest.fixture
def in_force(technician, element, monkeypatch):
    """Two jobs, planned half an hour ago for two presses, and worked by."""
    monkeypatch.setattr("tempermark.web.planning.tasks.search_plan.defer", lambda plan: None)
    room.element("Grebe", place=2)
    for quantity in (20, 30):
        bench.job(technician, element, quantity=quantity)
    plan = actions.ask_for_plan(
        technician, "makespan", timezone.now() - timedelta(minutes=30), uuid4()
    )
    search(plan.pk)
    plan.refresh_from_db()
    actions.put_in_force(technician, plan)
    plan.refresh_from_db()
    return plan


def pressed(technician, job, minutes_ago, pieces, element=None):
    """So many pieces of a job, pressed a minute apart until so many minutes ago."""
    for number in range(pieces):
        one = room.piece(technician, element or job.press.elements.get(), blank=job.blank)
        at = timezone.now() - timedelta(minutes=minutes_ago + pieces - 1 - number)
        TestPress.objects.filter(pk=one.pk).update(job=job, pressed_at=at)


def test_nothing_was_done_so_all_of_it_moves_on(browse, in_force):
    planned = max(run["end_min"] for run in in_force.found["runs"])
    moved = moved_on(in_force, timezone.now())
    assert not moved.done
    # The presses are as hot as then; everything is half an hour later.
    assert moved.later_min == pytest.approx(30, abs=0.1)
    assert max(run.end_min for run in moved.runs) == pytest.approx(planned + 30, abs=0.1)
    assert "30 min behind the plan" in room.words(browse.get("/plans/"))


def test_pieces_that_are_logged_are_not_planned_again(browse, technician, in_force):
    first = Job.objects.order_by("pk").first()
    pressed(technician, first, 5, first.quantity)
    moved = moved_on(in_force, timezone.now())
    done = next(run for run in moved.runs if run.job in moved.done)
    assert done.job == f"{first.pk}.0"
    assert done.end_min == pytest.approx(25, abs=0.1)
    page = browse.get("/plans/")
    assert room.soup(page).select("svg.band .run.done")
    for job in Job.objects.exclude(pk=first.pk):
        pressed(technician, job, 1, job.quantity)
    assert "All that was planned is done." in room.words(browse.get("/plans/"))


def test_a_job_that_came_later_is_said_and_gets_in_by_one_tap(
    browse, technician, element, in_force
):
    late = bench.job(technician, element, quantity=4)
    text = room.words(browse.get("/plans/"))
    assert "1 job came after this plan" in text
    answer = browse.post("/plans/again/", {"once": str(uuid4())})
    plan = Plan.objects.latest("pk")
    assert answer.url == plan.get_absolute_url()
    assert plan.objective == in_force.objective
    assert f"{late.pk}.0" in {job["name"] for job in plan.given["jobs"]}


def test_a_press_that_is_down_stays_away_until_it_is_up_again(browse, technician, in_force):
    def again(**fields):
        browse.post("/plans/again/", {"once": str(uuid4()), **fields})
        plan = Plan.objects.latest("pk")
        search(plan.pk)
        plan.refresh_from_db()
        actions.put_in_force(technician, plan)
        return {run["press"] for run in plan.found["runs"]}

    assert again() == {"grebe", "heron"}
    assert again(down="grebe") == {"heron"}
    assert again() == {"heron"}
    assert "Grebe is up again" in room.words(browse.get("/plans/"))
    assert again(up="grebe") == {"grebe", "heron"}
    assert again(down="no-such-press") == {"grebe", "heron"}


def test_a_series_that_goes_slowly_takes_as_long_as_its_last_loads(technician, in_force):
    job = Job.objects.order_by("pk").first()
    run = Run.objects.create(
        job=job,
        element=job.press.elements.get(),
        entry_key=uuid4(),
        started_by=technician,
        started_at=timezone.now() - timedelta(hours=1),
    )
    pressed(technician, job, 1, 6)
    TestPress.objects.filter(job=job).update(run=run)
    stage = next(s for s in shop_day(timezone.now()).stages if s.job == job)
    assert stage.plan.dwell_s + stage.plan.handling_s == pytest.approx(60, abs=0.5)
    pieces = TestPress.objects.filter(job=job).order_by("pressed_at")
    for number, piece in enumerate(pieces):
        at = timezone.now() - timedelta(minutes=4 * (6 - number))
        TestPress.objects.filter(pk=piece.pk).update(pressed_at=at)
    stage = next(s for s in shop_day(timezone.now()).stages if s.job == job)
    assert stage.plan.dwell_s + stage.plan.handling_s == pytest.approx(240, abs=0.5)


def test_a_plan_before_it_begins_and_one_of_long_ago_are_shown_as_planned(browse, in_force):
    for moved in (timedelta(hours=1), timedelta(days=-2)):
        Plan.objects.update(begins_at=timezone.now() + moved)
        in_force.refresh_from_db()
        assert moved_on(in_force, timezone.now()) is None
        assert browse.get("/plans/").status_code == 200


def test_the_page_at_a_press_lists_what_the_plan_has_for_it(browse, in_force):
    first = in_force.found["runs"][0]
    bench_page = str(room.soup(browse.get(f"/presses/{first['press']}/run/")))
    assert f"/plans/next/{first['press']}/" in bench_page
    page = browse.get(f"/plans/next/{first['press']}/")
    links = [a["href"] for a in room.soup(page).select("a")]
    job = first["job"].partition(".")[0]
    assert links[0] == f"/jobs/{job}/run/"
    assert browse.get("/plans/next/no-such-press/").content.strip() == b""


def test_a_press_that_is_gone_is_said_and_its_runs_are_not_done(browse, in_force):
    lost = in_force.found["runs"][0]["press"]
    Element.objects.filter(press__slug=lost).update(taken_out_on=timezone.localdate())
    moved = moved_on(in_force, timezone.now())
    assert moved.lost == [lost]
    assert not moved.done
    text = room.words(browse.get("/plans/"))
    assert f"{lost.title()} cannot take what is planned on it any more" in text
    Element.objects.update(taken_out_on=timezone.localdate())
    assert moved_on(in_force, timezone.now()).lost == ["grebe", "heron"]
    assert browse.get("/plans/wall/").status_code == 200


def test_a_wish_later_in_the_day_leaves_down_what_is_down_and_nothing_else(
    browse, technician, in_force
):
    job = in_force.found["runs"][0]["job"]
    browse.post(
        f"{in_force.get_absolute_url()}runs/{job}/", {"place": "heron ", "once": str(uuid4())}
    )
    moved = Plan.objects.latest("pk")
    assert moved.after == in_force
    assert moved.given["away"] == []
    assert {press["name"] for press in moved.given["presses"]} == {"heron", "grebe"}


def test_how_slow_platens_may_be_is_said_of_the_plan_not_of_what_was_done(
    browse, technician, in_force
):
    text = room.words(browse.get("/plans/"))
    said = "If every platen is as slow as it may be"
    first = Job.objects.order_by("pk").first()
    pressed(technician, first, 5, first.quantity)
    assert (said in text) == (said in room.words(browse.get("/plans/")))
