"""What fits where in the shop: controllers' ranges, the pressure that air reaches, elements in
store; and searches that nobody goes on with.
"""

from datetime import timedelta
from uuid import uuid4

import pytest
from django.utils import timezone

from tempermark.web.planning import actions
from tempermark.web.planning.day import presses_given, shop_day
from tempermark.web.planning.models import Plan, PlanState
from tempermark.web.planning.search import search
from tempermark.web.presses.models import Element, Press
from tests.support import bench, room

pytestmark = pytest.mark.django_db


@pytest.fixture
def job(technician, element):
    return bench.job(technician, element, quantity=10)


def test_a_window_outside_every_press_s_range_is_named(technician, element, job):
    element.press.control_high_c = 150.0
    element.press.save()
    day = shop_day(timezone.now())
    assert not day.stages
    assert "is outside every press's range" in day.left_out[0][1]
    other = room.element("Grebe", place=2)
    day = shop_day(timezone.now())
    assert day.stages[0].plan.presses == {other.press.slug}


def test_a_window_is_cut_to_what_the_controllers_can_be_set_to(technician, element, job):
    (stage,) = shop_day(timezone.now()).stages
    middle = (stage.plan.low_c + stage.plan.high_c) / 2
    element.press.control_high_c = middle + 1
    element.press.save()
    (cut,) = shop_day(timezone.now()).stages
    assert (cut.plan.low_c, cut.plan.high_c) == (stage.plan.low_c, middle + 1)


def test_air_that_is_too_weak_for_a_recipe_is_named(technician, element, job):
    weak = {"mechanism": "pneumatic", "max_line_kpa": 100.0, "cylinder_mm": 60.0, "cylinders": 1}
    Press.objects.filter(pk=element.press_id).update(**weak)
    day = shop_day(timezone.now())
    assert "under medium pressure" in day.left_out[0][1]
    Press.objects.filter(pk=element.press_id).update(max_line_kpa=700.0, cylinder_mm=125.0)
    assert shop_day(timezone.now()).stages


def test_an_element_in_store_is_fitted_for_art_that_needs_it(
    browse, technician, element, job, monkeypatch
):
    monkeypatch.setattr("tempermark.web.planning.tasks.search_plan.defer", lambda plan: None)
    wide = bench.job(technician, element, quantity=5, art_width_mm=520.0, art_height_mm=500.0)
    plan = actions.ask_for_plan(technician, "makespan", timezone.now(), uuid4())
    search(plan.pk)
    plan.refresh_from_db()
    assert plan.found["unplaced"] == [[f"{wide.pk}.0", "no press fits: larger than every press"]]
    spare = Element.objects.create(
        press=element.press,
        width_mm=600.0,
        height_mm=600.0,
        taken_out_on=timezone.localdate(),
        label="large",
    )
    plan = actions.ask_for_plan(technician, "makespan", timezone.now(), uuid4())
    search(plan.pk)
    plan.refresh_from_db()
    assert not plan.found["unplaced"]
    (press,) = presses_given(plan.given)
    assert [one.name for one in press.spares] == [str(spare.pk)]
    # It is cold in store, so it comes last: the other element goes in hot.
    assert [run["job"] for run in plan.found["runs"]] == [f"{job.pk}.0", f"{wide.pk}.0"]
    page = browse.get(plan.get_absolute_url())
    titles = " ".join(t.get_text() for t in room.soup(page).select("svg.band path.element title"))
    assert "another element is fitted" in titles


def test_a_search_whose_worker_has_ended_is_begun_anew(browse, technician, job, monkeypatch):
    asked = []

    def defer(plan):
        asked.append(plan)

    monkeypatch.setattr("tempermark.web.planning.tasks.search_plan.defer", defer)
    monkeypatch.setattr("django.db.transaction.on_commit", lambda act: act())
    plan = actions.ask_for_plan(technician, "makespan", timezone.now(), uuid4())
    address = f"{plan.get_absolute_url()}search-again/"
    browse.post(address, {"once": str(uuid4())})
    assert asked == [plan.pk]
    long_ago = timezone.now() - timedelta(minutes=2)
    Plan.objects.update(state=PlanState.SEARCHING, looked_at=long_ago)
    assert "has not answered for a minute" in room.words(browse.get(plan.get_absolute_url()))
    browse.post(address, {"once": str(uuid4())})
    assert asked == [plan.pk, plan.pk]
    plan.refresh_from_db()
    assert plan.state == PlanState.WAITING
    assert "has not answered" not in room.words(browse.get(plan.get_absolute_url()))
