"""Blanks in stock: counted, received, used up by what is pressed; what the jobs take, and what is
short is told before the day.
"""

from datetime import timedelta
from uuid import uuid4

import pytest
from django.utils import timezone

from tempermark.core.planning.spoilage import expected_blanks, needed_blanks
from tempermark.web.planning.day import shop_day
from tempermark.web.planning.models import StockEntry
from tempermark.web.planning.queries import jobs_left
from tempermark.web.planning.stock.queries import blanks_of, shortages, stock
from tempermark.web.run.models import TestPress
from tests.support import bench, room

pytestmark = pytest.mark.django_db


@pytest.fixture
def job(technician, element):
    return bench.job(technician, element, quantity=20)


def entered(browse, job, **fields):
    usual = {"blank": job.blank_id, "kind": "counted", "pieces": 30, "lot": "", "note": ""}
    return browse.post("/stock/", usual | fields | {"once": str(uuid4())})


def pressed(technician, element, job, pieces, **fields):
    for _ in range(pieces):
        room.piece(technician, element, blank=job.blank, recipe=job.recipe, **fields)


def test_what_is_pressed_is_taken_off_and_what_comes_is_added(browse, technician, element, job):
    pressed(technician, element, job, 2, pressed_at=timezone.now() - timedelta(hours=1))
    assert entered(browse, job).status_code == 302
    assert entered(browse, job, kind="received", pieces=5).status_code == 302
    pressed(technician, element, job, 3, pressed_at=timezone.now() + timedelta(seconds=5))
    assert stock()[job.blank_id].pieces == 30 + 5 - 3
    entered(browse, job, pieces=7)
    StockEntry.objects.filter(pieces=7).update(at=timezone.now() + timedelta(minutes=1))
    assert stock()[job.blank_id].pieces == 7


def test_lots_are_counted_apart(browse, technician, element, job):
    entered(browse, job, kind="received", pieces=10, lot="V-1")
    entered(browse, job, kind="received", pieces=20, lot="V-2")
    pressed(
        technician,
        element,
        job,
        4,
        blank_lot="V-1",
        pressed_at=timezone.now() + timedelta(seconds=5),
    )
    found = stock()[job.blank_id]
    assert found.lots == [("V-1", 6), ("V-2", 20)]
    assert found.pieces == 26
    assert "V-1: 6" in room.words(browse.get("/stock/"))


def test_too_few_blanks_are_told_on_every_page_of_the_day(browse, job):
    entered(browse, job, pieces=12)
    needed = needed_blanks(20, 0, 0)
    (short,) = shortages(blanks_of(*jobs_left()), stock())
    assert (short.needed, short.there, short.missing) == (needed, 12, needed - 12)
    for address in ("/stock/", "/plans/"):
        assert f"{needed - 12} too few" in room.words(browse.get(address))
    entered(browse, job, kind="received", pieces=20)
    assert "too few" not in room.words(browse.get("/plans/"))


def test_of_many_jobs_that_blanks_are_short_for_the_first_are_named(
    browse, technician, element, job
):
    jobs = [bench.job(technician, element, quantity=20 + n) for n in range(8)]
    entered(browse, job, pieces=0)
    (short,) = shortages(blanks_of(*jobs_left()), stock())
    assert short.jobs == [job, *jobs]
    page = browse.get("/stock/").content.decode()
    line = page[page.index("too few for") :]
    line = line[: line.index("</li>")]
    assert line.count("<a ") == 5
    assert "and 4 more" in line


def test_a_recipe_that_spoils_many_takes_more_blanks_in_the_plan(technician, element, job):
    (before,) = shop_day(timezone.now()).stages
    assert before.plan.quantity == expected_blanks(20, 0, 0)
    pressed(technician, element, job, 40)
    spoiled = list(TestPress.objects.values_list("pk", flat=True)[:10])
    TestPress.objects.update(outcome="good")
    TestPress.objects.filter(pk__in=spoiled).update(outcome="faulty", grade="spoiled")
    (need,) = blanks_of(*jobs_left())
    assert (need.pressed, need.spoiled) == (40, 10)
    (after,) = shop_day(timezone.now()).stages
    assert after.plan.quantity == expected_blanks(20, 40, 10) > before.plan.quantity


def test_the_same_form_sent_twice_is_one_entry(browse, job):
    fields = {"blank": job.blank_id, "kind": "counted", "pieces": 3, "once": str(uuid4())}
    assert [browse.post("/stock/", fields).status_code for _ in range(2)] == [302, 302]
    assert StockEntry.objects.count() == 1


def test_what_is_no_number_is_refused_and_a_clerk_only_looks(browse, browse_as, clerk, job):
    answer = entered(browse, job, pieces=-3)
    assert answer.status_code == 422
    assert entered(browse_as(clerk), job).status_code == 403
    assert "No blank was counted yet." in room.words(browse_as(clerk).get("/stock/"))
