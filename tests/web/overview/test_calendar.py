"""Due checks as a calendar that calendars can read."""

from datetime import UTC, date, datetime, timedelta

from django.utils import timezone

from tempermark.web.measure.models import Instrument
from tempermark.web.overview.calendar import feed
from tempermark.web.presses.models import Press
from tests.support import room


def unfolded(response):
    text = response.content.decode()
    assert all(len(line.encode()) <= 75 for line in text.split("\r\n"))
    return text.replace("\r\n ", "").split("\r\n")


def test_surveys_and_checks_stand_on_their_days(browse, technician, element):
    room.survey(technician, element, days_ago=3)
    room.element("Wren", place=2)
    Instrument.objects.create(
        name="Gun 1; the grey one, long enough to be folded somewhere ü",
        kind="infrared",
        checked_on=date(2026, 3, 1),
        check_every_days=30,
    )
    lines = unfolded(browse.get("/due.ics"))
    assert (lines[0], lines[-2], lines[-1]) == ("BEGIN:VCALENDAR", "END:VCALENDAR", "")
    due = timezone.localdate() + timedelta(days=27)
    at = lines.index("SUMMARY:Survey Heron")
    begins = max(n for n, line in enumerate(lines[:at]) if line == "BEGIN:VEVENT")
    assert f"DTSTART;VALUE=DATE:{due:%Y%m%d}" in lines[begins : lines.index("END:VEVENT", at)]
    assert "DESCRIPTION:never surveyed" in lines
    assert r"SUMMARY:Check Gun 1\; the grey one\, long enough to be folded somewhere ü" in lines
    assert "DTSTART;VALUE=DATE:20260331" in lines
    assert len([line for line in lines if line.startswith("UID:")]) == 3


def test_an_empty_room_is_an_empty_calendar():
    text = feed([], [], [], datetime(2026, 1, 1, tzinfo=UTC))
    assert "VEVENT" not in text


def address(browse):
    page = room.soup(browse.get("/files/"))
    return page.select_one(".mono").text.strip().removeprefix("http://testserver")


def test_a_calendar_subscribes_without_signing_in(browse, client, element):
    path = address(browse)
    client.logout()
    answer = client.get(path)
    assert answer["Content-Type"].startswith("text/calendar")
    assert "SUMMARY:Survey Heron" in answer.content.decode()
    assert client.get("/presses/heron/").status_code == 302


def test_a_new_address_ends_the_old_one(browse, element):
    old = address(browse)
    browse.post("/due/new-address/")
    assert browse.get(old).status_code == 404
    assert browse.get(address(browse)).status_code == 200


def test_a_forged_address_or_a_person_who_left_gets_nothing(browse, element, technician):
    path = address(browse)
    assert browse.get(path.replace(".ics", "x.ics")).status_code == 404
    assert browse.get("/due/abc.ics").status_code == 404
    technician.is_active = False
    technician.save()
    assert browse.get(path).status_code == 404


def test_a_pad_at_its_end_is_in_the_calendar(browse, technician, element):
    Press.objects.update(pad="silicone", pad_since=timezone.localdate() - timedelta(days=720))
    text = browse.get("/due.ics").content.decode()
    assert "SUMMARY:Change the pad of Heron" in text
    assert "past its age then" in text
