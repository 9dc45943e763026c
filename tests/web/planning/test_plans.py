"""From orders to a plan in force: what is planned, what is said of it, who may."""

from datetime import timedelta
from uuid import uuid4

import pypdfium2
import pytest
from django.utils import timezone

from tempermark.web.jobs.models import Job, Order
from tempermark.web.planning import actions
from tempermark.web.planning.hours import actions as hours
from tempermark.web.planning.models import Plan, PlanState
from tempermark.web.planning.search import search
from tests.support import bench, room

pytestmark = pytest.mark.django_db


@pytest.fixture
def searched(monkeypatch):
    """Plans are searched when they are asked for, by no worker."""
    monkeypatch.setattr("tempermark.web.planning.tasks.search_plan.defer", lambda plan: None)


@pytest.fixture
def orders(technician, element):
    """Two orders on two presses."""
    room.element("Grebe", place=2)
    made = []
    for number, due_h in ((1, 2), (2, 5)):
        fields = {
            "reference": f"R-{number}",
            "customer": "The rowing club",
            "due_at": timezone.now() + timedelta(hours=due_h),
            "note": "",
        }
        made.append(actions.take_order(technician, fields, uuid4()))
        bench.job(technician, element, quantity=10 * number, order=made[-1])
    return made


def planned(browse, **fields):
    """A plan asked for on its page, and searched."""
    answer = browse.post("/plans/", {"objective": "lateness", "once": str(uuid4()), **fields})
    assert answer.status_code == 302, room.words(answer)
    plan = Plan.objects.latest("pk")
    search(plan.pk)
    plan.refresh_from_db()
    return plan


def test_a_plan_is_asked_for_searched_and_worked_by(browse, orders, searched):
    plan = planned(browse)
    assert plan.state == PlanState.READY
    page = browse.get(plan.get_absolute_url())
    text = room.words(page)
    assert "Done at" in text
    assert "no order does better" in text
    assert {block.text.strip() for block in room.soup(page).select("svg.band .who")} == {
        "Heron",
        "Grebe",
    }
    assert len(room.soup(page).select("svg.band rect.run")) == 2
    assert "was never timed" in text
    browse.post(f"/plans/{plan.pk}/in-force/", {"once": str(uuid4())})
    plan.refresh_from_db()
    assert plan.in_force_since
    where = {run["job"].split(".")[0]: run["press"] for run in plan.found["runs"]}
    for job in Job.objects.all():
        assert job.press.slug == where[str(job.pk)]
    assert "Done at" in room.words(browse.get("/plans/"))


def test_another_plan_in_force_replaces_the_first(browse, orders, searched):
    first, second = planned(browse), planned(browse)
    for plan in (first, second, first):
        browse.post(f"/plans/{plan.pk}/in-force/", {"once": str(uuid4())})
        in_force = Plan.objects.filter(in_force_since__isnull=False, replaced_at=None)
        assert in_force.get() == plan


def test_a_press_that_is_down_gets_nothing(browse, orders, element, searched):
    plan = planned(browse, without=[element.press.pk])
    assert {run["press"] for run in plan.found["runs"]} == {"grebe"}


def test_pieces_that_are_pressed_are_not_planned_again(browse, technician, element, searched):
    run = bench.run(technician, element, quantity=4)
    bench.send(browse, run, bench.pressed(run))
    plan = planned(browse)
    given = plan.given["jobs"][0]
    assert given["quantity"] == 3
    assert given["behind"] == "", "it is under way"


def test_what_cannot_be_planned_is_named(browse, technician, element, orders, searched):
    bench.job(technician, element, art_width_mm=900.0, art_height_mm=900.0)
    plan = planned(browse)
    assert len(plan.found["runs"]) == 2
    assert "larger than every press" in room.words(browse.get(plan.get_absolute_url()))


def test_an_order_that_is_already_late_is_planned_and_said_late(
    browse, technician, element, orders, searched
):
    Order.objects.filter(reference="R-1").update(due_at=timezone.now() - timedelta(hours=1))
    plan = planned(browse)
    assert plan.found["lateness_min"] > 60
    assert "late in all" in room.words(browse.get(plan.get_absolute_url()))


def test_nothing_to_plan_is_said(browse, element, searched):
    answer = browse.post("/plans/", {"objective": "makespan", "once": str(uuid4())})
    assert answer.status_code == 422
    assert "Nothing to plan yet" in room.words(browse.get("/plans/"))


def test_the_same_form_twice_is_one_plan(technician, orders, searched):
    key, now = uuid4(), timezone.now()
    plans = {actions.ask_for_plan(technician, "makespan", now, key).pk for _ in range(3)}
    assert len(plans) == 1


def test_a_plan_that_is_done_is_not_searched_again(browse, orders, searched):
    plan = planned(browse)
    before = plan.found
    Plan.objects.filter(pk=plan.pk).update(given={})
    search(plan.pk)
    plan.refresh_from_db()
    assert plan.found == before


