"""No file, date or half-kept row stops the room."""

import json
import os
import subprocess
import sys
from datetime import UTC, date, datetime, timedelta
from pathlib import Path

import pytest
from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError, connection
from django.test.utils import CaptureQueriesContext
from django.urls import get_resolver
from django.utils import timezone
from hypothesis import given
from hypothesis import strategies as st
from psycopg.errors import QueryCanceled

import tempermark
from tempermark.core.days import later
from tempermark.core.errors import InputError
from tempermark.core.metrology.press.state import PastSurvey, element_state
from tempermark.core.pressure.press.wear import life
from tempermark.web.kit.errors import server_error
from tempermark.web.kit.forms.moments import DayField, MomentField, read_moment
from tempermark.web.kit.records.audit import AuditEntry
from tempermark.web.measure.models import Survey
from tempermark.web.presses.models import Element, Press, PressEvent
from tests.support import room

pytestmark = pytest.mark.django_db
WRONG_DATES = (
    "9999-12-31T23:59:59",
    "1999-12-31T10:00",
    "0001-01-01T00:00",
    "9999-12-31T23:59-12:00",
)


def survey_file(taken_at):
    readings = [{"x_mm": x, "y_mm": y, "value_c": 190.0} for x in (50, 350) for y in (50, 450)]
    return json.dumps(
        {
            "format": "tempermark.survey/1",
            "quantity": "temperature",
            "platen": {"width_mm": 400, "height_mm": 500},
            "set_c": 195,
            "target_c": 195,
            "tolerance_c": 5,
            "repeatability_c": 0.8,
            "readings": readings,
            "survey": {"taken_at": taken_at},
        }
    )


@given(st.dates(), st.integers(-10_000_000, 10_000_000))
def test_sums_of_days_end_where_the_calendar_does(day, days):
    found = later(day, days)
    assert date.min <= found <= date.max
    assert found in (date.min, date.max) or (found - day).days == days


def test_a_state_and_a_pad_of_the_last_day_are_computed():
    last = PastSurvey(date.max, -5.0, 1.0)
    assert element_state([last], 30, date(2026, 11, 27), 5.0).due_on == date.max
    assert life(date.max, 10, 10, date(2026, 11, 27), 100, 3650).due_on <= date.max


@pytest.mark.parametrize("text", [*WRONG_DATES, "yesterday", "2026-02-30T10:00"])
def test_a_moment_that_cannot_have_been_is_refused_with_its_reason(text):
    with pytest.raises(InputError) as refused:
        read_moment(text, "taken_at")
    assert str(refused.value)


def test_a_little_skew_of_a_clock_is_taken():
    now = timezone.now()
    assert read_moment((now + timedelta(minutes=5)).isoformat())
    with pytest.raises(InputError):
        read_moment((now + timedelta(hours=2)).isoformat())
    assert read_moment("") is read_moment(None) is None


@given(st.text(max_size=60) | st.datetimes().map(str) | st.dates().map(str))
def test_whatever_stands_for_a_date_is_read_or_refused(text):
    for field in (MomentField(required=False), DayField(required=False)):
        try:
            found = field.clean(text)
        except ValidationError:
            continue
        else:
            assert found is None or found.year >= 2000
    try:
        read_moment(text)
    except InputError:
        pass


@pytest.mark.parametrize("text", WRONG_DATES)
def test_a_survey_of_a_day_that_cannot_be_is_not_taken_in(browse, element, text):
    upload = SimpleUploadedFile("survey.json", survey_file(text).encode())
    answer = browse.post("/presses/heron/surveys/import/", {"file": upload})
    said = room.words(answer)
    assert "check the" in said or "no date and time" in said
    assert not Survey.objects.exists()
    assert browse.get("/").status_code == 200


@pytest.mark.parametrize("text", WRONG_DATES)
def test_an_event_of_a_day_that_cannot_be_is_not_taken_in(browse_as, lead, element, text):
    table = f"press,kind,at,note\nHeron,repair,{text},new\n"
    upload = SimpleUploadedFile("events.csv", table.encode())
    answer = browse_as(lead).post("/files/table/", {"table": "events", "file": upload})
    assert answer.status_code in (200, 422)
    assert not PressEvent.objects.exists()
    element.refresh_from_db()
    assert element.map_since is None


def test_a_survey_kept_by_a_wrong_clock_does_not_hide_a_later_truth(technician, browse, element):
    """Its day has not come: the floor tells what was measured until now."""
    wrong = room.survey(technician, element, truth=lambda x, y: 150.0)
    Survey.objects.filter(pk=wrong.pk).update(taken_at=datetime(9999, 12, 31, 22, tzinfo=UTC))
    assert "never surveyed" in room.words(browse.get("/"))
    page = browse.get("/presses/heron/")
    assert "has never been surveyed" in room.words(page, "h1")
    assert "which is still to come: the clock was wrong" in room.words(page)
    room.survey(technician, element, truth=lambda x, y: 195.0)
    assert "true" in room.words(browse.get("/"))


