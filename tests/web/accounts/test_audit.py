"""The audit record: append-only, searched, paged, taken out, and the history of one thing."""

import csv
import io
import json
from datetime import timedelta

import pytest
from django.db import DatabaseError, connection, transaction
from django.utils import timezone

from tempermark.web.accounts.audit import queries
from tempermark.web.accounts.audit.views import PAGE
from tempermark.web.accounts.audit.words import detail_words, subject_words
from tempermark.web.kit.records.audit import AuditEntry, record
from tempermark.web.kit.units import IMPERIAL, METRIC
from tempermark.web.presses.actions import use_setting
from tests.support import room

pytestmark = pytest.mark.django_db


@pytest.fixture
def leads(browse_as, lead):
    return browse_as(lead)


@pytest.mark.parametrize(
    "statement",
    [
        "UPDATE kit_auditentry SET did = 'nothing'",
        "DELETE FROM kit_auditentry",
    ],
)
def test_the_database_refuses_to_change_an_entry(technician, statement):
    record(technician, "set dial", technician, set_c=195.0)
    with (
        pytest.raises(DatabaseError, match="append-only"),
        transaction.atomic(),
        connection.cursor() as cursor,
    ):
        cursor.execute(statement)
    assert AuditEntry.objects.get().did == "set dial"


@pytest.mark.django_db(transaction=True)
def test_the_database_refuses_to_empty_the_record(technician):
    record(technician, "set dial", technician)
    with pytest.raises(DatabaseError, match="append-only"), connection.cursor() as cursor:
        cursor.execute("TRUNCATE kit_auditentry")


def test_an_act_is_found_by_person_by_day_and_by_words(leads, technician, lead, element):
    use_setting(technician, element.press, 195.0)
    record(lead, "retired recipe", technician)
    assert "set dial" in room.words(leads.get("/audit/"))
    by_isla = room.words(leads.get("/audit/", {"who": technician.pk}), "table")
    assert "set dial" in by_isla
    assert "retired recipe" not in by_isla
    assert "Heron" in room.words(leads.get("/audit/", {"q": "HERON dial"}), "table")
    assert "Nothing matches" in room.words(leads.get("/audit/", {"q": "heron nothing-like-it"}))
    yesterday = timezone.localdate() - timedelta(days=1)
    assert "Nothing matches" in room.words(leads.get("/audit/", {"last": str(yesterday)}))
    assert "set dial" in room.words(leads.get("/audit/", {"first": str(yesterday)}))


def test_the_record_is_read_in_the_units_of_the_person():
    detail = {"set_c": 195.0, "changed": {"width_mm": [400, 380]}, "by_pin": True, "note": "a slip"}
    assert detail_words(detail, METRIC) == (
        "set 195.0 °C; changed width 400.0 mm → 380.0 mm; note a slip"
    )
    assert subject_words("fault case", "Case 2") == "fault case 2"
    assert subject_words("test press", "Test press 53") == "test press 53"
    assert subject_words("press", "Heron") == "press Heron"
    assert detail_words({"set_c": 195.0}, IMPERIAL) == "set 383.0 °F"


def test_a_thing_has_a_history_and_people_s_is_for_leads(browse, leads, technician, element):
    use_setting(technician, element.press, 195.0)
    label = f"presses.press:{element.press_id}"
    assert label in browse.get("/presses/heron/").content.decode()
    assert "195" in room.words(browse.get(f"/history/{label}/"), "table")
    assert "No history yet" in room.words(browse.get("/history/presses.press:0/"))
    of_person = f"/history/accounts.user:{technician.pk}/"
    assert browse.get(of_person).status_code == 403
    assert leads.get(of_person).status_code == 200


def test_the_record_pages_by_key_to_its_first_entry(leads, technician):
    for number in range(2 * PAGE + 3):
        record(technician, f"did {number}", technician)
    address, seen = "/audit/", []
    while address:
        page = room.soup(leads.get(address))
        seen += [row.select("td")[2].text for row in page.select("table tr")[1:]]
        older = page.select_one("a[rel=next]")
        address = f"/audit/{older['href']}" if older else ""
    assert seen == [f"did {number}" for number in reversed(range(2 * PAGE + 3))]


def test_the_record_is_taken_out_as_csv_and_json(leads, technician):
    record(technician, "=set dial", technician, set_c=195.0)
    text = b"".join(leads.get("/audit.csv")).decode()
    (row,) = csv.DictReader(io.StringIO(text))
    assert (row["who"], row["did"]) == ("isla", "'=set dial")
    (entry,) = json.loads(b"".join(leads.get("/audit.json")))["entries"]
    assert entry["detail"] == {"set_c": 195.0}
    assert json.loads(b"".join(leads.get("/audit.json?q=other")))["entries"] == []
    assert leads.get("/audit.xml").status_code == 404


def test_only_leads_look_through_the_whole_record(browse, browse_as, clerk):
    for browser in (browse, browse_as(clerk)):
        for address in ("/audit/", "/audit.csv", "/audit.json"):
            assert browser.get(address).status_code == 403


def test_an_act_by_pin_says_so(lead):
    lead.by_pin = True
    assert record(lead, "set dial", lead).detail == {"by_pin": True}


def test_a_page_of_the_record_reads_an_index(technician):
    with connection.cursor() as cursor:
        cursor.execute("SET LOCAL enable_seqscan = off")
        cursor.execute("SET LOCAL enable_sort = off")
        plan = queries.entries({"who": technician}).explain()
    assert "audit_who" in plan