def test_a_clerk_reads_and_does_not_plan(browse_as, clerk, orders, searched):
    reads = browse_as(clerk)
    assert reads.get("/plans/").status_code == 200
    assert reads.post("/plans/", {"objective": "makespan"}).status_code == 403


def test_a_run_of_a_job_begins_with_its_pieces_per_load(browse, technician, element):
    job = bench.job(technician, element, per_load=3)
    page = room.soup(browse.get(f"/jobs/{job.pk}/run/"))
    assert page.select_one("[name=per_load]")["value"] == "3"


def test_an_order_is_taken_with_its_job_changed_and_closed(browse, element):
    vest = bench.job(room.person("noor", "technician"), element)
    answer = browse.post(
        "/orders/new/", {"reference": "R-7", "customer": "Crew 4", "due_at": "2026-12-01T15:00"}
    )
    order = Order.objects.get()
    assert answer["Location"] == f"/orders/{order.pk}/"
    item = {
        "recipe": vest.recipe_id,
        "blank": vest.blank_id,
        "quantity": "12",
        "per_load": "2",
        "art_width_mm": "150",
        "art_height_mm": "200",
    }
    assert browse.post(f"/orders/{order.pk}/", item).status_code == 302
    job = order.jobs.get()
    assert (job.quantity, job.per_load, job.press) == (12, 2, element.press)
    refused = browse.post(f"/orders/{order.pk}/", item | {"quantity": "0"})
    assert refused.status_code == 422
    browse.post(f"/orders/{order.pk}/change/", {"reference": "R-8", "due_at": ""})
    order.refresh_from_db()
    assert (order.reference, order.due_at) == ("R-8", None)
    browse.post(f"/orders/{order.pk}/close/", {"closed": "1"})
    job.refresh_from_db()
    assert job.closed_at
    assert "No order is open" in room.words(browse.get("/orders/"))


def test_two_open_orders_cannot_have_one_reference(browse, orders):
    answer = browse.post("/orders/new/", {"reference": "R-1"})
    assert answer.status_code == 422
    assert "An open order has the reference R-1" in room.words(answer)
    assert Order.objects.count() == 2


def test_orders_are_found_by_reference_and_customer(browse, orders):
    assert "1 open order with" in room.words(browse.get("/orders/?q=r-2"))
    assert "2 open orders with" in room.words(browse.get("/orders/?q=rowing"))


def test_a_run_is_moved_and_the_cost_is_said(browse, technician, orders, searched):
    plan = planned(browse, objective="makespan")
    run = plan.found["runs"][0]
    other = next(r for r in plan.found["runs"] if r["press"] != run["press"])
    page = room.words(browse.get(f"/plans/{plan.pk}/runs/{run['job']}/"))
    assert "Why there" in page
    assert "On Heron" in page or "On Grebe" in page
    place = {"place": f"{other['press']} {other['job']}", "once": str(uuid4())}
    answer = browse.post(f"/plans/{plan.pk}/runs/{run['job']}/", place)
    moved = Plan.objects.latest("pk")
    assert answer["Location"] == moved.get_absolute_url()
    search(moved.pk)
    moved.refresh_from_db()
    order = [r["job"] for r in moved.found["runs"] if r["press"] == other["press"]]
    assert order == [other["job"], run["job"]]
    assert "This move: adds" in room.words(browse.get(moved.get_absolute_url()))


def test_a_move_that_cannot_be_is_refused(browse, orders, searched):
    plan = planned(browse)
    run = plan.found["runs"][0]
    address = f"/plans/{plan.pk}/runs/{run['job']}/"
    for place in ("nowhere ", f"heron {run['job']}", "heron 99.0", ""):
        answer = browse.post(address, {"place": place, "once": str(uuid4())})
        assert answer.status_code == 422
    assert browse.get(f"/plans/{plan.pk}/runs/99.0/").status_code == 404


def test_what_is_under_way_stays_and_is_not_moved(browse, technician, element, orders, searched):
    run = bench.run(technician, element, quantity=9)
    plan = planned(browse)
    stage = f"{run.job_id}.0"
    first = next(r for r in plan.found["runs"] if r["press"] == "heron")
    assert first["job"] == stage
    answer = browse.post(f"/plans/{plan.pk}/runs/{stage}/", {"place": "grebe "})
    assert answer.status_code == 422
    assert "under way" in room.words(answer)


def test_a_new_plan_moves_no_job_that_need_not(browse, orders, searched):
    first = planned(browse, objective="makespan")
    browse.post(f"/plans/{first.pk}/in-force/", {"once": str(uuid4())})
    again = planned(browse, objective="makespan")
    where = [{r["job"]: r["press"] for r in p.found["runs"]} for p in (first, again)]
    assert where[0] == where[1]


@pytest.mark.parametrize("kind", ["csv", "json", "ics"])
def test_a_plan_goes_out_as_a_file(browse, orders, searched, kind):
    plan = planned(browse)
    text = browse.get(f"/plans/{plan.pk}/plan.{kind}").content.decode()
    assert "R-1" in text
    assert "R-2" in text
    assert browse.get(f"/plans/{plan.pk}/plan.xls").status_code == 404


