"""Due checks as a calendar that calendars can read."""

from datetime import UTC, date, datetime, timedelta

from django.utils import timezone

from tempermark.web.floor.calendar import feed
from tempermark.web.measure.models import Instrument
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
    assert f"DTSTART;VALUE=DATE:{due:%Y%m%d}" in lines[at - 3 : at]
    assert "DESCRIPTION:never measured" in lines
    assert r"SUMMARY:Check Gun 1\; the grey one\, long enough to be folded somewhere ü" in lines
    assert "DTSTART;VALUE=DATE:20260331" in lines
    assert len([line for line in lines if line.startswith("UID:")]) == 3


def test_an_empty_room_is_an_empty_calendar():
    text = feed([], [], datetime(2026, 1, 1, tzinfo=UTC))
    assert "VEVENT" not in text
