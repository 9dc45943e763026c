"""Lists go on behind their first page, by key, to the last row."""

from datetime import timedelta
from uuid import uuid4

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from tempermark.web.jobs.models import Order
from tempermark.web.kit.paging import Cursor
from tempermark.web.measure.models import Survey
from tests.support import room

pytestmark = pytest.mark.django_db


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