def test_a_clock_that_went_back_is_told(browse, technician, element):
    assert "The clock stands at" not in room.words(browse.get("/"))
    room.survey(technician, element)
    recorded(technician, timezone.now() + timedelta(minutes=5))
    assert "The clock stands at" not in room.words(browse.get("/"))
    recorded(technician, timezone.now() + timedelta(days=400))
    told = room.words(browse.get("/presses/heron/"))
    assert "The clock stands at" in told and "Set the clock of this computer" in told


def recorded(who, at):
    """An entry of a moment: the record takes new ones only."""
    AuditEntry.objects.create(who=who, did="set dial", subject="presses.press:1", at=at)


def pages_of_a_press():
    """Every page of one press that a link can open, by its pattern."""
    found = []
    for included in get_resolver().url_patterns:
        for pattern in getattr(included, "url_patterns", []):
            route = str(pattern.pattern)
            if route.startswith("presses/<slug:slug>/") and route.count("<") == 1:
                found.append("/" + route.replace("<slug:slug>", "heron"))
    return found


def test_a_press_without_an_element_has_its_pages(browse, browse_as, lead, element):
    Element.objects.update(taken_out_on=timezone.localdate())
    bare = Press.objects.create(name="Bare", slug="bare", kind="draw")
    pages = pages_of_a_press()
    assert len(pages) > 15
    leads = browse_as(lead)
    for page in pages:
        for address in (page, page.replace("heron", bare.slug)):
            assert leads.get(address).status_code in (200, 204, 302, 404, 405), address
            if not address.endswith("/live/stream/"):
                assert browse.get(address).status_code in (200, 204, 302, 403, 404, 405), address
    for address in ("/", "/recipes/dye-on-a-polyester-vest/heat/", "/windows/", "/lessons/"):
        assert browse.get(address).status_code in (200, 404), address


def test_an_error_page_asks_nothing_of_the_room(browse, element):
    """Who is asking is looked up before; the strip of presses is not."""
    with CaptureQueriesContext(connection) as asked:
        answer = browse.get("/no/such/page/")
    assert answer.status_code == 404
    assert not [q["sql"] for q in asked if "presses_" in q["sql"]]
    with CaptureQueriesContext(connection) as asked:
        assert browse.get("/").status_code == 200
    assert [q["sql"] for q in asked if "presses_" in q["sql"]]


@pytest.mark.parametrize("address", ["/presses/none/", "/cases/99999999999999/"])
def test_an_error_page_has_no_strip(browse, element, address):
    answer = browse.get(address)
    assert answer.status_code == 404
    assert not room.soup(answer).select_one("nav")


def test_the_page_of_a_failure_needs_no_database(rf, django_db_blocker):
    with django_db_blocker.block():
        answer = server_error(rf.get("/"))
    assert answer.status_code == 500
    assert "Something went wrong here" in answer.content.decode()


def test_a_database_that_is_away_is_said(rf, django_db_blocker):
    with django_db_blocker.block():
        try:
            raise OperationalError("connection refused")
        except OperationalError:
            answer = server_error(rf.get("/"))
    assert answer.status_code == 503
    assert answer["Retry-After"]
    assert "The database does not answer" in answer.content.decode()
    assert "refused" not in answer.content.decode()


def test_a_page_that_the_database_could_not_give_asks_again_by_itself(rf):
    for method, refreshes in (("get", True), ("post", False)):
        try:
            raise OperationalError("canceling statement") from QueryCanceled()
        except OperationalError:
            answer = server_error(getattr(rf, method)("/"))
        assert answer.status_code == 503
        assert answer.has_header("Refresh") is refreshes
        assert "too busy" in answer.content.decode()


def test_a_statement_of_the_web_server_has_an_end_and_that_of_a_command_has_none():
    code = "from django.conf import settings as s; print(s.DATABASES['default']['OPTIONS'])"
    for web, bounded in (("1", True), ("", False)):
        env = {**os.environ, "TEMPERMARK_WEB": web}
        env |= {"DJANGO_SETTINGS_MODULE": "tempermark.web.settings.demo"}
        env |= {"PYTHONPATH": str(Path(tempermark.__path__[0]).parent)}
        done = subprocess.run(
            [sys.executable, "-c", code], env=env, capture_output=True, text=True, check=True
        )
        assert ("statement_timeout=20s" in done.stdout) is bounded
        assert ("lock_timeout=8s" in done.stdout) is bounded
