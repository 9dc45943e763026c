"""Lists go on behind their first page, by key, to the last row."""

import re
from datetime import timedelta
from pathlib import Path
from uuid import uuid4

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from tempermark.web.experiments.models import Experiment, WashTrial
from tempermark.web.jobs.models import Order
from tempermark.web.kit.paging import Cursor
from tempermark.web.kit.records.audit import AuditEntry
from tempermark.web.kit.records.backups import Backup
from tempermark.web.measure.models import Survey
from tempermark.web.planning.models import Plan, StockEntry
from tempermark.web.run.models import TestPress
from tempermark.web.trace.models import FaultCase
from tests.support import room

pytestmark = pytest.mark.django_db
WEB = Path(__file__).parents[3] / "src" / "tempermark" / "web"
# What is listed, and the time by which each list pages.
LISTED = {
    AuditEntry: "at",
    Backup: "at",
    Experiment: "ended_at",
    FaultCase: "closed_at",
    Order: "closed_at",
    Plan: "created_at",
    StockEntry: "at",
    Survey: "taken_at",
    TestPress: "pressed_at",
    WashTrial: "ended_at",
}


def walked(browse, address, cell):
    """What a list names on all of its pages, and how many pages there are."""
    seen, pages = [], 0
    while address:
        page = room.soup(browse.get(address))
        pages += 1
        seen += [found.get_text(strip=True) for found in page.select(cell)]
        older = page.select_one("a[rel=next]")
        address = address.partition("?")[0] + older["href"] if older else ""
    return seen, pages


def test_every_survey_is_listed_once(browse, technician, element):
    first = room.survey(technician, element)
    shared = {
        f.attname: getattr(first, f.attname)
        for f in Survey._meta.concrete_fields
        if f.name not in ("id", "entry_key", "taken_at")
    }
    # Several of one moment: the key tells them apart.
    days = [n // 3 for n in range(129)]
    Survey.objects.bulk_create(
        Survey(**shared, taken_at=first.taken_at - timedelta(days=d)) for d in days
    )
    room.survey(technician, element, finish=False)
    links, pages = walked(browse, "/surveys/", "table td:nth-of-type(7)")
    assert (len(links), pages) == (131, 3)
    assert links.count("under way") == 1


def test_closed_orders_go_on_and_the_last_page_costs_what_the_first_does(browse, technician):
    now = timezone.now()
    Order.objects.bulk_create(
        Order(
            reference=f"R-{n}",
            entry_key=uuid4(),
            customer="harbour",
            due_at=now,
            closed_at=now - timedelta(minutes=n),
            created_by=technician,
        )
        for n in range(50)
    )
    seen, pages = walked(browse, "/orders/", "main li a")
    assert (seen, pages) == ([f"R-{n}" for n in range(50)], 3)
    with CaptureQueriesContext(connection) as first:
        browse.get("/orders/")
    last = Order.objects.get(reference="R-39")
    with CaptureQueriesContext(connection) as deep:
        browse.get("/orders/", {"after": Cursor.of(last.closed_at, last.pk)})
    assert len(deep) <= len(first)


@pytest.mark.parametrize("after", ["", "x", "1.", ".1", "9" * 40 + ".1", "-1.1", "1.5.2", "٣.١"])
def test_what_is_no_cursor_shows_the_first_page(browse, technician, element, after):
    room.survey(technician, element)
    page = browse.get("/surveys/", {"after": after})
    assert page.status_code == 200
    assert "Heron" in room.words(page)


@pytest.mark.parametrize("model", LISTED)
def test_an_index_has_a_list_as_it_pages(model):
    by = [f"-{LISTED[model]}", "-id"]
    assert by in [index.fields for index in model._meta.indexes if not index.condition]


def test_these_are_all_lists_that_page():
    text = "".join(path.read_text() for path in WEB.rglob("*views.py"))
    named = re.findall(r"page_of\([^\n]*?request\.GET, \"(\w+)\"", text)
    # The logbook pages by a function of its own; the audit has two lists, all and of one row.
    assert sorted([*named, "pressed_at"]) == sorted([*LISTED.values(), "at"])