def test_the_wall_says_what_is_on_what_comes_and_who_is_behind(
    browse, technician, element, orders, searched
):
    assert "No plan is in force" in room.words(browse.get("/plans/wall/"))
    plan = planned(browse, objective="makespan")
    browse.post(f"/plans/{plan.pk}/in-force/", {"once": str(uuid4())})
    text = room.words(browse.get("/plans/wall/"))
    assert "0 of 10" in text
    assert "behind" not in text
    Plan.objects.update(begins_at=timezone.now() - timedelta(hours=3))
    late = room.words(browse.get("/plans/wall/"))
    assert "min behind" in late
    assert "Plan again from now" in late


def test_a_shop_may_leave_presses_without_a_survey_out(
    browse, technician, lead, element, orders, searched
):
    room.survey(technician, element)
    hours.change_rules(lead, "bar")
    plan = planned(browse)
    assert {run["press"] for run in plan.found["runs"]} == {"heron"}


def test_an_order_taken_up_again_takes_up_what_was_closed_with_it(browse, technician, orders):
    first = orders[0]
    early = bench.job(technician, first.jobs.get().press.elements.get(), order=first)
    Job.objects.filter(pk=early.pk).update(closed_at=timezone.now() - timedelta(days=1))
    browse.post(f"/orders/{first.pk}/close/", {"closed": "1", "once": str(uuid4())})
    assert not first.jobs.filter(closed_at=None).exists()
    fields = {"reference": "R-1", "customer": "", "due_at": None, "note": ""}
    twin = actions.take_order(technician, fields, uuid4())
    browse.post(f"/orders/{first.pk}/close/", {"closed": "0", "once": str(uuid4())})
    assert "An open order has the reference R-1" in room.words(browse.get(f"/orders/{first.pk}/"))
    Order.objects.filter(pk=twin.pk).update(closed_at=timezone.now())
    browse.post(f"/orders/{first.pk}/close/", {"closed": "0", "once": str(uuid4())})
    early.refresh_from_db()
    assert early.closed_at is not None
    assert first.jobs.filter(closed_at=None).count() == 1


def test_a_wish_that_another_one_follows_lets_that_one_go(browse, technician, element, searched):
    """A behind B, then B moved away: A is planned freely, and no wish is broken in silence."""
    room.element("Grebe", place=2)
    names = [f"{bench.job(technician, element, quantity=n).pk}.0" for n in (9, 7, 5)]
    plan = planned(browse, objective="makespan")
    for stage, press, behind in (
        (names[0], "heron", ""),
        (names[1], "heron", names[0]),
        (names[0], "grebe", ""),
    ):
        place = {"place": f"{press} {behind}", "once": str(uuid4())}
        assert browse.post(f"/plans/{plan.pk}/runs/{stage}/", place).status_code == 302
        plan = Plan.objects.latest("pk")
        search(plan.pk)
        plan.refresh_from_db()
        assert plan.state == PlanState.READY
    runs = {run["job"]: run["press"] for run in plan.found["runs"]}
    assert (runs[names[0]], runs[names[1]]) == ("grebe", "heron")


def test_a_move_of_an_older_plan_leaves_presses_that_are_down_out(
    browse, element, orders, searched
):
    plan = planned(browse, without=[element.press.pk])
    Plan.objects.update(begins_at=timezone.now() - timedelta(hours=1))
    first, second = (run["job"] for run in plan.found["runs"])
    place = {"place": f"grebe {second}", "once": str(uuid4())}
    browse.post(f"/plans/{plan.pk}/runs/{first}/", place)
    moved = Plan.objects.latest("pk")
    assert [press["name"] for press in moved.given["presses"]] == ["grebe"]
    search(moved.pk)
    assert "This move" not in room.words(browse.get(moved.get_absolute_url()))


def test_a_plan_made_again_at_once_speaks_of_no_move(browse, orders, searched):
    first = planned(browse)
    browse.post(f"/plans/{first.pk}/in-force/", {"once": str(uuid4())})
    again = planned(browse)
    Plan.objects.update(begins_at=first.begins_at)
    assert "This move" not in room.words(browse.get(again.get_absolute_url()))


def test_job_sheets_are_a_page_for_each_press(browse, technician, element, orders, searched):
    plan = planned(browse)
    job = Job.objects.order_by("pk").first()
    Job.objects.filter(pk=job.pk).update(blank_lot="V-12", note="folded twice")
    answer = browse.get(f"{plan.get_absolute_url()}plan.pdf")
    assert answer["Content-Disposition"].startswith('attachment; filename="job-sheets-')
    pages = pypdfium2.PdfDocument(answer.content)
    text = " ".join(page.get_textpage().get_text_range() for page in pages)
    presses = {run["press"] for run in plan.found["runs"]}
    assert len(pages) == len(presses)
    for words in ("Heron", "R-1", "V-12", "folded twice", "gloves", "blanks"):
        assert words in text
    Job.objects.update(closed_at=timezone.now())
    assert browse.get(f"{plan.get_absolute_url()}plan.pdf").status_code == 200
