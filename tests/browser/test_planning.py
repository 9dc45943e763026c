"""A day from a table of orders to a plan in force: dragged, and planned again without a press."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains

from tempermark.web.accounts.models import User
from tempermark.web.jobs.models import Order
from tempermark.web.planning.models import Plan
from tempermark.web.planning.search import search
from tempermark.web.presses.models import Element
from tests.browser.labels import covered_labels
from tests.browser.test_access import faults_of
from tests.support import bench, room

pytestmark = pytest.mark.browser
HEAD = "Order No,Client,Due,Process,Item,Qty,Width,Height\n"


@pytest.fixture
def day(signed_in, monkeypatch, tmp_path):
    """Two presses, and a table of orders in a file; plans are searched at once."""
    monkeypatch.setattr("tempermark.web.planning.tasks.search_plan.defer", _search)
    isla = User.objects.get(username="isla")
    element = Element.objects.get()
    room.element("Grebe", place=2)
    job = bench.job(isla, element)
    job.delete()
    recipe, blank = job.recipe.recipe.name, job.blank.name
    rows = [
        f"R-1,Crews,23:59,{recipe},{blank},20,200,240",
        f"R-2,Marshals,23:59,{recipe},{blank},12,200,240",
        f"R-3,Stewards,23:59,{recipe},{blank},8,200,240",
        f"R-4,Umpires,23:59,{recipe},{blank},0,200,240",
    ]
    file = tmp_path / "orders.csv"
    file.write_text(HEAD + "\n".join(rows))
    return file


def _search(plan):
    search(plan)


def block(isla, stage):
    return isla.find(f"svg.band a[data-stage='{stage}'] rect")


def test_orders_imported_planned_dragged_and_planned_again_without_a_press(signed_in, day):
    isla = signed_in
    isla.go("/orders/")
    isla.follow("Orders from a file")
    isla.find("main input[type=file]").send_keys(str(day))
    isla.press("Read it")
    isla.headlined("3 orders in 3 lines can be taken")
    isla.sees("Line 5: quantity is 0")
    isla.press("Take the orders")
    isla.sees("R-3")
    assert Order.objects.count() == 3

    isla.go("/plans/")
    isla.choose("objective", "done early")
    isla.press("Plan the day")
    isla.headlined("Done at")
    plan = Plan.objects.get()
    assert plan.found["is_proved"]
    assert len(isla.find_all("svg.band rect.run")) == 3
    assert not covered_labels(isla.driver)
    isla.press("Work by this plan")
    isla.headlined("Done at")
    run = f"{plan.get_absolute_url()}runs/{plan.found['runs'][0]['job']}/"
    assert not faults_of(isla, ["/plans/", "/plans/wall/", "/orders/", run])
    isla.go("/plans/")

    # Every run of Heron goes behind the first of Grebe.
    where = {run["job"]: run["press"] for run in plan.found["runs"]}
    target = next(job for job, press in where.items() if press == "grebe")
    moved = next(job for job, press in where.items() if press == "heron")
    drag = ActionChains(isla.driver).click_and_hold(block(isla, moved))
    drag.move_to_element(block(isla, target)).move_by_offset(60, 0).release().perform()
    isla.wait(lambda: Plan.objects.count() == 2)
    isla.sees("This move:")
    second = Plan.objects.latest("pk")
    order = [run["job"] for run in second.found["runs"] if run["press"] == "grebe"]
    assert order.index(moved) == order.index(target) + 1

    isla.go("/plans/")
    isla.find_all("main input[name=without]")[0].click()
    isla.press("Plan the day")
    isla.wait(lambda: Plan.objects.count() == 3)
    isla.headlined("Done at")
    third = Plan.objects.latest("pk")
    assert {run["press"] for run in third.found["runs"]} == {"grebe"}
    isla.press("Work by this plan")
    isla.headlined("Done at")
    # Heron stays away until somebody says that it is up.
    isla.go("/plans/")
    isla.press("Plan again from now")
    isla.wait(lambda: Plan.objects.count() == 4)
    isla.headlined("Done at")
    isla.go("/plans/")
    isla.press("Heron is up again: plan with it")
    isla.wait(lambda: Plan.objects.count() == 5)
    isla.headlined("Done at")
    fifth = Plan.objects.latest("pk")
    assert {run["press"] for run in fifth.found["runs"]} == {"grebe", "heron"}
    isla.press("Work by this plan")
    isla.headlined("Done at")
    isla.press("Heron is down: plan without it")
    isla.wait(lambda: Plan.objects.count() == 6)
    isla.headlined("Done at")
    isla.press("Work by this plan")
    isla.headlined("Done at")
    isla.follow("Run")
    isla.sees("Grebe")
